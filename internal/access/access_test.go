package access

import (
	"crypto/x509"
	"encoding/pem"
	"errors"
	"fmt"
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
	if _, _, err := g.Pair("", "x", "192.0.2.1"); !errors.Is(err, ErrWrong) {
		t.Errorf("no word was made, yet: %v", err)
	}
	*now = now.Add(time.Minute)
	word, until := g.NewWord()
	if !until.Equal(now.Add(WordLasts)) || len(word) != 9 {
		t.Errorf("%s until %v", word, until)
	}
	token, d, err := g.Pair(strings.ToLower(strings.ReplaceAll(word, "-", " ")), " the phone ", "192.0.2.1")
	if err != nil || d.Name != "the phone" {
		t.Fatal(err)
	}
	if _, _, err := g.Pair(word, "another", "192.0.2.1"); !errors.Is(err, ErrWrong) {
		t.Errorf("it opened twice: %v", err)
	}
	*now = now.Add(time.Hour)
	word, _ = g.NewWord()
	*now = now.Add(WordLasts)
	if _, _, err := g.Pair(word, "late", "192.0.2.1"); !errors.Is(err, ErrWrong) {
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
		if _, _, err := g.Pair("wrong", "x", "192.0.2.1"); !errors.Is(err, ErrWrong) {
			t.Fatal(err)
		}
		var wait *WaitError
		if _, _, err := g.Pair(word, "x", "192.0.2.1"); !errors.As(err, &wait) {
			t.Fatalf("the right one is looked at before its time: %v", err)
		}
		waited += wait.For
		*now = now.Add(wait.For)
	}
	if waited != 63*time.Second {
		t.Errorf("six wrong ones take %v", waited)
	}
	if _, _, err := g.Pair(word, "x", "192.0.2.1"); err != nil {
		t.Errorf("the right one afterwards: %v", err)
	}
}

// A stranger's wrong words make the stranger wait, and neither void the owner's word nor make the owner wait. From very many addresses
// together the word is not guessed either.
func TestAStrangersWrongWordsAreTheirOwn(t *testing.T) {
	g, _, _ := guarded(t)
	word, _ := g.NewWord()
	for range 30 {
		_, _, _ = g.Pair("wrong", "x", "192.0.2.66")
	}
	if _, _, err := g.Pair(word, "phone", "192.0.2.1"); err != nil {
		t.Errorf("the owner's word: %v", err)
	}
	word, _ = g.NewWord()
	for i := range mostWrong {
		_, _, _ = g.Pair("wrong", "x", fmt.Sprintf("198.51.100.%d", i))
	}
	if _, _, err := g.Pair(word, "x", "192.0.2.1"); !errors.Is(err, ErrWrong) || len(g.wrong) > mostAddresses+1 {
		t.Errorf("the word outlives %d wrong ones, from %d addresses: %v", mostWrong, len(g.wrong), err)
	}
}

// A passphrase that another program sets while this one runs is taken at once, and what this one writes afterwards does not bring the
// old one back.
func TestAPassphraseThatIsSetMeanwhileStays(t *testing.T) {
	g, now, dir := guarded(t)
	if err := g.SetPassphrase("reeds by the quay"); err != nil {
		t.Fatal(err)
	}
	token, d, err := g.Pair("reeds by the quay", "tablet", "192.0.2.1")
	if err != nil {
		t.Fatal(err)
	}
	other, err := Open(dir, func() time.Time { return *now })
	if err != nil {
		t.Fatal(err)
	}
	if err := other.SetPassphrase("another one of words"); err != nil {
		t.Fatal(err)
	}
	*now = now.Add(time.Hour)
	if _, ok := g.Known(token); !ok { // writes when the device was here
		t.Error("the tablet is not known any more")
	}
	if _, _, err := g.Pair("another one of words", "phone", "192.0.2.1"); err != nil {
		t.Errorf("the new passphrase: %v", err)
	}
	if _, _, err := g.Pair("reeds by the quay", "x", "192.0.2.2"); !errors.Is(err, ErrWrong) {
		t.Errorf("the old passphrase: %v", err)
	}
	if again, err := Open(dir, time.Now); err != nil || len(again.Devices()) != 2 || again.Devices()[0].ID != d.ID {
		t.Errorf("%v", err)
	}
	if err := other.RemoveAll(); err != nil {
		t.Fatal(err)
	}
	if _, ok := g.Known(token); ok || len(g.Devices()) != 0 {
		t.Error("a removed device comes in")
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
		if _, _, err := g.Pair("reeds by the quay", "tablet", "192.0.2.1"); err != nil {
			t.Fatal(err)
		}
	}
	if _, _, err := g.Pair("Reeds by the quay", "x", "192.0.2.1"); !errors.Is(err, ErrWrong) {
		t.Error("another passphrase opens")
	}
	*now = now.Add(time.Hour)
	for range MostDevices {
		word, _ := g.NewWord()
		g.Pair(word, "many", "192.0.2.1")
	}
	if n := len(g.Devices()); n != MostDevices || g.Devices()[0].Token != "" {
		t.Errorf("%d devices", n)
	}
	os.WriteFile(filepath.Join(dir, FileName), []byte("{"), 0o600)
	torn, err := Open(dir, time.Now)
	if err != nil || torn.Aside == "" || torn.HasPassphrase() || len(torn.Devices()) != 0 {
		t.Errorf("a torn file: %v", err)
	}
	if _, err := os.Stat(torn.Aside); err != nil {
		t.Errorf("it is not set aside: %v", err)
	}
}

