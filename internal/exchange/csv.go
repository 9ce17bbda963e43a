package exchange

import (
	"context"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"reed/core/circuit"
	"reed/core/quantity"
	"reed/core/sweep"
)

// Meanings of a column. "-" is a column that is not read.
var columnMeanings = []string{"f", "swr", "rl", "r", "x", "|x|", "re", "im", "-"}

// headers recognise a column by its name, in this order.
var headers = []struct {
	form    *regexp.Regexp
	meaning string
}{
	{regexp.MustCompile(`^(freq|frequency|f|frequenz|fréquence)\b`), "f"},
	{regexp.MustCompile(`swr|^s$|stehwelle|ros`), "swr"},
	{regexp.MustCompile(`return.?loss|^rl\b|s11.*db|db.*s11|^db$`), "rl"},
	{regexp.MustCompile(`^\|x|^abs.*x|x.*(abs|mag|unsigned)`), "|x|"},
	{regexp.MustCompile(`^(re|real)\b.*(s11|gamma|refl)|^(s11|gamma).*re`), "re"},
	{regexp.MustCompile(`^(im|imag)\b.*(s11|gamma|refl)|^(s11|gamma).*im`), "im"},
	{regexp.MustCompile(`^(r|rs|resist\w*)\b|^(re|real)\b`), "r"},
	{regexp.MustCompile(`^(x|xs|react\w*)\b|^(im|imag)\b`), "x"},
}

// cells splits a line. A comma parts cells only where it is not the decimal mark.
func cells(line string, sep rune) []string {
	if sep == ' ' {
		return strings.Fields(line)
	}
	parts := strings.Split(line, string(sep))
	for i := range parts {
		parts[i] = strings.Trim(strings.TrimSpace(parts[i]), `"`)
	}
	for len(parts) > 1 && parts[len(parts)-1] == "" {
		parts = parts[:len(parts)-1]
	}
	return parts
}

// separator decides from the lines as a whole.
func separator(lines []string) (sep rune, decimalComma bool) {
	count := func(r rune) int {
		n := 0
		for _, l := range lines {
			if strings.ContainsRune(l, r) {
				n++
			}
		}
		return n
	}
	most := len(lines) * 6 / 10
	switch {
	case count(';') > most:
		sep = ';'
	case count('\t') > most:
		sep = '\t'
	case count(',') > most:
		// "7,032 1,25" has decimal commas and blanks; "7.032,1.25" and "7.032, 1.25" have separating commas.
		decimal := 0
		for _, l := range lines {
			if decimalCells.MatchString(strings.TrimSpace(l)) {
				decimal++
			}
		}
		if decimal > most {
			return ' ', true
		}
		return ',', false
	default:
		sep = ' '
	}
	points, commas := count('.'), count(',')
	return sep, commas > 0 && commas >= points
}

var decimalCells = regexp.MustCompile(`^[-+]?\d+(,\d+)?(\s+[-+]?\d+(,\d+)?)+$`)

