// Package bundle writes and reads outings as one file, to be carried to another notebook: zipped JSON, one thing a line, with the
// original sweeps and photos beside it, and the log as ADIF for other programs.
package bundle

import (
	"archive/zip"
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"

	"reed/core/deployment"
	"reed/core/onair"
	"reed/internal/exchange"
	"reed/internal/store"
)

// The form of a bundle.
const (
	Format  = "itinerant-reed-bundle"
	Version = 1
)

// Bounds of what is read, in bytes: a small file may unpack to a large one.
const (
	mostPacked = 512 << 20
	mostLine   = 64 << 20
)

// About stands in about.json.
type About struct {
	Format  string   `json:"format"`
	Version int      `json:"version"`
	Call    string   `json:"call"` // of who made it
	Outings []string `json:"outings"`
}

// entry is a thing with the name of the file that stands beside it.
type entry struct {
	store.Entry
	File string `json:"file,omitempty"`
}

// Write writes outings. The same outings are the same bytes.
func Write(w io.Writer, owner exchange.Owner, b store.Bundle) error {
	z := zip.NewWriter(w)
	about := About{Format: Format, Version: Version, Call: owner.Call, Outings: []string{}}
	var contacts []onair.Contact
	files := map[string][]byte{}
	var names []string
	var things bytes.Buffer
	put := json.NewEncoder(&things)
	for _, e := range b.Entries {
		x := entry{Entry: e}
		switch e.Kind {
		case "outing":
			var o store.Outing
			if err := json.Unmarshal(e.Doc, &o); err != nil {
				return err
			}
			about.Outings = append(about.Outings, o.Name+", "+o.Date)
		case "contact":
			var c onair.Contact
			if err := json.Unmarshal(e.Doc, &c); err != nil {
				return err
			}
			if !e.Deleted {
				contacts = append(contacts, c)
			}
		}
		if len(e.File) > 0 {
			x.File = path.Join("files", e.Kind+"-"+e.ID)
			files[x.File], names = e.File, append(names, x.File)
		}
		if err := put.Encode(x); err != nil {
			return err
		}
	}
	revisions, err := lines(b.Revisions)
	if err != nil {
		return err
	}
	reports, err := lines(b.Reports)
	if err != nil {
		return err
	}
	var log strings.Builder
	if err := exchange.WriteADI(&log, owner, contacts); err != nil {
		return err
	}
	head, err := json.MarshalIndent(about, "", "  ")
	if err != nil {
		return err
	}
	for _, f := range []struct {
		name string
		text []byte
	}{{"about.json", head}, {"things.jsonl", things.Bytes()}, {"revisions.jsonl", revisions}, {"reports.jsonl", reports},
		{"log.adi", []byte(log.String())}} {
		if err := add(z, f.name, f.text); err != nil {
			return err
		}
	}
	for _, name := range names {
		if err := add(z, name, files[name]); err != nil {
			return err
		}
	}
	return z.Close()
}

func add(z *zip.Writer, name string, text []byte) error {
	w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate})
	if err != nil {
		return err
	}
	_, err = w.Write(text)
	return err
}

func lines[T any](list []T) ([]byte, error) {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	for _, x := range list {
		if err := e.Encode(x); err != nil {
			return nil, err
		}
	}
	return b.Bytes(), nil
}

// Read reads a bundle; what stands in the file beside it is left.
func Read(text []byte) (about About, out store.Bundle, err error) {
	z, err := zip.NewReader(bytes.NewReader(text), int64(len(text)))
	if err != nil {
		return about, out, fmt.Errorf("this is no bundle: %w", err)
	}
	total := uint64(0)
	of := map[string]*zip.File{}
	for _, f := range z.File {
		if total += f.UncompressedSize64; total > mostPacked {
			return about, out, fmt.Errorf("this bundle holds more than %d MB", mostPacked>>20)
		}
		of[f.Name] = f
	}
	if err := each(of, "about.json", func(line []byte) error { return json.Unmarshal(line, &about) }, true); err != nil {
		return about, out, err
	}
	switch {
	case about.Format != Format:
		return about, out, fmt.Errorf("this is no bundle: its format is %q", about.Format)
	case about.Version != Version:
		return about, out, fmt.Errorf("this bundle is of version %d; known here is %d", about.Version, Version)
	}
	if err := each(of, "things.jsonl", func(line []byte) (err error) {
		var x entry
		if err := json.Unmarshal(line, &x); err != nil {
			return err
		}
		if x.File != "" {
			if x.Entry.File, err = whole(of, x.File); err != nil {
				return err
			}
		}
		out.Entries = append(out.Entries, x.Entry)
		return nil
	}, false); err != nil {
		return about, out, err
	}
	if err := each(of, "revisions.jsonl", func(line []byte) error {
		var r deployment.Revision
		err := json.Unmarshal(line, &r)
		out.Revisions = append(out.Revisions, r)
		return err
	}, false); err != nil {
		return about, out, err
	}
	err = each(of, "reports.jsonl", func(line []byte) error {
		var r onair.Report
		err := json.Unmarshal(line, &r)
		out.Reports = append(out.Reports, r)
		return err
	}, false)
	return about, out, err
}

// errMissing says that a part of a bundle is not there.
var errMissing = errors.New("it is not in the bundle")

func whole(of map[string]*zip.File, name string) ([]byte, error) {
	f, ok := of[name]
	if !ok {
		return nil, fmt.Errorf("%s: %w", name, errMissing)
	}
	r, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	defer r.Close()
	text, err := io.ReadAll(io.LimitReader(r, mostPacked))
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return text, nil
}

// each goes through the lines of a part, or takes it whole.
func each(of map[string]*zip.File, name string, take func(line []byte) error, asOne bool) error {
	text, err := whole(of, name)
	if err != nil {
		return err
	}
	if asOne {
		if err := take(text); err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		return nil
	}
	s := bufio.NewScanner(bytes.NewReader(text))
	s.Buffer(nil, mostLine)
	for n := 1; s.Scan(); n++ {
		if len(bytes.TrimSpace(s.Bytes())) == 0 {
			continue
		}
		if err := take(s.Bytes()); err != nil {
			return fmt.Errorf("%s, line %d: %w", name, n, err)
		}
	}
	if err := s.Err(); err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	return nil
}
