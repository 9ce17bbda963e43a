// Package access decides which devices beside the machine itself may use the notebook: those that were let in once by
// a one-time pairing word or by the passphrase, and were given a token then. What it keeps is a small file of its own,
// so that neither a backup nor a restore carries who may come in.
package access

import (
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"
	"golang.org/x/crypto/argon2"
)

// FileName is the file's name in the data folder.
const FileName = "reed.access"

const (
	// WordLasts is how long a pairing word opens.
	WordLasts = 15 * time.Minute
	// MostDevices is how many may be let in.
	MostDevices = 50
	// LeastPassphrase is the least number of characters of a passphrase.
	LeastPassphrase = 10
	slowest         = 5 * time.Minute
	seenEvery       = time.Minute
)

// ErrWrong says that neither the word nor the passphrase was right.
var ErrWrong = errors.New("this is neither the pairing word nor the passphrase")

// WaitError says that after wrong ones nothing is looked at for a while.
type WaitError struct{ For time.Duration }

func (e *WaitError) Error() string {
	return fmt.Sprintf("after wrong ones the next is looked at in %d s", int(e.For.Seconds())+1)
}

// Device is one that was let in.
type Device struct {
	ID    string    `json:"id"`
	Name  string    `json:"name"`
	Since time.Time `json:"since"`
	Seen  time.Time `json:"seen"`
	Token string    `json:"token"` // the SHA-256 of its token
}

type file struct {
	Passphrase string   `json:"passphrase,omitempty"`
	Devices    []Device `json:"devices"`
}

// Guard keeps who may come in. It may be used by many at once.
type Guard struct {
	path  string
	now   func() time.Time
	mu    sync.Mutex
	kept  file
	word  string
	until time.Time
	wrong int
	shut  time.Time
}

// Open reads who may come in from a data folder.
func Open(dir string, now func() time.Time) (*Guard, error) {
	g := &Guard{path: filepath.Join(dir, FileName), now: now}
	data, err := os.ReadFile(g.path)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return g, nil
	case err != nil:
		return nil, fmt.Errorf("reading who may come in: %w", err)
	}
	if err := json.Unmarshal(data, &g.kept); err != nil {
		return nil, fmt.Errorf("reading who may come in (%s): %w", g.path, err)
	}
	return g, nil
}

// save writes the file anew, whole or not at all.
func (g *Guard) save() error {
	data, err := json.MarshalIndent(g.kept, "", "  ")
	if err != nil {
		return err
	}
	next := g.path + ".next"
	if err := os.WriteFile(next, data, 0o600); err != nil {
		return fmt.Errorf("keeping who may come in: %w", err)
	}
	return os.Rename(next, g.path)
}

// HasPassphrase reports whether one was set.
func (g *Guard) HasPassphrase() bool {
	g.mu.Lock()
	defer g.mu.Unlock()
	return g.kept.Passphrase != ""
}

// SetPassphrase keeps a passphrase, as argon2id (RFC 9106, its second recommended choice).
func (g *Guard) SetPassphrase(text string) error {
	if len([]rune(text)) < LeastPassphrase {
		return fmt.Errorf("a passphrase has %d characters or more; a few words will do", LeastPassphrase)
	}
	salt := make([]byte, 16)
	rand.Read(salt)
	g.mu.Lock()
	defer g.mu.Unlock()
	g.kept.Passphrase = "argon2id$3$65536$4$" + base64.RawStdEncoding.EncodeToString(salt) + "$" +
		base64.RawStdEncoding.EncodeToString(stretched(text, salt))
	return g.save()
}

func stretched(text string, salt []byte) []byte {
	return argon2.IDKey([]byte(text), salt, 3, 64<<10, 4, 32)
}

