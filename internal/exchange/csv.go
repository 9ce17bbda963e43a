package exchange

import (
	"cmp"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"reed/core/circuit"
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

// The most rows of numbers and the most odd lines that a sweep in CSV is read to.
const (
	mostRows  = maxPoints
	mostWide  = 64 // columns
	sniffed   = 200
	separated = 6 // of ten lines
)

// csvLines are the lines of a file without comments, which become empty, so that the numbers of the others stay. A
// comment right before the first line of values may hold the names of the columns.
type csvLines struct {
	text  string
	named string // the last comment before the values
	sep   rune   // as said by a sep= line, 0 without one
	head  []string
}

// uncommented takes comments out. What stands within quotes is no comment.
func uncommented(ctx context.Context, text string) (csvLines, error) {
	var out csvLines
	var b strings.Builder
	quoted, n, values := false, 0, 0
	for line := range strings.Lines(text) {
		if n++; n%4096 == 0 && ctx.Err() != nil {
			return out, ctx.Err()
		}
		t := strings.TrimSpace(line)
		switch {
		case quoted:
		case strings.HasPrefix(strings.ToLower(t), "sep=") && len(t) == 5:
			out.sep, line = rune(t[4]), "\n"
		case strings.HasPrefix(t, "!"), strings.HasPrefix(t, "#"):
			if values == 0 {
				out.named = t
			}
			line = "\n"
		case t != "":
			if values++; len(out.head) < sniffed {
				out.head = append(out.head, t)
			}
		}
		if strings.Count(line, `"`)%2 == 1 {
			quoted = !quoted
		}
		b.WriteString(line)
		if values > mostRows+1000 {
			return out, &FileError{fmt.Sprintf("the sweep has more than %d lines", mostRows),
				fmt.Sprintf("at most %d points; sweep fewer bands at a time", maxPoints)}
		}
	}
	out.text = b.String()
	return out, nil
}

// quotedText matches text in quotes, in which separators do not count.
var quotedText = regexp.MustCompile(`"(?:[^"]|"")*"`)

// separator decides from the lines as a whole.
func separator(lines []string) rune {
	count := func(r rune) int {
		n := 0
		for _, l := range lines {
			if strings.ContainsRune(quotedText.ReplaceAllString(l, "q"), r) {
				n++
			}
		}
		return n
	}
	most := len(lines) * separated / 10
	switch {
	case count(';') > most:
		return ';'
	case count('\t') > most:
		return '\t'
	case count(',') > most:
		// "7,032 1,25" has decimal commas and blanks; "7.032,1.25" and "7.032, 1.25" have separating commas.
		decimal := 0
		for _, l := range lines {
			if decimalCells.MatchString(strings.TrimSpace(l)) {
				decimal++
			}
		}
		if decimal > most {
			return ' '
		}
		return ','
	}
	return ' '
}

var decimalCells = regexp.MustCompile(`^[-+]?\d+(,\d+)?(\s+[-+]?\d+(,\d+)?)+$`)

// csvRow is a row of cells with the line that it begins on.
type csvRow struct {
	line  int
	cells []string
}

// split reads the rows of cells: by encoding/csv, or at blanks.
func (l csvLines) split(ctx context.Context, sep rune) ([]csvRow, error) {
	var out []csvRow
	if sep == ' ' {
		n := 0
		for line := range strings.Lines(l.text) {
			n++
			if f := strings.Fields(line); len(f) > 0 {
				out = append(out, csvRow{n, f})
			}
		}
		return out, nil
	}
	r := csv.NewReader(strings.NewReader(l.text))
	r.Comma, r.LazyQuotes, r.FieldsPerRecord, r.TrimLeadingSpace = sep, true, -1, true
	for {
		if len(out)%4096 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, &FileError{"the file is no CSV: " + err.Error(), anyFile}
		}
		line, _ := r.FieldPos(0)
		for i := range cells {
			cells[i] = strings.TrimSpace(cells[i])
		}
		for len(cells) > 1 && cells[len(cells)-1] == "" {
			cells = cells[:len(cells)-1]
		}
		if len(cells) > mostWide {
			return nil, &FileError{fmt.Sprintf("line %d has %d columns", line, len(cells)), fmt.Sprintf("at most %d", mostWide)}
		}
		if len(cells) > 1 || cells[0] != "" {
			out = append(out, csvRow{line, cells})
		}
	}
}

