package exchange

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"sort"
	"strings"

	"github.com/google/uuid"

	"reed/core/entry"
	"reed/core/kit"
	"reed/core/quantity"
)

// BagRow is one line of a bag's file as it would come in. Taken is false when it has an error; Known when
// the same thing is in the bag already, and Changes when it would be changed by this line.
type BagRow struct {
	Line    int           `json:"line"`
	Taken   bool          `json:"taken"`
	Known   bool          `json:"known"`
	Changes bool          `json:"changes"`
	Part    kit.Part      `json:"part"`
	Faults  []entry.Fault `json:"faults"`
}

// BagPreview is the content of a bag's file.
type BagPreview struct {
	Rows  []BagRow `json:"rows"`
	Notes []Note   `json:"notes"`
}

// MaxBag is the largest bag file that is read, in bytes.
const MaxBag = 4 << 20

// bagSpace makes ids for things that come without one: the same line makes the same id.
var bagSpace = uuid.MustParse("3f0c6f6e-2f0e-5d55-9b0e-8a4f6a1c7b21")

// ReadBag reads a bag's CSV: a header with kind, name and the fields' ids or labels, one thing a line.
// unit is the unit of a bare length. Unknown columns are kept with the thing under their
// own name. have is the present bag, by id.
func ReadBag(ctx context.Context, data []byte, unit string, have map[string]kit.Part) (BagPreview, error) {
	out := BagPreview{Rows: []BagRow{}, Notes: []Note{}}
	if len(data) > MaxBag {
		return out, fmt.Errorf("the file has %d MB; at most %d MB are read", len(data)>>20, MaxBag>>20)
	}
	text, _, err := decode(data)
	if err != nil {
		return out, err
	}
	r, header, names, err := openBag(text)
	if err != nil {
		return out, err
	}
	seen := map[string]int{}
	for {
		if err := ctx.Err(); err != nil {
			return out, err
		}
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		line, _ := r.FieldPos(0)
		if err != nil {
			var pe *csv.ParseError
			if errors.As(err, &pe) {
				line = pe.Line
			}
			out.Notes = append(out.Notes, Note{Severity: "error", Line: line, Text: fmt.Sprintf("this line cannot be read: %v", err)})
			continue
		}
		if strings.TrimSpace(strings.Join(record, "")) == "" {
			continue
		}
		row := readThing(names, header, record, unit)
		row.Line = line
		out.add(row, seen, have)
		if len(out.Rows) > 5000 {
			return out, errors.New("more than 5000 items; split the file")
		}
	}
}

// openBag finds the separator, and reads the header: its columns as they stand, and as they are looked up.
func openBag(text string) (r *csv.Reader, header, names []string, err error) {
	first, _, _ := strings.Cut(text, "\n")
	r = csv.NewReader(strings.NewReader(text))
	for _, sep := range []rune{';', '\t'} {
		if strings.ContainsRune(first, sep) && strings.Count(first, string(sep)) > strings.Count(first, ",") {
			r.Comma = sep
		}
	}
	r.FieldsPerRecord, r.LazyQuotes, r.TrimLeadingSpace = -1, true, true
	header, err = r.Read()
	if errors.Is(err, io.EOF) {
		return nil, nil, nil, errors.New("the file is empty; it begins with a line like kind,name,length")
	}
	if err != nil {
		return nil, nil, nil, fmt.Errorf("the first line was not understood: %w", err)
	}
	names = make([]string, len(header))
	for i, h := range header {
		names[i] = strings.ToLower(strings.TrimSpace(bared(h)))
	}
	if !slices.Contains(names, "kind") || !slices.Contains(names, "name") {
		return nil, nil, nil, fmt.Errorf("the columns kind and name are missing; the first line names %s", strings.Join(header, ", "))
	}
	return r, header, names, nil
}

// add takes a row in, with what is odd of it. A thing that stood before is not taken twice.
func (out *BagPreview) add(row BagRow, seen map[string]int, have map[string]kit.Part) {
	if n, twice := seen[row.Part.ID]; twice {
		out.Notes = append(out.Notes, Note{Severity: "warning", Line: row.Line, Text: fmt.Sprintf("the same thing as on line %d", n)})
		row.Taken = false
	}
	seen[row.Part.ID] = row.Line
	if was, ok := have[row.Part.ID]; ok {
		row.Known = true
		was.Version, was.Deleted = 0, false
		row.Changes = !same(was, row.Part)
	}
	for _, f := range row.Faults {
		severity := "warning"
		if f.Severity == "error" {
			severity = "error"
		}
		out.Notes = append(out.Notes, Note{Severity: severity, Line: row.Line, Field: f.Path, Text: f.Text})
	}
	out.Rows = append(out.Rows, row)
}