func readCSV(ctx context.Context, p *Preview, text string, o Options) error {
	p.Kind = "csv"
	var lines []string
	var numbers []int
	n := 0
	for line := range strings.Lines(text) {
		n++
		if t := strings.TrimSpace(line); t != "" && !strings.HasPrefix(t, "#") && !strings.HasPrefix(t, "!") && !strings.HasPrefix(strings.ToLower(t), "sep=") {
			lines, numbers = append(lines, t), append(numbers, n)
		}
	}
	if len(lines) == 0 {
		return &FileError{"no line with values was found", anyFile}
	}
	sep, comma := separator(lines)
	names := map[rune]string{',': "comma", ';': "semicolon", '\t': "tab", ' ': "blank"}
	p.note("note", 0, 0, "", "columns parted by %s, decimals by %s", names[sep], map[bool]string{true: "comma", false: "point"}[comma])
	number := func(s string) (float64, bool) {
		if comma {
			s = strings.Replace(s, ",", ".", 1)
		}
		v, err := strconv.ParseFloat(strings.TrimSpace(s), 64)
		return v, err == nil && !math.IsNaN(v) && !math.IsInf(v, 0)
	}
	first := cells(lines[0], sep)
	_, isNumber := number(first[0])
	var head []string
	if !isNumber {
		head = first
		lines, numbers = lines[1:], numbers[1:]
	}
	var table [][]float64
	var rows []row
	width := 0
	for i, l := range lines {
		if i%4096 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		c := cells(l, sep)
		values := make([]float64, len(c))
		bad := ""
		for k, s := range c {
			v, ok := number(s)
			if !ok && (k < 2 || s != "") && bad == "" && (k == 0 || head == nil || k >= len(head) || meaningOf(head[k]) != "-") {
				bad = s
			}
			values[k] = v
		}
		if bad == "" && len(c) < 2 {
			bad = l
		}
		if bad != "" {
			p.note("error", numbers[i], 0, "", "%s is not a number; this line is left out", short(bad))
			continue
		}
		if width == 0 {
			width = len(c)
		}
		if len(c) < width {
			p.note("error", numbers[i], 0, "", "%d values found, expected %d; this line is left out", len(c), width)
			continue
		}
		table = append(table, values[:width])
		rows = append(rows, row{line: numbers[i], words: c})
	}
	if len(table) == 0 {
		return &FileError{"no line of numbers was found", anyFile}
	}
	columns := p.columns(head, table, width, o)
	scale := p.unit(head, columns, table, o)
	kept := 0
	for i := range table {
		f := table[i][index(columns, "f")]
		if !(f > 0) {
			p.note("error", rows[i].line, 0, "f", "frequency %v is not above zero; this line is left out", f)
			continue
		}
		table[kept], rows[kept] = table[i], rows[i]
		rows[kept].f = f
		kept++
	}
	if kept == 0 {
		return &FileError{"no frequency above zero was found", anyFile}
	}
	table, rows = table[:kept], rows[:kept]
	kind, gamma, rows, err := p.reflect(columns, table, rows)
	if err != nil {
		return err
	}
	return p.setSweep(kind, rows, scale, gamma)
}

func meaningOf(name string) string {
	name = strings.ToLower(strings.TrimSpace(name))
	for _, h := range headers {
		if h.form.MatchString(name) {
			return h.meaning
		}
	}
	return "-"
}

func index(columns []string, meaning string) int {
	for i, c := range columns {
		if c == meaning {
			return i
		}
	}
	return -1
}

// columns decides what each column means: as chosen, by header, otherwise by magnitude.
func (p *Preview) columns(head []string, table [][]float64, width int, o Options) []string {
	columns := make([]string, width)
	how := "by their size"
	if head != nil {
		how = "by the header"
		for i := range columns {
			columns[i] = "-"
			if i < len(head) {
				if m := meaningOf(head[i]); m == "-" || index(columns, m) < 0 {
					columns[i] = m
				}
			}
		}
	}
	if index(columns, "f") < 0 || index(columns, "swr") < 0 && index(columns, "rl") < 0 && index(columns, "r") < 0 && index(columns, "re") < 0 {
		how = "by their size"
		for i := range columns {
			columns[i] = "-"
		}
		columns[0] = "f"
		lo, hi := span(table, 1)
		switch {
		case width >= 3 && !(lo >= 1 && allAtLeast(table, 1, 1) && width > 3):
			columns[1], columns[2] = "r", "x"
			lo2, hi2 := span(table, 2)
			if lo >= -1.0001 && hi <= 1.0001 && lo2 >= -1.0001 && hi2 <= 1.0001 {
				columns[1], columns[2] = "re", "im"
			}
			if width > 3 && allAtLeast(table, 3, 1) {
				columns[3] = "swr"
			}
		case width > 3:
			columns[1], columns[2], columns[3] = "swr", "r", "x"
		case lo >= 1 && hi < 2000 && !(lo > 3 && hi < 60 && peaks(table, 1)):
			columns[1] = "swr"
		default:
			columns[1] = "rl"
		}
	}
	if c := o.choice("columns"); c != "" {
		for i, m := range strings.Split(c, " ") {
			if i < width {
				columns[i] = m
			}
		}
		how = "as chosen"
	}
	if index(columns, "f") < 0 {
		columns[0] = "f"
	}
	p.guess("columns", strings.Join(columns, " "), "columns read "+how+": "+strings.Join(columns, ", "), columnMeanings...)
	return columns
}

