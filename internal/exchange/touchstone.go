package exchange

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"math/cmplx"
	"path/filepath"
	"regexp"
	"sort"
	"strconv"
	"strings"

	"reed/core/circuit"
	"reed/core/sweep"
)

// row is one point as read: frequency in the file's unit and the first parameter as a complex number.
type row struct {
	line  int
	f     float64
	v     complex128
	words []string
}

// tsOptions are a Touchstone file's, with the specification's defaults.
type tsOptions struct {
	scale  float64
	unit   string
	param  string // S, Z or Y
	format string // MA, DB or RI
	ref    float64
	said   bool   // that the file names its unit
	comma  string // what a comma is, once one was seen: decimal or separator
}

var tsUnits = map[string]float64{"HZ": 1, "KHZ": 1e3, "MHZ": 1e6, "GHZ": 1e9}

// optionWords reports whether the words after # are those of an option line.
func optionWords(words []string) bool {
	for _, w := range words[1:] {
		w = strings.ToUpper(w)
		if _, ok := tsUnits[w]; ok || w == "S" || w == "MA" || w == "RI" || w == "DB" {
			return true
		}
	}
	return false
}

func (t *tsOptions) read(p *Preview, line int, words []string) error {
	for i := 0; i < len(words); i++ {
		switch w := strings.ToUpper(words[i]); w {
		case "HZ", "KHZ", "MHZ", "GHZ":
			t.unit, t.scale, t.said = w, tsUnits[w], true
		case "S", "Z", "Y":
			t.param = w
		case "G", "H":
			return &FileError{fmt.Sprintf("line %d: hybrid parameters (%s) say nothing of one port", line, w), "S, Z or Y"}
		case "MA", "DB", "RI":
			t.format = w
		case "R":
			if i+1 >= len(words) {
				p.note("warning", line, 0, "R", "the reference after R is missing; taken as 50 ohm")
				continue
			}
			i++
			v, err := strconv.ParseFloat(words[i], 64)
			if err != nil {
				p.note("warning", line, 0, "R", "%q is not a reference in ohms; taken as 50 ohm", words[i])
				continue
			}
			if !(v > 0) {
				return &FileError{fmt.Sprintf("line %d: a reference of %s ohm cannot be", line, short(words[i])), "a reference above zero, like R 50"}
			}
			t.ref = v
		default:
			if strings.HasSuffix(w, "HZ") {
				return &FileError{fmt.Sprintf("line %d: %s is no unit of frequency that is known here", line, short(words[i])), "Hz, kHz, MHz or GHz"}
			}
			p.note("warning", line, 0, "#", "%q in the option line is not understood; left out", words[i])
		}
	}
	return nil
}

func readTouchstone(ctx context.Context, p *Preview, text string, o Options) error {
	p.Kind = "touchstone"
	t := tsFile{tsOptions: tsOptions{scale: 1e9, unit: "GHZ", param: "S", format: "MA", ref: 50}, version: 1}
	if ext := strings.ToLower(filepath.Ext(p.Name)); len(ext) == 4 && ext[3] == 'p' {
		t.ports, _ = strconv.Atoi(ext[2:3])
	}
	n := 0
	for line := range strings.Lines(text) {
		if n++; n%4096 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		line, _, _ = strings.Cut(line, "!")
		if line = strings.TrimSpace(line); line == "" || t.ended {
			continue
		}
		if err := t.line(p, n, line, o); err != nil {
			return err
		}
	}
	if len(t.rows) == 0 {
		return &FileError{"no point was found in the file", "lines of frequency and two numbers"}
	}
	if !t.option {
		p.note("warning", 1, 0, "#", "the option line is missing; read by the specification's defaults: GHz, S, MA, 50 ohm")
	}
	if t.ports == 0 && len(t.rows[0].words) >= 9 {
		t.ports = 2
	}
	if t.ports > 1 {
		p.guess("port", "S11", fmt.Sprintf("a file of %d ports; its first reflection is read", t.ports), "S11")
	}
	gamma := t.reflections(p, t.rows, t.version, o)
	if !t.said {
		if c, ok := tsUnits[strings.ToUpper(o.choice("frequency-unit"))]; ok {
			t.scale, t.unit = c, strings.ToUpper(o.choice("frequency-unit"))
		}
		p.guess("frequency-unit", t.unit, "the file names no unit of frequency; read in "+t.unit, "HZ", "KHZ", "MHZ", "GHZ")
	}
	if err := p.setSweep(sweep.Complex, t.rows, t.scale, gamma); err != nil {
		return err
	}
	p.outOfReach()
	return nil
}

// tsFile is a file as far as it was read.
type tsFile struct {
	tsOptions
	version, ports int
	rows           []row
	option, ended  bool // the option line was read, the end reached
	wantsReference bool // the reference stands on the next line
}