// Styles of a number's commas and points.
const (
	pointDecimal = "point"     // 7.032, and commas group thousands
	commaDecimal = "comma"     // 7,032, and points group thousands
	grouped      = "thousands" // 14,060 is fourteen thousand
)

var (
	groups    = regexp.MustCompile(`^[-+]?\d{1,3}(?:,\d{3})+(?:\.\d+)?$`)
	groupsTwo = regexp.MustCompile(`^[-+]?\d{1,3}(?:(?:,\d{3}){2,}|(?:,\d{3})+\.\d+)`)
	pointTwo  = regexp.MustCompile(`^[-+]?\d{1,3}(?:(?:\.\d{3}){2,}|(?:\.\d{3})+,\d+)`)
	anyComma  = regexp.MustCompile(`^[-+]?\d*,\d+$`)
)

// style decides what a comma in a number is: from those that can be read in one way only, otherwise by the header's
// unit. asked says that it might be otherwise.
func style(rows []csvRow, head []string) (how string, asked bool) {
	decimal, thousands, either, points := 0, 0, 0, 0
	for _, r := range rows {
		for _, c := range r.cells {
			switch {
			case groupsTwo.MatchString(c):
				thousands++
			case pointTwo.MatchString(c):
				decimal++
			case groups.MatchString(c):
				either++
			case anyComma.MatchString(c):
				decimal++
			case strings.Contains(c, "."):
				points++
			}
		}
	}
	switch {
	case decimal > 0 && thousands == 0 && points == 0:
		return commaDecimal, false
	case thousands > 0:
		return grouped, false
	case decimal > points:
		return commaDecimal, false
	case either == 0:
		return pointDecimal, false
	}
	name := strings.ToLower(strings.Join(head, " "))
	if strings.Contains(name, "mhz") || !strings.Contains(name, "khz") && !strings.Contains(name, "hz") && points == 0 {
		return commaDecimal, true
	}
	return grouped, true
}

// numbered reads a cell in a style.
func numbered(s, how string) (float64, bool) {
	s = strings.TrimSpace(s)
	switch how {
	case commaDecimal:
		if strings.Contains(s, ",") || pointTwo.MatchString(s) {
			s = strings.ReplaceAll(s, ".", "")
		}
		s = strings.Replace(s, ",", ".", 1)
	case grouped:
		if groups.MatchString(s) {
			s = strings.ReplaceAll(s, ",", "")
		}
	}
	v, err := strconv.ParseFloat(s, 64)
	return v, err == nil && !math.IsNaN(v) && !math.IsInf(v, 0) && !strings.ContainsAny(s, "xX_pP")
}

var split2 = regexp.MustCompile(`^[-+]?\d+$`)

// torn reports whether the commas that part columns look like decimal marks too: more columns than the header has, or
// neighbours that are whole numbers throughout, the second always of as many figures, where the first hardly changes.
func torn(rows []csvRow, head []string) bool {
	if len(rows) == 0 {
		return false
	}
	width := len(rows[0].cells)
	if head != nil && width > len(head) && width <= 2*len(head) {
		whole := 0
		for _, c := range rows[0].cells {
			if split2.MatchString(c) {
				whole++
			}
		}
		return whole >= 2*(width-len(head))
	}
	if head != nil || width < 3 {
		return false
	}
	first, figures := map[string]bool{}, len(rows[0].cells[1])
	for _, r := range rows {
		if len(r.cells) < 2 || !split2.MatchString(r.cells[0]) || !split2.MatchString(r.cells[1]) || len(r.cells[1]) != figures {
			return false
		}
		first[r.cells[0]] = true
	}
	return len(rows[0].cells[0]) <= 2 && (len(first) < len(rows) || len(rows) == 1 && width%2 == 0)
}