func span(table [][]float64, col int) (lo, hi float64) {
	lo, hi = math.Inf(1), math.Inf(-1)
	for _, r := range table {
		lo, hi = math.Min(lo, r[col]), math.Max(hi, r[col])
	}
	return lo, hi
}

func allAtLeast(table [][]float64, col int, least float64) bool {
	lo, _ := span(table, col)
	return lo >= least
}

// peaks reports whether a column rises to a peak inside, as return loss does, and SWR does not.
func peaks(table [][]float64, col int) bool {
	best, n := 0, len(table)
	for i := range table {
		if table[i][col] > table[best][col] {
			best = i
		}
	}
	return n > 4 && best > n/10 && best < n-1-n/10
}

// unit decides the unit of frequency by header, otherwise by magnitude.
func (p *Preview) unit(head []string, columns []string, table [][]float64, o Options) float64 {
	col := index(columns, "f")
	_, hi := span(table, col)
	unit, how := "Hz", "by its size"
	switch {
	case hi < 1000:
		unit = "MHz"
	case hi < 1e6:
		unit = "kHz"
	}
	if head != nil && col < len(head) {
		for _, u := range []string{"GHz", "MHz", "kHz", "Hz"} {
			if strings.Contains(strings.ToLower(head[col]), strings.ToLower(u)) {
				if u != unit {
					p.note("note", 0, 0, "f", "the header says %s", u)
				}
				unit, how = u, "by the header"
				break
			}
		}
	}
	if c := o.choice("frequency-unit"); c != "" {
		unit, how = c, "as chosen"
	}
	p.guess("frequency-unit", unit, "frequency in "+unit+", "+how, "Hz", "kHz", "MHz", "GHz")
	return tsUnits[strings.ToUpper(unit)]
}

// reflect turns the columns into reflection, with what they contradict.
func (p *Preview) reflect(columns []string, table [][]float64, rows []row) (kind string, gamma []complex128, kept []row, err error) {
	ir, ix, iux := index(columns, "r"), index(columns, "x"), index(columns, "|x|")
	iswr, irl, ire, iim := index(columns, "swr"), index(columns, "rl"), index(columns, "re"), index(columns, "im")
	kind = sweep.Magnitude
	switch {
	case ire >= 0 && iim >= 0, ir >= 0 && ix >= 0:
		kind = sweep.Complex
	case ir >= 0 && iux >= 0:
		kind = sweep.Unsigned
		ix = iux
	case iswr < 0 && irl < 0:
		return "", nil, nil, &FileError{"no column of SWR, R and X, or return loss was found", anyFile}
	}
	if kind == sweep.Complex && ire < 0 && unsigned(table, ix) {
		kind = sweep.Unsigned
		p.note("warning", 0, 0, "x", "X never goes below zero though it turns around: taken as without sign, so that it says nothing on too long or short")
	}
	negative, positive := 0, 0
	contradict := 0
	for i, v := range table {
		bad := func(field, format string, args ...any) {
			p.note("error", rows[i].line, 0, field, format+"; this line is left out", args...)
		}
		var g complex128
		switch {
		case kind == sweep.Magnitude && iswr >= 0:
			if v[iswr] < 0.99 {
				bad("swr", "an SWR of %v cannot be; it is 1 or more", v[iswr])
				continue
			}
			g = complex(circuit.Magnitude(v[iswr]), 0)
		case kind == sweep.Magnitude:
			if v[irl] > 0 {
				positive++
			} else if v[irl] < 0 {
				negative++
			}
			if math.Abs(v[irl]) > 120 {
				bad("rl", "a return loss of %v dB cannot be", v[irl])
				continue
			}
			g = complex(math.Pow(10, -math.Abs(v[irl])/20), 0)
		case ire >= 0 && iim >= 0:
			g = complex(v[ire], v[iim])
		default:
			if v[ir] < -5 || math.Abs(v[ir]) > 1e6 || math.Abs(v[ix]) > 1e6 {
				bad("r", "R %v and X %v cannot be of an antenna", v[ir], v[ix])
				continue
			}
			g = circuit.Gamma(complex(v[ir], v[ix]), sweep.Reference)
		}
		if iswr >= 0 && kind != sweep.Magnitude && v[iswr] >= 1 {
			if own := circuit.SWR(math.Hypot(real(g), imag(g))); own < 20 && math.Abs(own-v[iswr]) > 0.2+0.1*own {
				if contradict++; contradict <= 3 {
					p.note("warning", rows[i].line, 0, "swr", "SWR %.2f contradicts R and X, which give %.2f; R and X are taken", v[iswr], own)
				}
			}
		}
		kept, gamma = append(kept, rows[i]), append(gamma, g)
	}
	if negative > 0 && positive > 0 {
		p.note("warning", 0, 0, "rl", "return loss has both signs (%d and %d points); taken without sign", positive, negative)
	} else if negative > 0 {
		p.note("note", 0, 0, "rl", "return loss is written with a minus; taken as loss")
	}
	if contradict > 3 {
		p.note("warning", 0, 0, "swr", "%d points in all have an SWR that contradicts their R and X", contradict)
	}
	if len(kept) == 0 {
		return "", nil, nil, &FileError{"no line has values that an antenna can have", anyFile}
	}
	return kind, gamma, kept, nil
}

