package access

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

// RootName is the file of the notebook's own certificate authority: what a device has to trust once.
const RootName = "reed.root.pem"

// Certificate is the certificate of this machine on its networks, signed by the notebook's own authority. Both are made once; the
// certificate is made anew for other addresses, and before its time is over. A device that trusts the authority trusts it still.
func Certificate(dir string, addresses []net.IP, now time.Time) (tls.Certificate, error) {
	root, rootKey, err := authority(dir, now)
	if err != nil {
		return tls.Certificate{}, err
	}
	addresses = slices.DeleteFunc(slices.Clone(addresses), func(ip net.IP) bool {
		return !slices.ContainsFunc(local, func(n *net.IPNet) bool { return n.Contains(ip) })
	})
	certFile, keyFile := filepath.Join(dir, "reed.cert.pem"), filepath.Join(dir, "reed.key.pem")
	if c, err := tls.LoadX509KeyPair(certFile, keyFile); err == nil && fits(c, addresses, now) && signedBy(c, root) {
		return c, nil
	}
	// Browsers take none that lasts longer than 825 days.
	t := x509.Certificate{Subject: pkix.Name{CommonName: "Itinerant Reed"}, NotBefore: now.Add(-time.Hour), NotAfter: now.AddDate(2, 0, 0),
		KeyUsage: x509.KeyUsageDigitalSignature, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}, BasicConstraintsValid: true,
		DNSNames: []string{"localhost"}, IPAddresses: append([]net.IP{net.IPv4(127, 0, 0, 1), net.IPv6loopback}, addresses...)}
	cert, private, err := signed(t, root, rootKey)
	if err != nil {
		return tls.Certificate{}, err
	}
	chain := append(cert, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: root.Raw})...)
	if err := errors.Join(os.WriteFile(keyFile, private, 0o600), os.WriteFile(certFile, chain, 0o600)); err != nil {
		return tls.Certificate{}, fmt.Errorf("keeping the certificate: %w", err)
	}
	return tls.X509KeyPair(chain, private)
}

// local are the networks that the authority may sign for. The pairing page says so to a device that trusts it: whoever gets hold of the
// key can stand for no site of the internet. A browser that comes by another address warns, as it would without the authority.
var local = networks("10.0.0.0/8", "100.64.0.0/10", "127.0.0.0/8", "169.254.0.0/16", "172.16.0.0/12", "192.168.0.0/16", "::1/128",
	"fc00::/7", "fe80::/10")

func networks(texts ...string) (out []*net.IPNet) {
	for _, t := range texts {
		if _, n, err := net.ParseCIDR(t); err == nil {
			out = append(out, n)
		}
	}
	return out
}

// authority is the notebook's own certificate authority, made where there is none or its time is over.
func authority(dir string, now time.Time) (*x509.Certificate, *ecdsa.PrivateKey, error) {
	certFile, keyFile := filepath.Join(dir, RootName), filepath.Join(dir, "reed.root-key.pem")
	if c, err := tls.LoadX509KeyPair(certFile, keyFile); err == nil {
		x, err := x509.ParseCertificate(c.Certificate[0])
		key, ok := c.PrivateKey.(*ecdsa.PrivateKey)
		if err == nil && ok && x.IsCA && x.PermittedDNSDomainsCritical && now.Before(x.NotAfter.AddDate(0, -3, 0)) {
			return x, key, nil
		}
	}
	t := x509.Certificate{Subject: pkix.Name{CommonName: "Itinerant Reed, this notebook"}, NotBefore: now.Add(-time.Hour),
		NotAfter: now.AddDate(10, 0, 0), KeyUsage: x509.KeyUsageCertSign, IsCA: true, MaxPathLenZero: true, BasicConstraintsValid: true,
		PermittedDNSDomainsCritical: true, PermittedDNSDomains: []string{"localhost"}, PermittedIPRanges: local}
	cert, private, err := signed(t, nil, nil)
	if err != nil {
		return nil, nil, err
	}
	if err := errors.Join(os.WriteFile(keyFile, private, 0o600), os.WriteFile(certFile, cert, 0o600)); err != nil {
		return nil, nil, fmt.Errorf("keeping the notebook's certificate authority: %w", err)
	}
	c, err := tls.X509KeyPair(cert, private)
	if err != nil {
		return nil, nil, err
	}
	x, err := x509.ParseCertificate(c.Certificate[0])
	if err != nil {
		return nil, nil, err
	}
	return x, c.PrivateKey.(*ecdsa.PrivateKey), nil
}

// signed makes a certificate with a key of its own, signed by an authority or by itself.
func signed(t x509.Certificate, by *x509.Certificate, byKey *ecdsa.PrivateKey) (cert, private []byte, err error) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, nil, err
	}
	if t.SerialNumber, err = rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120)); err != nil {
		return nil, nil, err
	}
	if by == nil {
		by, byKey = &t, key
	}
	der, err := x509.CreateCertificate(rand.Reader, &t, by, &key.PublicKey, byKey)
	if err != nil {
		return nil, nil, err
	}
	raw, err := x509.MarshalECPrivateKey(key)
	if err != nil {
		return nil, nil, err
	}
	cert = pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der})
	return cert, pem.EncodeToMemory(&pem.Block{Type: "EC PRIVATE KEY", Bytes: raw}), nil
}

func signedBy(c tls.Certificate, root *x509.Certificate) bool {
	x, err := x509.ParseCertificate(c.Certificate[0])
	return err == nil && x.CheckSignatureFrom(root) == nil
}

// Root is the notebook's own certificate authority as a file, nil where none was made.
func Root(dir string) []byte {
	text, err := os.ReadFile(filepath.Join(dir, RootName))
	if err != nil {
		return nil
	}
	return text
}

func fits(c tls.Certificate, addresses []net.IP, now time.Time) bool {
	x, err := x509.ParseCertificate(c.Certificate[0])
	if err != nil || now.After(x.NotAfter.AddDate(0, 0, -14)) {
		return false
	}
	for _, ip := range addresses {
		if x.VerifyHostname(ip.String()) != nil {
			return false
		}
	}
	return true
}

// Fingerprint is a certificate's SHA-256 as browsers show it.
func Fingerprint(c tls.Certificate) string {
	sum := sha256.Sum256(c.Certificate[0])
	parts := make([]string, len(sum))
	for i, b := range sum {
		parts[i] = fmt.Sprintf("%02X", b)
	}
	return strings.Join(parts, ":")
}

// Addresses are those of this machine on its networks.
func Addresses() ([]net.IP, error) {
	all, err := net.InterfaceAddrs()
	if err != nil {
		return nil, err
	}
	var out []net.IP
	for _, a := range all {
		if n, ok := a.(*net.IPNet); ok && n.IP.IsGlobalUnicast() {
			out = append(out, n.IP)
		}
	}
	return out, nil
}