// line reads one line without its comment.
func (t *tsFile) line(p *Preview, n int, line string, o Options) error {
	switch line[0] {
	case '#':
		if t.option {
			p.note("note", n, 0, "#", "a second option line is not read, as the specification says")
			return nil
		}
		t.option = true
		return t.read(p, n, strings.Fields(line[1:]))
	case '[':
		key, value, _ := strings.Cut(line[1:], "]")
		return t.keyword(p, n, key, strings.TrimSpace(value))
	}
	if line = t.commas(p, line, o); len(t.rows) > maxPoints {
		return &FileError{fmt.Sprintf("the sweep has more than %d points", maxPoints), "fewer bands at a time"}
	}
	words := strings.Fields(line)
	if t.wantsReference {
		t.wantsReference = false
		return t.reference(p, n, words[0])
	}
	r, err := t.row(n, words)
	switch {
	case err == nil:
		t.rows = append(t.rows, r)
	case len(words) == 4 && t.ports == 2 && len(t.rows) > 0: // the rest of a two-port point on a line of its own
	default:
		p.note("error", n, 0, "", "%v; this point is left out", err)
	}
	return nil
}

// keyword reads a keyword of version 2.
func (t *tsFile) keyword(p *Preview, n int, key, value string) error {
	switch strings.ToLower(strings.TrimSpace(key)) {
	case "version":
		t.version = 2
	case "number of ports":
		t.ports, _ = strconv.Atoi(value)
	case "reference":
		t.wantsReference = value == ""
		return t.reference(p, n, value)
	case "end":
		t.ended = true
	case "network data", "number of frequencies", "two-port data order", "matrix format", "begin information", "end information",
		"number of noise frequencies", "mixed-mode order":
	default:
		p.note("note", n, 0, key, "keyword not used")
	}
	return nil
}

// commaNumbers are lines of numbers with decimal commas, parted by blanks.
var commaNumbers = regexp.MustCompile(`^[-+]?\d+(,\d+)?([eE][-+]?\d+)?(\s+[-+]?\d+(,\d+)?([eE][-+]?\d+)?)+$`)

// commas reads the commas of a line: the specification knows none. Between figures of numbers that are parted by
// blanks they are decimal commas, which is asked about; otherwise they part.
func (t *tsOptions) commas(p *Preview, line string, o Options) string {
	if !strings.Contains(line, ",") {
		return line
	}
	if t.comma == "" && commaNumbers.MatchString(line) {
		t.comma = cmp.Or(o.choice("commas"), "decimal")
		p.guess("commas", t.comma, "commas in the numbers read as "+map[string]string{"decimal": "decimal commas",
			"separator": "separators"}[t.comma], "decimal", "separator")
	}
	if t.comma == "decimal" {
		return strings.ReplaceAll(line, ",", ".")
	}
	return strings.ReplaceAll(line, ",", " ")
}

func (t *tsOptions) reference(p *Preview, line int, value string) error {
	if value == "" {
		return nil
	}
	v, err := strconv.ParseFloat(strings.Fields(value)[0], 64)
	if err != nil {
		p.note("warning", line, 0, "Reference", "%q is not a reference in ohms; taken as %.3g", value, t.ref)
		return nil
	}
	if !(v > 0) {
		return &FileError{fmt.Sprintf("line %d: a reference of %s ohm cannot be", line, short(value)), "a reference above zero, like 50"}
	}
	t.ref = v
	return nil
}

func (t *tsOptions) row(line int, words []string) (row, error) {
	if len(words) < 3 || len(words)%2 == 0 {
		return row{}, fmt.Errorf("%d numbers found; expected frequency and two numbers", len(words))
	}
	var v [3]float64
	for i := range v {
		x, err := strconv.ParseFloat(words[i], 64)
		if err != nil || math.IsNaN(x) || math.IsInf(x, 0) {
			return row{}, fmt.Errorf("%q is not a number", words[i])
		}
		v[i] = x
	}
	if !(v[0] > 0) {
		return row{}, fmt.Errorf("frequency %q is not above zero", words[0])
	}
	r := row{line: line, f: v[0], words: words}
	switch t.format {
	case "RI":
		r.v = complex(v[1], v[2])
	case "DB":
		r.v = cmplx.Rect(math.Pow(10, v[1]/20), v[2]*math.Pi/180)
	default:
		r.v = cmplx.Rect(v[1], v[2]*math.Pi/180)
	}
	return r, nil
}

