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
	"strings"
	"time"
)

// Certificate reads the certificate that was made for a data folder, or makes one for the addresses of this machine.
// It is made anew when it runs out or lacks an address.
func Certificate(dir string, addresses []net.IP, now time.Time) (tls.Certificate, error) {
	certFile, keyFile := filepath.Join(dir, "reed.cert.pem"), filepath.Join(dir, "reed.key.pem")
	if c, err := tls.LoadX509KeyPair(certFile, keyFile); err == nil && fits(c, addresses, now) {
		return c, nil
	}
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return tls.Certificate{}, err
	}
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120))
	if err != nil {
		return tls.Certificate{}, err
	}
	// Browsers take none that lasts longer than 825 days.
	t := x509.Certificate{SerialNumber: serial, Subject: pkix.Name{CommonName: "Itinerant Reed"}, NotBefore: now.Add(-time.Hour),
		NotAfter: now.AddDate(2, 0, 0),
		KeyUsage: x509.KeyUsageDigitalSignature, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}, BasicConstraintsValid: true,
		DNSNames: []string{"localhost"}, IPAddresses: append([]net.IP{net.IPv4(127, 0, 0, 1), net.IPv6loopback}, addresses...)}
	der, err := x509.CreateCertificate(rand.Reader, &t, &t, &key.PublicKey, key)
	if err != nil {
		return tls.Certificate{}, err
	}
	raw, err := x509.MarshalECPrivateKey(key)
	if err != nil {
		return tls.Certificate{}, err
	}
	cert, private := pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}),
		pem.EncodeToMemory(&pem.Block{Type: "EC PRIVATE KEY", Bytes: raw})
	if err := errors.Join(os.WriteFile(keyFile, private, 0o600), os.WriteFile(certFile, cert, 0o600)); err != nil {
		return tls.Certificate{}, fmt.Errorf("keeping the certificate: %w", err)
	}
	return tls.X509KeyPair(cert, private)
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