func (g *Guard) isPassphrase(text string) bool {
	parts := strings.Split(g.kept.Passphrase, "$")
	if len(parts) != 6 {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	return err1 == nil && err2 == nil && subtle.ConstantTimeCompare(stretched(text, salt), want) == 1
}

// letters of a pairing word: none that is taken for another.
const letters = "ABCDEFGHJKMNPQRSTVWXYZ23456789"

// NewWord makes the pairing word anew; it opens once, within WordLasts.
func (g *Guard) NewWord() (word string, until time.Time) {
	b := make([]byte, 0, 9)
	for len(b) < 9 {
		var r [1]byte
		rand.Read(r[:])
		if int(r[0]) >= 256/len(letters)*len(letters) {
			continue // so that every letter is as likely
		}
		if len(b) == 4 {
			b = append(b, '-')
		}
		b = append(b, letters[int(r[0])%len(letters)])
	}
	g.mu.Lock()
	defer g.mu.Unlock()
	g.word, g.until = string(b), g.now().Add(WordLasts)
	return g.word, g.until
}

func plain(word string) string {
	return strings.ToUpper(strings.NewReplacer("-", "", " ", "").Replace(word))
}

// Pair lets a device in by the pairing word or the passphrase, and gives it its token.
func (g *Guard) Pair(secret, name string) (token string, d Device, err error) {
	g.mu.Lock()
	defer g.mu.Unlock()
	now := g.now()
	if wait := g.shut.Sub(now); wait > 0 {
		return "", d, &WaitError{wait}
	}
	byWord := g.word != "" && now.Before(g.until) && subtle.ConstantTimeCompare([]byte(plain(secret)), []byte(plain(g.word))) == 1
	if !byWord && !g.isPassphrase(secret) {
		// One, two, four seconds and so on: a word of eight letters is not guessed in its quarter of an hour.
		g.wrong++
		g.shut = now.Add(min(time.Second<<min(g.wrong-1, 20), slowest))
		if g.wrong >= 10 {
			g.word = ""
		}
		return "", d, ErrWrong
	}
	if len(g.kept.Devices) >= MostDevices {
		return "", d, fmt.Errorf("%d devices are let in; take one out in Settings first", MostDevices)
	}
	if byWord {
		g.word = ""
	}
	g.wrong = 0
	raw := make([]byte, 32)
	rand.Read(raw)
	token = hex.EncodeToString(raw)
	id, err := uuid.NewV7()
	if err != nil {
		return "", d, err
	}
	d = Device{ID: id.String(), Name: strings.TrimSpace(name), Since: now, Seen: now, Token: hashed(token)}
	g.kept.Devices = append(g.kept.Devices, d)
	return token, d, g.save()
}

func hashed(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// Known finds the device of a token, and notes that it was here.
func (g *Guard) Known(token string) (Device, bool) {
	if token == "" {
		return Device{}, false
	}
	want := hashed(token)
	g.mu.Lock()
	defer g.mu.Unlock()
	for i := range g.kept.Devices {
		d := &g.kept.Devices[i]
		if subtle.ConstantTimeCompare([]byte(d.Token), []byte(want)) != 1 {
			continue
		}
		if now := g.now(); now.Sub(d.Seen) > seenEvery {
			d.Seen = now
			_ = g.save() // when it was last here is no reason to turn it away
		}
		return *d, true
	}
	return Device{}, false
}

// Devices lists those that were let in, without their tokens.
func (g *Guard) Devices() []Device {
	g.mu.Lock()
	defer g.mu.Unlock()
	out := []Device{}
	for _, d := range g.kept.Devices {
		d.Token = ""
		out = append(out, d)
	}
	return out
}

// Remove takes a device's token away; ok is false when there is none with this id.
func (g *Guard) Remove(id string) (ok bool, err error) {
	g.mu.Lock()
	defer g.mu.Unlock()
	for i, d := range g.kept.Devices {
		if d.ID == id {
			g.kept.Devices = append(g.kept.Devices[:i:i], g.kept.Devices[i+1:]...)
			return true, g.save()
		}
	}
	return false, nil
}
