// Package exchange reads other people's files and writes ours. Every reader makes a Preview first: what
// was understood, every guess that was made, and every oddity by line, record and field. Nothing is
// dropped in silence; what is not understood is carried along.
package exchange

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"io/fs"
	"path/filepath"
	"strings"
	"time"
	"unicode/utf8"
	"unsafe"

	"github.com/google/uuid"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	textunicode "golang.org/x/text/encoding/unicode"

	"reed/core/band"
	"reed/core/onair"
	"reed/core/place"
	"reed/core/sweep"
)

// MaxSize is the largest file in bytes that is read; larger ones are refused whole.
const MaxSize = 32 << 20

// maxOneByOne is the largest file of reception reports that are taken one by one: a million of them.
const maxOneByOne = 160 << 20

// Note is something odd. Severity is "error" (this part is not taken), "warning" or "note".
type Note struct {
	Severity string `json:"severity"`
	Line     int    `json:"line,omitempty"`
	Record   int    `json:"record,omitempty"`
	Field    string `json:"field,omitempty"`
	Text     string `json:"text"`
}

// Guess is a decision that the file did not make by itself and that can be changed there.
type Guess struct {
	Code    string   `json:"code"`
	Text    string   `json:"text"`
	Choice  string   `json:"choice"`
	Options []string `json:"options"`
}

// Record is one contact of a file. Taken is false when it cannot be stored; the notes say why.
type Record struct {
	Number  int           `json:"number"`
	Line    int           `json:"line"`
	Taken   bool          `json:"taken"`
	Known   bool          `json:"known,omitempty"` // already in the log, or twice in the file
	Contact onair.Contact `json:"contact"`
	Fields  []onair.Field `json:"fields"`
}

// Preview is the result that an import would have.
type Preview struct {
	Kind     string        `json:"kind"` // adif, adx, touchstone, csv, reports or site
	Name     string        `json:"name,omitempty"`
	Encoding string        `json:"encoding"`
	Header   []onair.Field `json:"header,omitempty"`
	Records  []Record      `json:"records,omitempty"`
	Heard    []Heard       `json:"reports,omitempty"`
	Sweep    *sweep.Sweep  `json:"sweep,omitempty"`
	Points   []Point       `json:"points,omitempty"`
	Places   []Place       `json:"places,omitempty"`
	Ways     []Way         `json:"lines,omitempty"`
	Areas    []Way         `json:"areas,omitempty"`
	Site     *Described    `json:"site,omitempty"`
	Counts   Counts        `json:"counts"`
	Guesses  []Guess       `json:"guesses"`
	Notes    []Note        `json:"notes"`
	Echo     []string      `json:"echo,omitempty"` // typed lines as they were understood

	ofContacts bool // a long log that is no list of reception reports
}

// Counts says how many records or points a file has, and of the records how many would be added, are
// known already, and cannot be taken.
type Counts struct {
	Records int `json:"records"`
	Added   int `json:"added"`
	Known   int `json:"known"`
	Refused int `json:"refused"`
	Points  int `json:"points"`
}

func (p *Preview) count() {
	if p.Kind == "reports" {
		return // counted as they were read
	}
	p.Counts = Counts{Records: len(p.Records), Points: len(p.Points)}
	for _, r := range p.Records {
		switch {
		case !r.Taken:
			p.Counts.Refused++
		case r.Known:
			p.Counts.Known++
		default:
			p.Counts.Added++
		}
	}
}

// Shorten keeps the first records and points, for showing; the counts stay.
func (p *Preview) Shorten(most int) {
	p.Records, p.Points = p.Records[:min(len(p.Records), most)], p.Points[:min(len(p.Points), most)]
	p.Heard = p.Heard[:min(len(p.Heard), most)]
}

// Point is one measured point with every value of its row as found.
type Point struct {
	Line   int      `json:"line"`
	Hz     float64  `json:"hz"`
	SWR    float64  `json:"swr"`
	Fields []string `json:"fields"`
}

// Contacts makes the records ready to store in an outing. Their ids follow from the batch, so that a
// repeated import of the same batch adds nothing.
func (p *Preview) Contacts(outingID string, batch uuid.UUID) (out []onair.Contact, known, refused int) {
	for _, r := range p.Records {
		switch {
		case !r.Taken:
			refused++
		case r.Known:
			known++
		default:
			c := r.Contact
			c.ID, c.OutingID, c.Batch = uuid.NewSHA1(batch, fmt.Appendf(nil, "%d", r.Number)).String(), outingID, batch.String()
			out = append(out, c)
		}
	}
	return out, known, refused
}

