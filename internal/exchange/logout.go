package exchange

import (
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"fmt"
	"strings"

	"github.com/paulmach/orb"
	"github.com/paulmach/orb/geojson"

	"reed/core/onair"
)

// loggedFields are the fields of a contact in the order in which ADIF has them here.
func loggedFields(owner Owner, c onair.Contact) (out []onair.Field) {
	writeContact(func(name, value, kind string) {
		if value != "" {
			out = append(out, onair.Field{Name: name, Value: value, Type: kind})
		}
	}, owner, c)
	return out
}

// WriteADX writes contacts in the XML form of ADIF. Fields of programs and users stand as the specification has them.
func WriteADX(owner Owner, contacts []onair.Contact) ([]byte, error) {
	var b bytes.Buffer
	b.WriteString(xml.Header)
	e := xml.NewEncoder(&b)
	e.Indent("", " ")
	begin := func(name string, attr ...xml.Attr) xml.StartElement {
		return xml.StartElement{Name: xml.Name{Local: name}, Attr: attr}
	}
	put := func(f onair.Field) error {
		start := begin(f.Name)
		attr := func(name, value string) {
			start.Attr = append(start.Attr, xml.Attr{Name: xml.Name{Local: name}, Value: value})
		}
		if rest, ok := strings.CutPrefix(f.Name, "APP_"); ok {
			if program, name, ok := strings.Cut(rest, "_"); ok {
				start.Name.Local = "APP"
				attr("PROGRAMID", program)
				attr("FIELDNAME", name)
			}
		}
		if f.Type != "" {
			attr("TYPE", f.Type)
		}
		return e.EncodeElement(f.Value, start)
	}
	root, head, list, record := begin("ADX"), begin("HEADER"), begin("RECORDS"), begin("RECORD")
	steps := []func() error{func() error { return e.EncodeToken(root) }, func() error { return e.EncodeToken(head) }}
	for _, f := range []onair.Field{{Name: "ADIF_VER", Value: "3.1.4"}, {Name: "PROGRAMID", Value: "Itinerant Reed"},
		{Name: "PROGRAMVERSION", Value: owner.Version}} {
		if f.Value != "" {
			steps = append(steps, func() error { return put(f) })
		}
	}
	steps = append(steps, func() error { return e.EncodeToken(head.End()) }, func() error { return e.EncodeToken(list) })
	for _, c := range contacts {
		steps = append(steps, func() error { return e.EncodeToken(record) })
		for _, f := range loggedFields(owner, c) {
			steps = append(steps, func() error { return put(f) })
		}
		steps = append(steps, func() error { return e.EncodeToken(record.End()) })
	}
	steps = append(steps, func() error { return e.EncodeToken(list.End()) }, func() error { return e.EncodeToken(root.End()) }, e.Flush)
	for _, step := range steps {
		if err := step(); err != nil {
			return nil, fmt.Errorf("writing the log: %w", err)
		}
	}
	return b.Bytes(), nil
}

// WriteLogCSV writes contacts as a table whose columns are the fields that any of them has, harmless to spreadsheets.
func WriteLogCSV(owner Owner, contacts []onair.Contact) ([]byte, error) {
	var names []string
	at := map[string]int{}
	rows := make([][]onair.Field, len(contacts))
	for i, c := range contacts {
		rows[i] = loggedFields(owner, c)
		for _, f := range rows[i] {
			if _, ok := at[f.Name]; !ok {
				at[f.Name] = len(names)
				names = append(names, f.Name)
			}
		}
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write(names) // to memory
	for _, fields := range rows {
		cells := make([]string, len(names))
		for _, f := range fields {
			cells[at[f.Name]] = HarmlessUnlessNumber(f.Value)
		}
		_ = w.Write(cells)
	}
	w.Flush()
	return b.Bytes(), w.Error()
}

// HarmlessUnlessNumber marks a cell that a spreadsheet would compute; a report with a sign is none.
func HarmlessUnlessNumber(s string) string {
	if _, ok := plainNumber(s); ok {
		return s
	}
	return harmless(s)
}

// WriteLogGeoJSON writes contacts as features with all their fields, at the middle of the other's locator; one without has no
// place, and is there all the same.
func WriteLogGeoJSON(owner Owner, contacts []onair.Contact) ([]byte, error) {
	out := geojson.NewFeatureCollection()
	for _, c := range contacts {
		f := &geojson.Feature{Type: "Feature", Properties: geojson.Properties{}}
		if p, ok := onair.At(c.Locator); ok {
			f.Geometry = orb.Point{p.Lon, p.Lat}
		}
		for _, x := range loggedFields(owner, c) {
			f.Properties[x.Name] = x.Value
		}
		out.Append(f)
	}
	text, err := out.MarshalJSON()
	if err != nil {
		return nil, fmt.Errorf("writing the log: %w", err)
	}
	return text, nil
}