// reflections turns the parameters of a file into reflection against 50 ohm.
func (t *tsOptions) reflections(p *Preview, rows []row, version int, o Options) []complex128 {
	least, most := math.Inf(1), 0.0
	for _, r := range rows {
		least, most = math.Min(least, cmplx.Abs(r.v)), math.Max(most, cmplx.Abs(r.v))
	}
	// Version 1 divides Z and Y by the reference, version 2 does not; some write version 1 in ohms or
	// siemens anyway. Over a sweep a normalised Z comes near 1 and ohms stay well above it; a normalised
	// Y exceeds what siemens of an antenna reach.
	normal := version == 1
	if t.param != "S" {
		if version == 1 && (t.param == "Z" && least > 5 || t.param == "Y" && most < 0.3) {
			normal = false
		}
		choice := map[bool]string{true: "normalised", false: "absolute"}[normal]
		if c := o.choice("normalised"); c != "" {
			choice, normal = c, c == "normalised"
		}
		p.guess("normalised", choice, fmt.Sprintf("%s values from %.3g to %.3g read as %s", t.param, least, most, choice), "normalised",
			"absolute")
	}
	out := make([]complex128, len(rows))
	for i, r := range rows {
		z := r.v
		switch {
		case t.param == "S" && t.ref == sweep.Reference:
			out[i] = r.v
			continue
		case t.param == "S":
			z = circuit.Impedance(r.v, t.ref)
		case t.param == "Y":
			if z = 1 / r.v; normal {
				z *= complex(t.ref, 0)
			}
		case normal:
			z *= complex(t.ref, 0)
		}
		out[i] = circuit.Gamma(z, sweep.Reference)
		if cmplx.IsNaN(out[i]) || cmplx.IsInf(out[i]) {
			out[i] = 1
		}
	}
	if t.ref != sweep.Reference {
		p.note("note", 0, 0, "R", "the file's reference is %.4g ohm; SWR is shown against 50 ohm", t.ref)
	}
	return out
}

// The frequencies in hertz within which a sweep is kept.
const (
	leastSwept = 1e5
	mostSwept  = 3e9
)

// outOfReach takes a sweep back whose frequencies no antenna of this notebook has: its points are shown, and the unit
// is asked about, but nothing can be kept.
func (p *Preview) outOfReach() {
	lo, hi := p.Sweep.F[0], p.Sweep.F[len(p.Sweep.F)-1]
	if lo < leastSwept || hi > mostSwept {
		p.Sweep = nil
		p.note("error", 0, 0, "f", "the sweep runs from %.6g to %.6g MHz, outside 0.1 to 3000: is the unit right? Nothing is kept of it",
			lo/1e6, hi/1e6)
	}
}

// maxPoints is the largest number of points of one sweep that is read.
const maxPoints = 50000

// setSweep stores the points in order, with what was odd about them.
func (p *Preview) setSweep(kind string, rows []row, scale float64, gamma []complex128) error {
	if len(rows) > maxPoints {
		return &FileError{fmt.Sprintf("the sweep has %d points", len(rows)), fmt.Sprintf("at most %d; sweep fewer bands at a time", maxPoints)}
	}
	f := make([]float64, len(rows))
	over, noisy := 0, 0
	for i, r := range rows {
		f[i] = math.Round(r.f*scale*1000) / 1000
		g := cmplx.Abs(gamma[i])
		if g > 1.05 {
			if over++; over <= 5 {
				p.note("warning", r.line, 0, "", "reflects %.2f of what was sent; more than all is a fault of calibration", g)
			}
		} else if g > 1.0005 {
			noisy++
		}
		p.Points = append(p.Points, Point{Line: r.line, Hz: f[i], SWR: circuit.SWR(g), Fields: r.words})
	}
	if over > 5 {
		p.note("warning", 0, 0, "", "%d points reflect more than all: calibrate and sweep again", over)
	}
	if noisy > 0 {
		p.note("note", 0, 0, "", "%d points reflect a little more than all; taken as noise", noisy)
	}
	s, unsorted, repeated := sweep.New(kind, f, gamma)
	if unsorted > 0 {
		p.note("note", 0, 0, "", "%d points were out of order; sorted", unsorted)
	}
	if repeated > 0 {
		p.note("warning", 0, 0, "", "%d points repeat a frequency; the first of each is kept", repeated)
	}
	if len(s.F) == 1 {
		p.note("warning", rows[0].line, 0, "", "only one point: too few to see a dip")
	}
	if lo, hi := s.F[0], s.F[len(s.F)-1]; hi < 1e6 || lo > 60e6 {
		p.note("warning", rows[0].line, 0, "", "the sweep runs from %.6g to %.6g MHz, outside 1 to 60 MHz; is the unit right?", lo/1e6, hi/1e6)
	}
	if err := s.Check(); err != nil {
		return &FileError{err.Error(), "frequencies that rise"}
	}
	p.Sweep = &s
	sort.SliceStable(p.Points, func(i, j int) bool { return p.Points[i].Hz < p.Points[j].Hz })
	return nil
}

// WriteTouchstone writes a complex sweep as a version 1 file of one port in Hz, RI, 50 ohm.
func WriteTouchstone(s sweep.Sweep, comment string) string {
	var b strings.Builder
	for line := range strings.Lines(comment) {
		fmt.Fprintf(&b, "! %s\n", strings.TrimSpace(line))
	}
	b.WriteString("# HZ S RI R 50\n")
	for i, f := range s.F {
		fmt.Fprintf(&b, "%.0f %.6f %.6f\n", f, s.Re[i], s.Im[i])
	}
	return b.String()
}