func TestACertificateIsMadeForTheAddressesAndKept(t *testing.T) {
	dir, now := t.TempDir(), time.Now()
	here := []net.IP{net.IPv4(192, 168, 2, 7)}
	c, err := Certificate(dir, here, now)
	if err != nil {
		t.Fatal(err)
	}
	x, err := x509.ParseCertificate(c.Certificate[0])
	if err != nil || x.VerifyHostname("192.168.2.7") != nil || x.VerifyHostname("localhost") != nil ||
		x.VerifyHostname("192.168.2.8") == nil ||
		x.NotAfter.Sub(x.NotBefore) > 825*24*time.Hour {
		t.Errorf("%v %v", x, err)
	}
	again, err := Certificate(dir, here, now)
	if err != nil || Fingerprint(again) != Fingerprint(c) || len(Fingerprint(c)) != 95 {
		t.Errorf("made anew: %s", Fingerprint(again))
	}
	other, _ := Certificate(dir, append(here, net.IPv4(192, 168, 2, 8)), now)
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

// A device that trusts the notebook's authority trusts its certificate, also one that is made anew for another address.
func TestACertificateIsSignedByTheNotebooksAuthority(t *testing.T) {
	dir, now := t.TempDir(), time.Now()
	trusted := func(ip net.IP) error {
		c, err := Certificate(dir, []net.IP{ip}, now)
		if err != nil {
			t.Fatal(err)
		}
		x, err := x509.ParseCertificate(c.Certificate[0])
		if err != nil {
			t.Fatal(err)
		}
		pool := x509.NewCertPool()
		if !pool.AppendCertsFromPEM(Root(dir)) {
			t.Fatal("no authority")
		}
		_, err = x.Verify(x509.VerifyOptions{Roots: pool, DNSName: ip.String(), CurrentTime: now})
		return err
	}
	if err := trusted(net.IPv4(192, 168, 2, 7)); err != nil {
		t.Error(err)
	}
	root := string(Root(dir))
	if err := trusted(net.IPv4(192, 168, 2, 8)); err != nil || string(Root(dir)) != root {
		t.Errorf("for another address: %v", err)
	}
	for _, name := range []string{RootName, "reed.root-key.pem", "reed.key.pem"} {
		if info, err := os.Stat(filepath.Join(dir, name)); err != nil || info.Mode().Perm() != 0o600 {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// Whoever gets hold of the authority's key can stand for no site of the internet on a device that trusts it.
func TestTheAuthorityVouchesForLocalNetworksAlone(t *testing.T) {
	dir, now := t.TempDir(), time.Now()
	here := []net.IP{net.IPv4(203, 0, 113, 9), net.IPv4(10, 1, 2, 3), net.ParseIP("fd00::7"), net.ParseIP("2001:db8::1")}
	c, err := Certificate(dir, here, now)
	if err != nil {
		t.Fatal(err)
	}
	x, _ := x509.ParseCertificate(c.Certificate[0])
	root, key, err := authority(dir, now)
	if err != nil {
		t.Fatal(err)
	}
	pool := x509.NewCertPool()
	pool.AddCert(root)
	for _, at := range []string{"10.1.2.3", "fd00::7", "localhost"} {
		if _, err := x.Verify(x509.VerifyOptions{Roots: pool, DNSName: at, CurrentTime: now}); err != nil {
			t.Errorf("%s: %v", at, err)
		}
	}
	for _, forged := range []x509.Certificate{{DNSNames: []string{"harbour.example"}}, {IPAddresses: []net.IP{net.IPv4(203, 0, 113, 9)}}} {
		forged.NotBefore, forged.NotAfter = now, now.AddDate(1, 0, 0)
		text, _, err := signed(forged, root, key)
		if err != nil {
			t.Fatal(err)
		}
		block, _ := pem.Decode(text)
		f, _ := x509.ParseCertificate(block.Bytes)
		if _, err := f.Verify(x509.VerifyOptions{Roots: pool, CurrentTime: now}); err == nil {
			t.Errorf("%v %v: trusted", f.DNSNames, f.IPAddresses)
		}
	}
}
