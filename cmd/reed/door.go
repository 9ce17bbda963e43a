package main

import (
	"bufio"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"os"
	"strings"
	"time"

	"github.com/skip2/go-qrcode"

	"reed/internal/access"
)

// door is how others may reach the notebook: not at all, or through a word, a passphrase and a certificate.
type door struct {
	listen, hosts, cert, key *string
	lan, plain               *bool
	usual                    string
}

func doorFlags(c *call, usual string) *door {
	return &door{
		usual:  usual,
		listen: c.flags.String("listen", usual, "address; other than loopback needs --lan or a passphrase"),
		hosts:  c.flags.String("allow-host", "", "comma-separated names that the server answers to beside its address"),
		lan:    c.flags.Bool("lan", false, "let paired devices on the network in: prints an address, a QR code and a pairing word"),
		plain:  c.flags.Bool("plain", false, "with --lan: no encryption; everybody on the network can read along"),
		cert:   c.flags.String("tls-cert", "", "certificate in PEM instead of one made on the spot"),
		key:    c.flags.String("tls-key", "", "its key in PEM"),
	}
}

// address is where it listens: everywhere on this machine's networks with --lan, unless said otherwise.
func (d *door) address() string {
	if _, port, err := net.SplitHostPort(*d.listen); err == nil && *d.lan && *d.listen == d.usual {
		return ":" + port
	}
	return *d.listen
}

// check refuses to open a door that nothing guards.
func (d *door) check(guard *access.Guard) error {
	host, _, err := net.SplitHostPort(d.address())
	if err != nil {
		return usagef("%s is no address; write it like 127.0.0.1:7314", d.address())
	}
	ip := net.ParseIP(host)
	local := host == "localhost" || ip != nil && ip.IsLoopback()
	switch {
	case (*d.cert == "") != (*d.key == ""):
		return usagef("a certificate needs its key: --tls-cert FILE --tls-key FILE")
	case !local && !*d.lan && !guard.HasPassphrase():
		return usagef("listening on %s lets others on the network in, and there is no passphrase: start it with --lan, which makes a "+
			"pairing word, or set a passphrase with reed passphrase --data DIR", d.address())
	}
	return nil
}

func (d *door) names() []string {
	if *d.hosts == "" {
		return nil
	}
	return strings.Split(*d.hosts, ",")
}

func (d *door) beyond(l net.Listener) bool {
	return !l.Addr().(*net.TCPAddr).IP.IsLoopback()
}

// tls returns the TLS configuration: the given certificate, one made on the spot for --lan, or none.
func (d *door) tls(data string) (*tls.Config, error) {
	var c tls.Certificate
	var err error
	switch {
	case *d.cert != "":
		if c, err = tls.LoadX509KeyPair(*d.cert, *d.key); err != nil {
			return nil, usagef("reading the certificate: %w", err)
		}
	case *d.lan && !*d.plain:
		ips, err := access.Addresses()
		if err != nil {
			return nil, err
		}
		if c, err = access.Certificate(data, ips, time.Now()); err != nil {
			return nil, fmt.Errorf("making a certificate: %w", err)
		}
	default:
		return nil, nil
	}
	return &tls.Config{Certificates: []tls.Certificate{c}, MinVersion: tls.VersionTLS12}, nil
}

// reached lists the addresses at which devices on the network reach it.
func (d *door) reached(l net.Listener, secure bool) ([]string, error) {
	if !d.beyond(l) {
		return nil, nil
	}
	scheme, at := "http", l.Addr().(*net.TCPAddr)
	if secure {
		scheme = "https"
	}
	ips := []net.IP{at.IP}
	if at.IP.IsUnspecified() {
		var err error
		if ips, err = access.Addresses(); err != nil {
			return nil, err
		}
	}
	var out []string
	for _, ip := range ips {
		out = append(out, fmt.Sprintf("%s://%s", scheme, net.JoinHostPort(ip.String(), fmt.Sprint(at.Port))))
	}
	return out, nil
}

// announce says where it is, and how a device is let in.
func (d *door) announce(c *call, l net.Listener, guard *access.Guard, addresses []string, config *tls.Config) {
	at := l.Addr().(*net.TCPAddr)
	scheme, host := "http", at.IP.String()
	if config != nil {
		scheme = "https"
	}
	if at.IP.IsUnspecified() {
		host = "127.0.0.1"
	}
	fmt.Fprintf(c.out, "Itinerant Reed is at %s://%s\n", scheme, net.JoinHostPort(host, fmt.Sprint(at.Port)))
	if !d.beyond(l) {
		return
	}
	for _, a := range addresses {
		fmt.Fprintln(c.out, "On the network it is at "+a)
	}
	if config == nil {
		fmt.Fprintln(c.err, "Not encrypted: everybody on this network can read along, and take over what a paired device may do.")
	} else if *d.cert == "" {
		fmt.Fprintln(c.out, "The browser will say that the certificate is not known to it. Go on only when it shows this fingerprint (SHA-256):")
		fmt.Fprintln(c.out, "  "+access.Fingerprint(config.Certificates[0]))
		fmt.Fprintln(c.out, "For a phone that works without a link, install the notebook's own authority there once: "+
			"/notebook-root.crt at this address.")
	}
	if !*d.lan {
		return
	}
	word, until := guard.NewWord()
	if len(addresses) > 0 {
		if q, err := qrcode.New(addresses[0]+"/#pair="+word, qrcode.Low); err == nil {
			fmt.Fprint(c.out, q.ToSmallString(false))
		}
	}
	fmt.Fprintf(c.out, "Pairing word, for one device, until %s UTC: %s\n", until.UTC().Format("15:04"), word)
}

// passphrase sets the words by which a device may come in at any time.
func passphrase(_ context.Context, c *call) error {
	data := c.flags.String("data", "", "folder of the data")
	revoke := c.flags.Bool("revoke", false, "remove all paired devices, too")
	if err := c.begin(); err != nil {
		return err
	}
	if *data == "" || len(c.args) != 0 {
		return usagef("name the folder of the data; the passphrase is read from standard input: reed passphrase --data DIR")
	}
	fmt.Fprintln(c.err, "Type the passphrase, ten characters or more, and Enter:")
	line, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if err != nil && line == "" {
		return usagef("nothing was typed: %w", err)
	}
	if err := os.MkdirAll(*data, 0o700); err != nil {
		return err
	}
	guard, err := access.Open(*data, time.Now)
	if err != nil {
		return err
	}
	if err := guard.SetPassphrase(strings.TrimRight(line, "\r\n")); err != nil {
		return usageError{errors.Join(err)}
	}
	fmt.Fprintln(c.out, "The passphrase is kept, as argon2id. A notebook that is running takes it at once.")
	if *revoke {
		if err := guard.RemoveAll(); err != nil {
			return err
		}
		fmt.Fprintln(c.out, "All paired devices are removed: each needs the passphrase or a pairing word again.")
	} else if n := len(guard.Devices()); n > 0 {
		fmt.Fprintf(c.out, "Devices that stay paired: %d. To remove them as well: reed passphrase --revoke --data %s\n", n, *data)
	}
	return nil
}