func (p *Preview) note(severity string, line, record int, field, format string, args ...any) {
	const most = 500
	switch n := len(p.Notes); {
	case n < most:
		p.Notes = append(p.Notes, Note{severity, line, record, field, fmt.Sprintf(format, args...)})
	case n == most:
		p.Notes = append(p.Notes, Note{"warning", 0, 0, "", "and more of these; the first 500 are shown"})
	}
}

func (p *Preview) guess(code, choice, text string, options ...string) {
	p.Guesses = append(p.Guesses, Guess{code, text, choice, options})
}

// Options change guesses by their code, and give the region whose bands apply and the time now, after
// which no contact can have been; without it that is not checked.
type Options struct {
	Region  band.Region
	Now     time.Time
	Choices map[string]string
	// Own is one's own call and Home one's own place, for reception reports; either may be unknown.
	Own  string
	Home *place.Point
	// Each is given the reception reports one by one, in place of the preview.
	Each func(Heard) error
}

func (o Options) choice(code string) string { return o.Choices[code] }

// FileError says why a whole file is not read, and what was expected.
type FileError struct{ Found, Expected string }

func (e *FileError) Error() string { return e.Found + "; expected " + e.Expected }

const anyFile = "an ADIF log, a Touchstone file, CSV with frequency and SWR, R and X, or return loss, or GPX or GeoJSON of a site"

// Read makes the preview of a file. name is only used as a hint of its kind.
func Read(ctx context.Context, r io.Reader, name string, o Options) (*Preview, error) {
	limit := int64(MaxSize)
	if o.Each != nil {
		limit = maxOneByOne
	}
	data, err := readWhole(r, limit+1)
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", name, err)
	}
	return ReadBytes(ctx, data, name, o)
}

// ReadBytes makes the preview of a file that is in memory.
func ReadBytes(ctx context.Context, data []byte, name string, o Options) (*Preview, error) {
	limit := int64(MaxSize)
	if o.Each != nil {
		limit = maxOneByOne
	}
	if int64(len(data)) > limit {
		return nil, &FileError{fmt.Sprintf("the file is larger than %d MB", limit>>20), "a smaller one; split it"}
	}
	text, enc, err := decode(data)
	if err != nil {
		return nil, err
	}
	p := &Preview{Name: filepath.Base(name), Encoding: enc, Guesses: []Guess{}, Notes: []Note{}}
	kind := detect(text, name)
	if (kind == "gpx" || kind == "geojson") && len(text) > mostMap {
		return nil, &FileError{fmt.Sprintf("the map has %d MB", len(text)>>20), fmt.Sprintf("one of the place alone, of at most %d MB",
			mostMap>>20)}
	}
	switch kind {
	case "adif":
		err = readADI(ctx, p, text, o)
		if t, list, ok := adifReports(p); err == nil && ok {
			err = p.heardLog(ctx, t, list, o)
		}
	case "adx":
		err = readADX(ctx, p, text, o)
		if t, list, ok := adifReports(p); err == nil && ok {
			err = p.heardLog(ctx, t, list, o)
		}
	case "touchstone":
		err = readTouchstone(ctx, p, text, o)
	case "gpx":
		err = readGPX(ctx, p, text, o)
	case "geojson":
		err = readGeoJSON(ctx, p, text, o)
	default:
		if err := shortLines(text); err != nil {
			return nil, err
		}
		if t, list, ok := reportTable(ctx, text); ok {
			err = readReports(ctx, p, t, list, o)
		} else {
			err = readCSV(ctx, p, text, o)
		}
	}
	if err != nil {
		return nil, err
	}
	p.count()
	return p, nil
}

// readWhole reads up to a limit, into memory of the right size where that is known.
func readWhole(r io.Reader, limit int64) ([]byte, error) {
	size := int64(0)
	switch x := r.(type) {
	case interface{ Len() int }:
		size = int64(x.Len())
	case interface{ Stat() (fs.FileInfo, error) }:
		if info, err := x.Stat(); err == nil {
			size = info.Size()
		}
	}
	var b bytes.Buffer
	b.Grow(int(min(size, limit)) + bytes.MinRead)
	_, err := b.ReadFrom(io.LimitReader(r, limit))
	return b.Bytes(), err
}

// mostLine is the longest line in bytes of a table, mostRecords how many records a log may have: what is longer is split before it is
// read, so that no file takes more than about 150 MB.
const (
	mostLine    = 256 << 10
	mostRecords = 100_000
	mostMap     = 4 << 20
)

