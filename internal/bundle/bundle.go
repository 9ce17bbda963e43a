// Package bundle writes and reads outings as one file, to be carried to another notebook: zipped JSON, one thing a line, with the
// original sweeps and photos beside it, and the log as ADIF for other programs.
package bundle

import (
	"archive/zip"
	"bufio"
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"path"
	"slices"
	"strings"

	"reed/core/deployment"
	"reed/core/lineage"
	"reed/core/onair"
	"reed/internal/exchange"
	"reed/internal/store"
)

// The form of a bundle.
const (
	Format  = "itinerant-reed-bundle"
	Version = 2 // the first form had of each thing only its last version
)

// Bounds of what is read, in bytes as unpacked and whatever the file says of itself: a small file may unpack to a large one.
const (
	mostUnpacked = 160 << 20
	mostLine     = 8 << 20
)

// About stands in about.json.
type About struct {
	Format  string   `json:"format"`
	Version int      `json:"version"`
	Call    string   `json:"call"` // of who made it
	Outings []string `json:"outings"`
}

// line is one version of a thing, as versions.jsonl has it. The file beside it is named by its hash.
type line struct {
	Kind string `json:"kind"`
	ID   string `json:"id"`
	Form int    `json:"form"`
	lineage.Version
}

// earlier is a thing as the first form has it.
type earlier struct {
	Kind    string          `json:"kind"`
	ID      string          `json:"id"`
	Deleted bool            `json:"deleted,omitempty"`
	Form    int             `json:"form"`
	Doc     json.RawMessage `json:"doc"`
	File    string          `json:"file,omitempty"`
}

func fileName(hash string) string { return path.Join("files", hash) }