// heading finds the names of the columns: the first row when it is none of numbers, or the comment before it.
func (l csvLines) heading(rows []csvRow, sep rune, how string) (head []string, rest []csvRow) {
	if _, number := numbered(rows[0].cells[0], how); !number {
		return rows[0].cells, rows[1:]
	}
	if l.named == "" {
		return nil, rows
	}
	for _, name := range []string{l.named, strings.TrimSpace(strings.TrimLeft(l.named, "#!"))} {
		one, err := csvLines{text: name}.split(context.Background(), sep)
		if err != nil || len(one) != 1 || len(one[0].cells) != len(rows[0].cells) {
			continue
		}
		for _, c := range one[0].cells {
			if meaningOf(c) == "f" {
				return one[0].cells, rows
			}
		}
	}
	return nil, rows
}

func readCSV(ctx context.Context, p *Preview, text string, o Options) error {
	p.Kind = "csv"
	lines, err := uncommented(ctx, text)
	if err != nil {
		return err
	}
	if len(lines.head) == 0 {
		return &FileError{"no line with values was found", anyFile}
	}
	sep := lines.sep
	if sep == 0 {
		sep = separator(lines.head)
	}
	all, err := lines.split(ctx, sep)
	if err != nil {
		return err
	}
	if len(all) == 0 {
		return &FileError{"no line with values was found", anyFile}
	}
	how, asked := style(all, nil)
	head, rest := lines.heading(all, sep, how)
	if head != nil {
		how, asked = style(rest, head)
	}
	if sep == ',' && torn(rest, head) {
		return &FileError{"commas separate the columns, and look like decimal marks too: 13,900,1,5 can be read in two ways",
			"points as decimal marks, numbers in quotes, or semicolons between the columns"}
	}
	if c := o.choice("commas"); c == commaDecimal || c == grouped || c == pointDecimal {
		how = c
	}
	if asked {
		p.guess("commas", how, map[string]string{commaDecimal: "a comma in a number is a decimal comma",
			grouped: "a comma in a number groups thousands"}[how], commaDecimal, grouped)
	}
	names := map[rune]string{',': "comma", ';': "semicolon", '\t': "tab", ' ': "blank"}
	p.note("note", 0, 0, "", "columns separated by %s, decimals by %s", cmp.Or(names[sep], string(sep)),
		map[bool]string{true: "comma", false: "point"}[how == commaDecimal])
	table, rows, width, err := p.numbers(ctx, rest, head, how)
	if err != nil {
		return err
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
	if err := p.setSweep(kind, rows, scale, gamma); err != nil {
		return err
	}
	p.outOfReach()
	return nil
}

// numbers reads the cells; a row that holds a word where a number is due, or too few, is left out and said.
func (p *Preview) numbers(ctx context.Context, all []csvRow, head []string, how string) (table [][]float64, rows []row, width int,
	err error) {
	for i, r := range all {
		if i%4096 == 0 && ctx.Err() != nil {
			return nil, nil, 0, ctx.Err()
		}
		values := make([]float64, len(r.cells))
		bad := ""
		for k, s := range r.cells {
			v, ok := numbered(s, how)
			if !ok && (k < 2 || s != "") && bad == "" && (k == 0 || head == nil || k >= len(head) || meaningOf(head[k]) != "-") {
				bad = s
			}
			values[k] = v
		}
		if bad == "" && len(r.cells) < 2 {
			bad = r.cells[0]
		}
		if bad != "" {
			p.note("error", r.line, 0, "", "%s is not a number; this line is left out", short(bad))
			continue
		}
		if width == 0 {
			width = len(values)
		}
		if len(values) < width {
			p.note("error", r.line, 0, "", "%d values found, expected %d; this line is left out", len(values), width)
			continue
		}
		table, rows = append(table, values[:width]), append(rows, row{line: r.line, words: r.cells})
	}
	if len(table) == 0 {
		return nil, nil, 0, &FileError{"no line of numbers was found", anyFile}
	}
	return table, rows, width, nil
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
	if index(columns, "f") < 0 || index(columns, "swr") < 0 && index(columns, "rl") < 0 && index(columns, "r") < 0 &&
		index(columns, "re") < 0 {
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
	units := []string{"Hz", "kHz", "MHz", "GHz"}
	// What would lie far outside is not offered.
	units = slices.DeleteFunc(units, func(u string) bool {
		return u != unit && (hi*tsUnits[strings.ToUpper(u)] < leastSwept || hi*tsUnits[strings.ToUpper(u)] > mostSwept)
	})
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
	p.guess("frequency-unit", unit, "frequency in "+unit+", "+how, units...)
	return tsUnits[strings.ToUpper(unit)]
}

// reflect turns the columns into reflection, with what they contradict.
func (p *Preview) reflect(columns []string, table [][]float64, rows []row) (kind string, gamma []complex128, kept []row, err error) {
	c := reflecting{r: index(columns, "r"), x: index(columns, "x"), swr: index(columns, "swr"), rl: index(columns, "rl"),
		re: index(columns, "re"), im: index(columns, "im"), kind: sweep.Magnitude}
	ux := index(columns, "|x|")
	switch {
	case c.re >= 0 && c.im >= 0, c.r >= 0 && c.x >= 0:
		c.kind = sweep.Complex
	case c.r >= 0 && ux >= 0:
		c.kind = sweep.Unsigned
		c.x = ux
	case c.swr < 0 && c.rl < 0:
		return "", nil, nil, &FileError{"no column of SWR, R and X, or return loss was found", anyFile}
	}
	if c.kind == sweep.Complex && c.re < 0 && unsigned(table, c.x) {
		c.kind = sweep.Unsigned
		p.note("warning", 0, 0, "x", "X never goes below zero though it turns around: taken as without sign, so that it says nothing on too "+
			"long or short")
	}
	negative, positive := 0, 0
	contradict := 0
	for i, v := range table {
		g, field, why := c.gamma(v)
		if c.kind == sweep.Magnitude && c.swr < 0 {
			if v[c.rl] > 0 {
				positive++
			} else if v[c.rl] < 0 {
				negative++
			}
		}
		if why != "" {
			p.note("error", rows[i].line, 0, field, "%s; this line is left out", why)
			continue
		}
		if own, is := c.contradicts(v, g); is {
			if contradict++; contradict <= 3 {
				p.note("warning", rows[i].line, 0, "swr", "SWR %.2f contradicts R and X, which give %.2f; R and X are taken", v[c.swr], own)
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
	return c.kind, gamma, kept, nil
}

// reflecting is which columns a reflection is read from, each -1 when it is not there.
type reflecting struct {
	r, x, swr, rl, re, im int
	kind                  string
}

// gamma is the reflection of a line, or what at which field cannot be.
func (c reflecting) gamma(v []float64) (g complex128, field, why string) {
	switch {
	case c.kind == sweep.Magnitude && c.swr >= 0:
		if v[c.swr] < 0.99 {
			return 0, "swr", fmt.Sprintf("an SWR of %v cannot be; it is 1 or more", v[c.swr])
		}
		return complex(circuit.Magnitude(v[c.swr]), 0), "", ""
	case c.kind == sweep.Magnitude:
		if math.Abs(v[c.rl]) > 120 {
			return 0, "rl", fmt.Sprintf("a return loss of %v dB cannot be", v[c.rl])
		}
		return complex(math.Pow(10, -math.Abs(v[c.rl])/20), 0), "", ""
	case c.re >= 0 && c.im >= 0:
		return complex(v[c.re], v[c.im]), "", ""
	}
	if v[c.r] < -5 || math.Abs(v[c.r]) > 1e6 || math.Abs(v[c.x]) > 1e6 {
		return 0, "r", fmt.Sprintf("R %v and X %v cannot be of an antenna", v[c.r], v[c.x])
	}
	return circuit.Gamma(complex(v[c.r], v[c.x]), sweep.Reference), "", ""
}

// contradicts says whether a line's SWR is not that of its R and X, which is own.
func (c reflecting) contradicts(v []float64, g complex128) (own float64, is bool) {
	if c.swr < 0 || c.kind == sweep.Magnitude || v[c.swr] < 1 {
		return 0, false
	}
	own = circuit.SWR(math.Hypot(real(g), imag(g)))
	return own, own < 20 && math.Abs(own-v[c.swr]) > 0.2+0.1*own
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