func readThing(names, header, record []string, unit string) BagRow {
	texts, extra := map[string]string{}, map[string]string{}
	var kind, name, id string
	for i, cell := range record {
		cell = bared(strings.TrimSpace(cell))
		if i >= len(names) {
			if cell != "" {
				extra[fmt.Sprintf("column %d", i+1)] = cell
			}
			continue
		}
		switch names[i] {
		case "kind":
			kind = strings.ToLower(cell)
		case "name":
			name = cell
		case "id":
			id = cell
		default:
			texts[names[i]] = cell
		}
	}
	k, _ := kit.KindNamed(kind)
	known := map[string]bool{}
	for _, f := range k.Fields {
		known[f.ID] = true
		if t := texts[strings.ToLower(f.Label)]; t != "" && texts[f.ID] == "" {
			texts[f.ID] = t
			known[strings.ToLower(f.Label)] = true
		}
	}
	row := BagRow{Part: kit.Part{}}
	row.Part, row.Faults = kit.Read(kind, name, texts, unit)
	row.Part.Kind, row.Part.Name = kind, strings.TrimSpace(name)
	for i, n := range names {
		if t := texts[n]; !known[n] && t != "" {
			extra[strings.TrimSpace(header[i])] = t
		}
	}
	for n, t := range extra {
		row.Part.PutWord(n, t)
	}
	// A field that was not understood costs the field, not the thing: its text is kept under the field's name.
	// Without what computing needs it is no such thing, and is left out with its reason.
	row.Taken = row.Part.Name != "" && len(k.Fields) > 0
	needed := map[string]bool{"kind": true, "name": true}
	for _, f := range k.Fields {
		needed[f.ID] = f.Must
	}
	for _, f := range row.Faults {
		row.Taken = row.Taken && (f.Severity != "error" || !needed[f.Path])
		if t := texts[f.Path]; t != "" && f.Severity == "error" {
			row.Part.PutWord(f.Path+" as written", t)
		}
	}
	if _, err := uuid.Parse(id); err == nil {
		row.Part.ID = strings.ToLower(id)
	} else {
		row.Part.ID = uuid.NewSHA1(bagSpace, []byte(strings.Join(record, "\x00"))).String()
	}
	if row.Faults == nil {
		row.Faults = []entry.Fault{}
	}
	return row
}

// bared takes off the mark by which a spreadsheet is kept from computing a cell.
func bared(cell string) string {
	if len(cell) > 1 && cell[0] == '\'' && strings.ContainsRune("=+-@\t\r'", rune(cell[1])) {
		return cell[1:]
	}
	return cell
}

// harmless marks a cell that a spreadsheet would compute.
func harmless(cell string) string {
	if cell != "" && strings.ContainsRune("=+-@\t\r'", rune(cell[0])) {
		return "'" + cell
	}
	return cell
}

func same(a, b kit.Part) bool {
	return fmt.Sprint(a.Kind, a.Name, flat(a.Values)) == fmt.Sprint(b.Kind, b.Name, flat(b.Values))
}

func flat(v entry.Values) string {
	var out []string
	for k, l := range v.Sizes {
		out = append(out, k+"="+quantity.Metric(l.M, 1))
	}
	for k, n := range v.Numbers {
		out = append(out, fmt.Sprintf("%s=%.7g", k, n))
	}
	for k, w := range v.Words {
		out = append(out, k+"="+w)
	}
	sort.Strings(out)
	return strings.Join(out, "\n")
}

// WriteBag writes things as CSV that ReadBag reads back: id, kind, name, every field that one of them has,
// and what else they carry. Lengths are written with their unit.
func WriteBag(parts []kit.Part) ([]byte, error) {
	used := map[string]bool{}
	texts := make([]map[string]string, len(parts))
	for i, p := range parts {
		texts[i] = p.Texts(false)
		if texts[i] == nil {
			texts[i] = map[string]string{}
		}
		for k, w := range p.Words {
			if texts[i][k] == "" {
				texts[i][k] = w
			}
		}
		for k, t := range texts[i] {
			if t != "" {
				used[k] = true
			}
		}
	}
	columns := []string{"id", "kind", "name"}
	placed := map[string]bool{}
	for _, k := range kit.Kinds() {
		for _, f := range k.Fields {
			if used[f.ID] && !placed[f.ID] {
				columns, placed[f.ID] = append(columns, f.ID), true
			}
		}
	}
	var rest []string
	for k := range used {
		if !placed[k] {
			rest = append(rest, k)
		}
	}
	sort.Strings(rest)
	columns = append(columns, rest...)
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	head := make([]string, len(columns))
	for i, c := range columns {
		head[i] = harmless(c)
	}
	if err := w.Write(head); err != nil {
		return nil, err
	}
	for i, p := range parts {
		row := make([]string, len(columns))
		for k, c := range columns {
			switch c {
			case "id":
				row[k] = p.ID
			case "kind":
				row[k] = p.Kind
			case "name":
				row[k] = harmless(p.Name)
			default:
				row[k] = harmless(texts[i][c])
			}
		}
		if err := w.Write(row); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return b.Bytes(), w.Error()
}
