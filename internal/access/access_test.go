package access

import (
	"crypto/x509"
	"errors"
	"net"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// guarded is a guard whose clock the test sets.
func guarded(t *testing.T) (*Guard, *time.Time, string) {
	t.Helper()
	now := time.Date(2026, 5, 16, 12, 0, 0, 0, time.UTC)
	dir := t.TempDir()
	g, err := Open(dir, func() time.Time { return now })
	if err != nil {
		t.Fatal(err)
	}
	return g, &now, dir
}

func TestAWordOpensOnceAndForAWhile(t *testing.T) {
	g, now, dir := guarded(t)
	if _, _, err := g.Pair("", "x"); !errors.Is(err, ErrWrong) {
		t.Errorf("no word was made, yet: %v", err)
	}
	*now = now.Add(time.Minute)
	word, until := g.NewWord()
	if !until.Equal(now.Add(WordLasts)) || len(word) != 9 {
		t.Errorf("%s until %v", word, until)
	}
	token, d, err := g.Pair(strings.ToLower(strings.ReplaceAll(word, "-", " ")), " the phone ")
	if err != nil || d.Name != "the phone" {
		t.Fatal(err)
	}
	if _, _, err := g.Pair(word, "another"); !errors.Is(err, ErrWrong) {
		t.Errorf("it opened twice: %v", err)
	}
	*now = now.Add(time.Hour)
	word, _ = g.NewWord()
	*now = now.Add(WordLasts)
	if _, _, err := g.Pair(word, "late"); !errors.Is(err, ErrWrong) {
		t.Errorf("it opened after its time: %v", err)
	}
	// The token is known also after a start, and is not in the file.
	again, err := Open(dir, func() time.Time { return *now })
	if err != nil {
		t.Fatal(err)
	}
	if known, ok := again.Known(token); !ok || known.ID != d.ID || !known.Seen.Equal(*now) {
		t.Errorf("%+v %v", known, ok)
	}
	data, _ := os.ReadFile(filepath.Join(dir, FileName))
	info, _ := os.Stat(filepath.Join(dir, FileName))
	if strings.Contains(string(data), token) || info.Mode().Perm() != 0o600 {
		t.Errorf("%v\n%s", info.Mode(), data)
	}
	for _, wrong := range []string{"", "x", token[1:], token + "0"} {
		if _, ok := again.Known(wrong); ok {
			t.Errorf("%q is known", wrong)
		}
	}
	if ok, err := again.Remove(d.ID); !ok || err != nil {
		t.Fatal(err)
	}
	if _, ok := again.Known(token); ok {
		t.Error("a device that was taken out comes in")
	}
	if ok, _ := again.Remove(d.ID); ok {
		t.Error("it was taken out twice")
	}
}

func TestWrongWordsAreSlowedDown(t *testing.T) {
	g, now, _ := guarded(t)
	word, _ := g.NewWord()
	var waited time.Duration
	for range 6 {
		if _, _, err := g.Pair("wrong", "x"); !errors.Is(err, ErrWrong) {
			t.Fatal(err)
		}
		var wait *WaitError
		if _, _, err := g.Pair(word, "x"); !errors.As(err, &wait) {
			t.Fatalf("the right one is looked at before its time: %v", err)
		}
		waited += wait.For
		*now = now.Add(wait.For)
	}
	if waited != 63*time.Second {
		t.Errorf("six wrong ones take %v", waited)
	}
	if _, _, err := g.Pair(word, "x"); err != nil {
		t.Errorf("the right one afterwards: %v", err)
	}
	// Ten wrong ones close the word.
	word, _ = g.NewWord()
	for range 10 {
		g.Pair("wrong", "x")
		*now = now.Add(slowest)
		g.until = now.Add(WordLasts)
	}
	if _, _, err := g.Pair(word, "x"); !errors.Is(err, ErrWrong) {
		t.Errorf("the word outlives ten wrong ones: %v", err)
	}
}

func TestAPassphraseIsKeptStretched(t *testing.T) {
	g, now, dir := guarded(t)
	if err := g.SetPassphrase("too short"); err == nil || g.HasPassphrase() {
		t.Error("a short one is kept")
	}
	if err := g.SetPassphrase("reeds by the quay"); err != nil || !g.HasPassphrase() {
		t.Fatal(err)
	}
	data, _ := os.ReadFile(filepath.Join(dir, FileName))
	if !strings.Contains(string(data), "argon2id$3$65536$4$") || strings.Contains(string(data), "quay") {
		t.Errorf("%s", data)
	}
	for range 2 {
		if _, _, err := g.Pair("reeds by the quay", "tablet"); err != nil {
			t.Fatal(err)
		}
	}
	if _, _, err := g.Pair("Reeds by the quay", "x"); !errors.Is(err, ErrWrong) {
		t.Error("another passphrase opens")
	}
	*now = now.Add(time.Hour)
	for range MostDevices {
		word, _ := g.NewWord()
		g.Pair(word, "many")
	}
	if n := len(g.Devices()); n != MostDevices || g.Devices()[0].Token != "" {
		t.Errorf("%d devices", n)
	}
	os.WriteFile(filepath.Join(dir, FileName), []byte("{"), 0o600)
	if _, err := Open(dir, time.Now); err == nil {
		t.Error("a damaged file lets nobody know")
	}
}

func TestACertificateIsMadeForTheAddressesAndKept(t *testing.T) {
	dir, now := t.TempDir(), time.Now()
	here := []net.IP{net.IPv4(192, 0, 2, 7)}
	c, err := Certificate(dir, here, now)
	if err != nil {
		t.Fatal(err)
	}
	x, err := x509.ParseCertificate(c.Certificate[0])
	if err != nil || x.VerifyHostname("192.0.2.7") != nil || x.VerifyHostname("localhost") != nil || x.VerifyHostname("192.0.2.8") == nil ||
		x.NotAfter.Sub(x.NotBefore) > 825*24*time.Hour {
		t.Errorf("%v %v", x, err)
	}
	again, err := Certificate(dir, here, now)
	if err != nil || Fingerprint(again) != Fingerprint(c) || len(Fingerprint(c)) != 95 {
		t.Errorf("made anew: %s", Fingerprint(again))
	}
	other, _ := Certificate(dir, append(here, net.IPv4(192, 0, 2, 8)), now)
	if Fingerprint(other) == Fingerprint(c) {
		t.Error("an address is missing in it")
	}
	if later, _ := Certificate(dir, here, now.AddDate(2, 0, 0)); Fingerprint(later) == Fingerprint(other) {
		t.Error("it has run out")
	}
	if info, err := os.Stat(filepath.Join(dir, "reed.key.pem")); err != nil || info.Mode().Perm() != 0o600 {
		t.Error(info.Mode(), err)
	}
}
func TestOnlyAddressesThatOthersReachAreTold(t *testing.T) {
	found, err := Addresses()
	if err != nil {
		t.Fatal(err)
	}
	for _, ip := range found {
		if ip.IsLoopback() || ip.IsLinkLocalUnicast() || ip.IsUnspecified() {
			t.Errorf("%v is told", ip)
		}
	}
}