// unsigned reports whether a column that never is negative touches down inside the sweep and rises
// again on both sides, as the magnitude of a reactance does.
func unsigned(table [][]float64, col int) bool {
	if !allAtLeast(table, col, 0) || len(table) < 5 {
		return false
	}
	least := 0
	for i := range table {
		if table[i][col] < table[least][col] {
			least = i
		}
	}
	_, hi := span(table, col)
	return least > 0 && least < len(table)-1 && table[least][col] < hi/5 && table[0][col] > hi/5 && table[len(table)-1][col] > hi/5
}

// ParseReadings reads SWR readings typed by hand, one a line: frequency and SWR.
func ParseReadings(text string) (*Preview, error) {
	p := &Preview{Kind: "typed", Name: "typed readings", Encoding: "UTF-8", Guesses: []Guess{}, Notes: []Note{}}
	var rows []row
	var gamma []complex128
	n := 0
	for line := range strings.Lines(text) {
		n++
		words := strings.Fields(strings.NewReplacer(";", " ", ":", " ", "\t", " ").Replace(line))
		if len(words) == 0 {
			continue
		}
		if len(words) != 2 {
			p.note("error", n, 0, "", "%d words found; expected frequency and SWR, like 7.05 1.4", len(words))
			continue
		}
		f, err := quantity.ParseFrequency(words[0], "MHz")
		if err != nil {
			p.note("error", n, 0, "f", "%v", err)
			continue
		}
		if f.Value < 1e6 || f.Value > 60e6 {
			if f.Value >= 1e9 && f.Value < 60e9 { // typed in kHz
				p.note("note", n, 0, "f", "%s read as kHz", words[0])
				f.Value /= 1e3
			} else {
				p.note("error", n, 0, "f", "%s MHz is outside 1 to 60 MHz", quantity.MHz(f.Value))
				continue
			}
		}
		swr, err := strconv.ParseFloat(strings.Replace(words[1], ",", ".", 1), 64)
		if err != nil || swr < 1 || swr > circuit.MaxSWR {
			p.note("error", n, 0, "swr", "%q is not an SWR; it is a number of 1 or more, like 1.4", words[1])
			continue
		}
		rows = append(rows, row{line: n, f: f.Value, words: words})
		gamma = append(gamma, complex(circuit.Magnitude(swr), 0))
	}
	if len(rows) == 0 {
		if len(p.Notes) > 0 {
			return nil, &FileError{fmt.Sprintf("line %d: %s", p.Notes[0].Line, p.Notes[0].Text), "one reading a line, like 7.05 1.4"}
		}
		return nil, &FileError{"nothing was typed", "one reading a line, like 7.05 1.4"}
	}
	if err := p.setSweep(sweep.Magnitude, rows, 1, gamma); err != nil {
		return nil, err
	}
	p.count()
	return p, nil
}