// shortLines is an error for a table with a line that no table has.
func shortLines(text string) error {
	n := 0
	for line := range strings.Lines(text) {
		if n++; len(line) > mostLine {
			return &FileError{fmt.Sprintf("line %d has %d characters", n, len(line)), fmt.Sprintf("a table with lines of at most %d", mostLine)}
		}
	}
	return nil
}

// tooMany is the error for a log with more records than are read.
func tooMany() error {
	return &FileError{fmt.Sprintf("the log has more than %d records", mostRecords), "a smaller one; split it, by year for instance"}
}

// decode brings a file to UTF-8: by byte order mark, by being UTF-8 already, otherwise as Windows-1252.
func decode(data []byte) (text, name string, err error) {
	if len(bytes.TrimSpace(data)) == 0 {
		return "", "", &FileError{"the file is empty", anyFile}
	}
	var e encoding.Encoding
	switch {
	case bytes.HasPrefix(data, []byte{0xef, 0xbb, 0xbf}):
		data = data[3:]
	case bytes.HasPrefix(data, []byte{0xff, 0xfe}), bytes.HasPrefix(data, []byte{0xfe, 0xff}):
		e, name = textunicode.UTF16(textunicode.BigEndian, textunicode.UseBOM), "UTF-16"
	case bytes.IndexByte(data[:min(len(data), 8192)], 0) >= 0 && !logLike(data):
		// UTF-16 without a mark has a zero in every other byte of plain text; anything else is not text.
		head := data[:min(len(data), 8192)/2*2]
		even, odd := 0, 0
		for i := 0; i+1 < len(head); i += 2 {
			if head[i] == 0 {
				even++
			}
			if head[i+1] == 0 {
				odd++
			}
		}
		switch half := len(head) / 2; {
		case odd > half*8/10 && even == 0:
			e, name = textunicode.UTF16(textunicode.LittleEndian, textunicode.IgnoreBOM), "UTF-16"
		case even > half*8/10 && odd == 0:
			e, name = textunicode.UTF16(textunicode.BigEndian, textunicode.IgnoreBOM), "UTF-16"
		default:
			return "", "", &FileError{"the file is binary, not text", anyFile}
		}
	}
	if e == nil && utf8.Valid(data) {
		// The text is the file's own memory: nobody writes to it any more, and a copy of a large file counts.
		return unsafe.String(unsafe.SliceData(data), len(data)), "UTF-8", nil
	}
	if e == nil {
		e, name = charmap.Windows1252, "Windows-1252"
	}
	out, err := e.NewDecoder().Bytes(data)
	if err != nil {
		return "", "", &FileError{"the characters cannot be read as " + name, "UTF-8 text"}
	}
	return string(out), name, nil
}

// logLike reports whether a file with zeros in it is a log all the same: it has the marks of one, and of its bytes one in
// fifty at most is a zero, as where a comment was damaged.
func logLike(data []byte) bool {
	head := bytes.ToLower(data[:min(len(data), 1<<20)])
	return (bytes.Contains(head, []byte("<eor>")) || bytes.Contains(head, []byte("<eoh>"))) && bytes.Count(head, []byte{0})*50 <= len(head)
}

func detect(text, name string) string {
	head := strings.ToLower(text[:min(len(text), 1<<20)])
	ext := strings.ToLower(filepath.Ext(name))
	trimmed := strings.TrimSpace(head)
	switch {
	case strings.HasPrefix(trimmed, "<") && strings.Contains(head, "<gpx") || ext == ".gpx":
		return "gpx"
	case strings.HasPrefix(trimmed, "{") && strings.Contains(head, `"type"`) || ext == ".geojson":
		return "geojson"
	case strings.HasPrefix(trimmed, "<?xml") || strings.HasPrefix(trimmed, "<adx"):
		return "adx"
	case strings.Contains(head, "<eoh>") || strings.Contains(head, "<eor>") || strings.Contains(head, "<call:") || ext == ".adi" ||
		ext == ".adif":
		return "adif"
	case len(ext) == 4 && ext[1] == 's' && ext[3] == 'p' || ext == ".ts" || strings.HasPrefix(trimmed, "[version]"):
		return "touchstone"
	}
	for line := range strings.Lines(head) {
		line = strings.TrimSpace(line)
		if line == "" || strings.HasPrefix(line, "!") {
			continue
		}
		if f := strings.Fields(line); strings.HasPrefix(line, "#") && len(f) > 1 && optionWords(f) {
			return "touchstone"
		}
		break
	}
	return "csv"
}