// Write writes a bundle. The same things are the same bytes.
func Write(w io.Writer, owner exchange.Owner, b store.Bundle) error {
	z := zip.NewWriter(w)
	about := About{Format: Format, Version: Version, Call: owner.Call, Outings: []string{}}
	var contacts []onair.Contact
	files := map[string][]byte{}
	var versions bytes.Buffer
	put := json.NewEncoder(&versions)
	for _, t := range b.Things {
		list := slices.Clone(t.Versions)
		slices.SortFunc(list, func(a, b store.Written) int { return cmp.Or(cmp.Compare(a.At, b.At), strings.Compare(a.ID, b.ID)) })
		for _, v := range list {
			if v.File != "" {
				files[v.File] = v.Data
			}
			if err := put.Encode(line{t.Kind, t.ID, v.Form, v.Version}); err != nil {
				return err
			}
		}
		if err := about.name(t, &contacts); err != nil {
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
	}{{"about.json", head}, {"versions.jsonl", versions.Bytes()}, {"revisions.jsonl", revisions}, {"reports.jsonl", reports},
		{"log.adi", []byte(log.String())}} {
		if err := add(z, f.name, f.text); err != nil {
			return err
		}
	}
	for _, hash := range slices.Sorted(maps.Keys(files)) {
		if err := add(z, fileName(hash), files[hash]); err != nil {
			return err
		}
	}
	return z.Close()
}

// name lists an outing by its name, and gathers a contact for the log that other programs read.
func (a *About) name(t store.Thing, contacts *[]onair.Contact) error {
	if len(t.Versions) == 0 || t.Kind != "outing" && t.Kind != "contact" {
		return nil
	}
	versions := make([]lineage.Version, len(t.Versions))
	for i, v := range t.Versions {
		versions[i] = v.Version
	}
	shown := lineage.Settle(versions, lineage.Rules{})
	if shown.Deleted {
		return nil
	}
	if t.Kind == "contact" {
		var c onair.Contact
		if err := json.Unmarshal(shown.Doc, &c); err != nil {
			return err
		}
		*contacts = append(*contacts, c)
		return nil
	}
	var o store.Outing
	if err := json.Unmarshal(shown.Doc, &o); err != nil {
		return err
	}
	a.Outings = append(a.Outings, o.Name+", "+o.Date)
	return nil
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

// reader reads the parts of a bundle, and counts what it unpacks.
type reader struct {
	of     map[string]*zip.File
	left   int64
	hashed map[string][]byte // files that were read already: one that is named often is unpacked once
}

// Read reads a bundle; what stands in the file beside it is left.
func Read(text []byte) (about About, out store.Bundle, err error) {
	z, err := zip.NewReader(bytes.NewReader(text), int64(len(text)))
	if err != nil {
		return about, out, fmt.Errorf("this is no bundle: %w", err)
	}
	r := reader{of: map[string]*zip.File{}, left: mostUnpacked, hashed: map[string][]byte{}}
	for _, f := range z.File {
		r.of[f.Name] = f
	}
	head, err := r.whole("about.json")
	if err != nil {
		return about, out, err
	}
	if err := json.Unmarshal(head, &about); err != nil {
		return about, out, fmt.Errorf("about.json: %w", err)
	}
	switch {
	case about.Format != Format:
		return about, out, fmt.Errorf("this is no bundle: its format is %q", about.Format)
	case about.Version == 1:
		err = r.earlier(&out)
	case about.Version == Version:
		err = r.versions(&out)
	default:
		err = fmt.Errorf("this bundle is of version %d; known here are 1 to %d", about.Version, Version)
	}
	if err != nil {
		return about, out, err
	}
	if err := r.each("revisions.jsonl", func(text []byte) error {
		var v deployment.Revision
		err := json.Unmarshal(text, &v)
		out.Revisions = append(out.Revisions, v)
		return err
	}); err != nil {
		return about, out, err
	}
	err = r.each("reports.jsonl", func(text []byte) error {
		var v onair.Report
		err := json.Unmarshal(text, &v)
		out.Reports = append(out.Reports, v)
		return err
	})
	return about, out, err
}

// versions reads the things of a bundle with all their versions.
func (r *reader) versions(out *store.Bundle) error {
	at := map[string]int{}
	return r.each("versions.jsonl", func(text []byte) error {
		var x line
		if err := json.Unmarshal(text, &x); err != nil {
			return err
		}
		w := store.Written{Version: x.Version, Form: x.Form}
		if x.File != "" {
			var err error
			if w.Data, err = r.file(fileName(x.File)); err != nil {
				return err
			}
		}
		key := x.Kind + " " + x.ID
		i, seen := at[key]
		if !seen {
			i = len(out.Things)
			at[key] = i
			out.Things = append(out.Things, store.Thing{Kind: x.Kind, ID: x.ID})
		}
		out.Things[i].Versions = append(out.Things[i].Versions, w)
		return nil
	})
}

// earlier reads a bundle of the first form: the one version of each thing is made from none that is known.
func (r *reader) earlier(out *store.Bundle) error {
	return r.each("things.jsonl", func(text []byte) error {
		var x earlier
		if err := json.Unmarshal(text, &x); err != nil {
			return err
		}
		w := store.Written{Version: lineage.Version{Deleted: x.Deleted, Doc: x.Doc}, Form: x.Form}
		if x.File != "" {
			var err error
			if w.Data, err = r.file(x.File); err != nil {
				return err
			}
		}
		w.File = lineage.Hash(w.Data)
		w.ID = lineage.Identify(w.Version)
		out.Things = append(out.Things, store.Thing{Kind: x.Kind, ID: x.ID, Versions: []store.Written{w}})
		return nil
	})
}

// errMissing says that a part of a bundle is not there, errTooLarge that it unpacks to more than is read.
var (
	errMissing  = errors.New("it is not in the bundle")
	errTooLarge = fmt.Errorf("this bundle holds more than %d MB", mostUnpacked>>20)
)

// open opens a part; what is read of it counts.
func (r *reader) open(name string) (io.ReadCloser, error) {
	f, ok := r.of[name]
	if !ok {
		return nil, fmt.Errorf("%s: %w", name, errMissing)
	}
	in, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return counted{in, r}, nil
}

// counted counts what is read, up to what is left.
type counted struct {
	io.ReadCloser
	of *reader
}

func (c counted) Read(p []byte) (int, error) {
	if c.of.left <= 0 {
		return 0, errTooLarge
	}
	if int64(len(p)) > c.of.left {
		p = p[:c.of.left]
	}
	n, err := c.ReadCloser.Read(p)
	c.of.left -= int64(n)
	return n, err
}

func (r *reader) whole(name string) ([]byte, error) {
	in, err := r.open(name)
	if err != nil {
		return nil, err
	}
	defer in.Close()
	text, err := io.ReadAll(in)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return text, nil
}

// file is a file beside a thing, unpacked once however often it is named.
func (r *reader) file(name string) ([]byte, error) {
	if have, ok := r.hashed[name]; ok {
		return have, nil
	}
	text, err := r.whole(name)
	r.hashed[name] = text
	return text, err
}

// each goes through the lines of a part.
func (r *reader) each(name string, take func(text []byte) error) error {
	in, err := r.open(name)
	if err != nil {
		return err
	}
	defer in.Close()
	s := bufio.NewScanner(in)
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
