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
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gofrs/flock"
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

// Guard keeps who may come in. It may be used by many at once, and by several programs on one data folder.
type Guard struct {
	path  string
	now   func() time.Time
	mu    sync.Mutex
	kept  file
	seen  stamp // the file as it was read last
	word  string
	until time.Time
	wrong map[string]attempts // by the address that they came from
	all   int                 // wrong words since the last right one
	// Aside is where a file was moved to that could not be read, empty for none.
	Aside string
}

// attempts are an address's wrong words, and until when it waits for them.
type attempts struct {
	wrong int
	shut  time.Time
}

// stamp tells whether a file was written anew.
type stamp struct {
	at   time.Time
	size int64
}

// Open reads who may come in from a data folder. A file that cannot be read is set aside: nobody is let in by it.
func Open(dir string, now func() time.Time) (*Guard, error) {
	g := &Guard{path: filepath.Join(dir, FileName), now: now, wrong: map[string]attempts{}}
	err := g.load()
	var torn *tornError
	if errors.As(err, &torn) {
		g.Aside = g.path + ".damaged-" + now().UTC().Format("20060102T150405")
		g.kept = file{}
		err = os.Rename(g.path, g.Aside)
	}
	if err != nil {
		return nil, err
	}
	return g, nil
}

// tornError says that the file is there and is not what is written there.
type tornError struct{ err error }

func (e *tornError) Error() string { return "reading who may come in: " + e.err.Error() }

// load reads the file.
func (g *Guard) load() error {
	data, err := os.ReadFile(g.path)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		g.kept, g.seen = file{}, stamp{}
		return nil
	case err != nil:
		return fmt.Errorf("reading who may come in: %w", err)
	}
	var next file
	if err := json.Unmarshal(data, &next); err != nil {
		return &tornError{err}
	}
	g.kept, g.seen = next, stampOf(g.path)
	return nil
}

func stampOf(path string) stamp {
	info, err := os.Stat(path)
	if err != nil {
		return stamp{}
	}
	return stamp{info.ModTime(), info.Size()}
}

// refresh reads the file again where another program wrote it. What cannot be read is left until it can.
func (g *Guard) refresh() {
	if stampOf(g.path) != g.seen {
		_ = g.load()
	}
}

// change changes what is kept: under a lock that other programs hold too, and from what is in the file by then.
func (g *Guard) change(how func(*file)) error {
	lock := flock.New(g.path+".lock", flock.SetPermissions(0o600))
	if err := lock.Lock(); err != nil {
		return fmt.Errorf("keeping who may come in: %w", err)
	}
	defer lock.Close()
	if err := g.load(); err != nil {
		return err
	}
	how(&g.kept)
	return g.save()
}

// save writes the file anew, whole or not at all, and on the disk before it takes the place of the other.
func (g *Guard) save() error {
	data, err := json.MarshalIndent(g.kept, "", "  ")
	if err != nil {
		return err
	}
	next := g.path + ".next"
	f, err := os.OpenFile(next, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return fmt.Errorf("keeping who may come in: %w", err)
	}
	_, err = f.Write(data)
	if err := errors.Join(err, f.Sync(), f.Close()); err != nil {
		return fmt.Errorf("keeping who may come in: %w", err)
	}
	if err := os.Rename(next, g.path); err != nil {
		return fmt.Errorf("keeping who may come in: %w", err)
	}
	g.seen = stampOf(g.path)
	return nil
}

// HasPassphrase reports whether one was set.
func (g *Guard) HasPassphrase() bool {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.refresh()
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
	kept := "argon2id$3$65536$4$" + base64.RawStdEncoding.EncodeToString(salt) + "$" +
		base64.RawStdEncoding.EncodeToString(stretched(text, salt))
	return g.change(func(f *file) { f.Passphrase = kept })
}

// RemoveAll takes the tokens of all devices away.
func (g *Guard) RemoveAll() error {
	g.mu.Lock()
	defer g.mu.Unlock()
	return g.change(func(f *file) { f.Devices = nil })
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

// Bounds of wrong words: from how many addresses they are counted one by one, and how many from all of them void the pairing word.
const (
	mostAddresses = 1000
	mostWrong     = 1000
)

// Pair lets a device in by the pairing word or the passphrase, and gives it its token. from is the address that it comes from: whoever
// is wrong waits, and nobody else does.
func (g *Guard) Pair(secret, name, from string) (token string, d Device, err error) {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.refresh()
	now := g.now()
	tried := g.wrong[from]
	if wait := tried.shut.Sub(now); wait > 0 {
		return "", d, &WaitError{wait}
	}
	byWord := g.word != "" && now.Before(g.until) && subtle.ConstantTimeCompare([]byte(plain(secret)), []byte(plain(g.word))) == 1
	if !byWord && !g.isPassphrase(secret) {
		g.missed(from, tried, now)
		return "", d, ErrWrong
	}
	if len(g.kept.Devices) >= MostDevices {
		return "", d, fmt.Errorf("%d devices are let in; take one out in Settings first", MostDevices)
	}
	if byWord {
		g.word = ""
	}
	delete(g.wrong, from)
	g.all = 0
	raw := make([]byte, 32)
	rand.Read(raw)
	token = hex.EncodeToString(raw)
	id, err := uuid.NewV7()
	if err != nil {
		return "", d, err
	}
	d = Device{ID: id.String(), Name: strings.TrimSpace(name), Since: now, Seen: now, Token: hashed(token)}
	return token, d, g.change(func(f *file) { f.Devices = append(f.Devices, d) })
}

// missed counts a wrong word: its address waits one, two, four seconds and so on. A word of eight letters is not guessed in its
// quarter of an hour, and from a thousand addresses it is void after a thousand tries.
func (g *Guard) missed(from string, tried attempts, now time.Time) {
	tried.wrong++
	tried.shut = now.Add(min(time.Second<<min(tried.wrong-1, 20), slowest))
	if _, known := g.wrong[from]; !known && len(g.wrong) >= mostAddresses {
		for other, a := range g.wrong {
			if a.shut.Before(now) || len(g.wrong) >= mostAddresses {
				delete(g.wrong, other)
			}
		}
	}
	g.wrong[from] = tried
	if g.all++; g.all >= mostWrong {
		g.word = ""
	}
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
	g.refresh()
	for i := range g.kept.Devices {
		d := &g.kept.Devices[i]
		if subtle.ConstantTimeCompare([]byte(d.Token), []byte(want)) != 1 {
			continue
		}
		if now := g.now(); now.Sub(d.Seen) > seenEvery {
			d.Seen = now
			id := d.ID
			// When it was last here is no reason to turn it away.
			_ = g.change(func(f *file) {
				for k := range f.Devices {
					if f.Devices[k].ID == id {
						f.Devices[k].Seen = now
					}
				}
			})
			return Device{ID: id, Name: d.Name, Since: d.Since, Seen: now, Token: want}, true
		}
		return *d, true
	}
	return Device{}, false
}

// Devices lists those that were let in, without their tokens.
func (g *Guard) Devices() []Device {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.refresh()
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
	err = g.change(func(f *file) {
		n := len(f.Devices)
		f.Devices = slices.DeleteFunc(f.Devices, func(d Device) bool { return d.ID == id })
		ok = len(f.Devices) < n
	})
	return ok, err
}
