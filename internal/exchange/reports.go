package exchange

import (
	"cmp"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"hash/maphash"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"reed/core/band"
	"reed/core/clock"
	"reed/core/onair"
	"reed/core/place"
	"reed/core/quantity"
)

// Heard is one reception report of a file. Taken is false when it is not stored; the notes say why. Known is true when the same
// stands before it in the file.
type Heard struct {
	onair.Report
	Number int  `json:"number"`
	Line   int  `json:"line"`
	Taken  bool `json:"taken"`
	Known  bool `json:"known,omitempty"`
}

// mostHeard is how many reports a preview holds; whoever stores them takes them one by one.
const mostHeard = 200_000

// table is a file of rows that can be gone through more than once without holding it apart.
type table struct {
	head []string
	rows func(ctx context.Context, each func(line int, cells []string) error) error
}

// reportTable parts a text into rows; ok is false where it holds no reception reports.
func reportTable(ctx context.Context, text string) (t table, list []reportColumn, ok bool) {
	sep, first, skip := layOut(text)
	rows := rowsOf(text, sep, first)
	var names []string
	var sampled [][]string
	stop := errors.New("enough")
	_ = rows(ctx, func(line int, cells []string) error {
		if line == first && skip {
			names = slices.Clone(cells)
			return nil
		}
		if sampled = append(sampled, slices.Clone(cells)); len(sampled) >= sniffed {
			return stop
		}
		return nil
	})
	t.rows = func(ctx context.Context, each func(line int, cells []string) error) error {
		return rows(ctx, func(line int, cells []string) error {
			if line == first && skip {
				return nil
			}
			return each(line, cells)
		})
	}
	if names != nil {
		for _, n := range names {
			list = append(list, columnOf(n))
		}
		complete(list)
		t.head = names
	} else if len(sampled) > 0 {
		list = guessed(sampled)
	}
	has := func(what string) bool { return holding(list, what) >= 0 }
	timed := has(asAt) || has(asDate) && has(asTime)
	return t, list, timed && (has(asReceiver) || has(asSender) && names != nil) && (has(asSNR) || has(asReceiver) && has(asSender))
}

// layOut finds what parts the columns, and the line of their names: the first row, or the last comment before it; named is
// false where there is none.
func layOut(text string) (sep rune, first int, named bool) {
	var head []string
	comment, at, begins, n := "", 0, 0, 0
	for line := range strings.Lines(text) {
		n++
		t := strings.TrimSpace(line)
		switch {
		case t == "" || strings.HasPrefix(t, "!") || strings.HasPrefix(strings.ToLower(t), "sep="):
		case strings.HasPrefix(t, "#"):
			if len(head) == 0 {
				comment, at = strings.TrimLeft(t, "# "), n
			}
		default:
			if len(head) == 0 {
				begins = n
			}
			head = append(head, t)
		}
		if len(head) >= sniffed {
			break
		}
	}
	if len(head) == 0 {
		return ',', 0, false
	}
	sep = ','
	if len(head) > 1 {
		sep = separator(head[1:])
	} else if s := separator(head); s != ' ' || !strings.Contains(head[0], ",") {
		sep = s
	}
	if sep == ' ' && strings.Contains(head[0], "|") {
		sep = '|'
	}
	switch {
	case naming(head[0], sep):
		return sep, begins, true
	case comment != "" && naming(comment, sep):
		return sep, at, true
	}
	return sep, begins, false
}

// naming reports whether a line names columns.
func naming(line string, sep rune) bool {
	names := 0
	_ = rowsOf(line, sep, 1)(context.Background(), func(_ int, cells []string) error {
		for _, c := range cells {
			if columnOf(c).holds != "" && !callLike(c) {
				names++
			}
		}
		return nil
	})
	return names >= 2
}

// rowsOf goes through the rows of a text: by encoding/csv, or at blanks. Comments and empty lines are left out, but for the one
// that names the columns.
func rowsOf(text string, sep rune, first int) func(ctx context.Context, each func(line int, cells []string) error) error {
	return func(ctx context.Context, each func(line int, cells []string) error) error {
		if sep == ' ' || sep == '|' {
			n := 0
			for line := range strings.Lines(text) {
				if n++; n%4096 == 0 && ctx.Err() != nil {
					return ctx.Err()
				}
				cells := strings.Fields(line)
				if sep == '|' {
					cells = strings.Split(strings.Trim(strings.TrimSpace(line), "|"), "|")
				}
				if len(cells) == 0 || strings.HasPrefix(cells[0], "!") || strings.HasPrefix(cells[0], "#") && n != first {
					continue
				}
				cells[0] = strings.TrimLeft(cells[0], "#")
				if err := each(n, trimmed(cells)); err != nil {
					return err
				}
			}
			return nil
		}
		r := csv.NewReader(strings.NewReader(text))
		r.Comma, r.LazyQuotes, r.FieldsPerRecord, r.TrimLeadingSpace, r.ReuseRecord = sep, true, -1, true, true
		for n := 0; ; n++ {
			if n%4096 == 0 && ctx.Err() != nil {
				return ctx.Err()
			}
			cells, err := r.Read()
			if errors.Is(err, io.EOF) {
				return nil
			}
			if err != nil {
				return &FileError{"the file is no CSV: " + err.Error(), anyFile}
			}
			line, _ := r.FieldPos(0)
			if len(cells) > mostWide {
				return &FileError{fmt.Sprintf("line %d has %d columns", line, len(cells)), fmt.Sprintf("at most %d", mostWide)}
			}
			comment := strings.HasPrefix(cells[0], "!") || strings.HasPrefix(cells[0], "#") && line != first
			if comment || strings.HasPrefix(strings.ToLower(cells[0]), "sep=") || len(cells) == 1 && strings.TrimSpace(cells[0]) == "" {
				continue
			}
			cells[0] = strings.TrimSpace(strings.TrimLeft(cells[0], "#"))
			if err := each(line, trimmed(cells)); err != nil {
				return err
			}
		}
	}
}

func trimmed(cells []string) []string {
	for i := range cells {
		cells[i] = strings.TrimSpace(cells[i])
	}
	return cells
}

// survey holds what follows from all rows of a file together.
type survey struct {
	senders, receivers        map[string]int
	dayFirst, monthFirst, odd int // dates that can be read so only
	dmy, mdy                  [2]time.Time
	zoned                     bool
	powers                    sample
	powerSteps                bool
	modes                     map[string]int
	rows                      int
}

// decibelSteps are powers as slow beacons tell them: whole numbers of dBm that end in 0, 3 or 7.
func decibelSteps(v float64) bool {
	if v != math.Trunc(v) || v < 0 || v > 60 {
		return false
	}
	last := int(v) % 10
	return last == 0 || last == 3 || last == 7
}

const mostStations = 20_000

// look goes through all rows once.
func (r *reportReader) look(ctx context.Context) error {
	s := &r.survey
	s.senders, s.receivers, s.modes, s.powerSteps = map[string]int{}, map[string]int{}, map[string]int{}, true
	dmy, mdy := clockReader{order: dayFirst}, clockReader{order: monthFirst}
	return r.table.rows(ctx, func(_ int, cells []string) error {
		s.rows++
		count := func(m map[string]int, call string) {
			if c, _ := bareCall(call); c != "" && !hashed.MatchString(call) && (len(m) < mostStations || m[onair.BaseCall(c)] > 0) {
				m[onair.BaseCall(c)]++
			}
		}
		count(s.senders, r.cell(cells, asSender))
		count(s.receivers, r.cell(cells, asReceiver))
		s.modes[strings.ToUpper(r.cell(cells, asMode))]++
		if v, ok := plainNumber(r.cell(cells, asPower)); ok {
			s.powers.see(v)
			s.powerSteps = s.powerSteps && decibelSteps(v)
		}
		text := r.moment(cells)
		a, isA := dmy.read(text)
		b, isB := mdy.read(text)
		switch {
		case isA && !isB:
			s.dayFirst++
		case isB && !isA:
			s.monthFirst++
		case isA && isB && !a.at.Equal(b.at):
			s.odd++
		}
		if isA {
			s.dmy = spread(s.dmy, a.at)
			s.zoned = s.zoned || a.zoned
		}
		if isB {
			s.mdy = spread(s.mdy, b.at)
		}
		return nil
	})
}

func spread(of [2]time.Time, at time.Time) [2]time.Time {
	if of[0].IsZero() || at.Before(of[0]) {
		of[0] = at
	}
	if at.After(of[1]) {
		of[1] = at
	}
	return of
}

// reportReader reads the reports of a table.
type reportReader struct {
	p       *Preview
	o       Options
	table   table
	columns []reportColumn
	at      map[string]int // column by what it holds
	survey  survey
	clock   clockReader
	power   string // unit of bare numbers
	freq    string
	far     string
	own     string // base call of whose reports are taken, empty for all
	byMe    bool   // they are of what one heard oneself
	seed    maphash.Seed
	before  map[uint64]int32 // the last of those with a key, from 1
	seen    []seenReport
	sampled []onair.Report
	number  int
	noGrid  int
	// ownHeard is how many are of what one heard oneself.
	ownHeard int
	ofOthers int // and how many of what others heard of others
	others   map[string]int
	noticed  map[string]bool
}

// seenReport is the part of a report that is stored to recognise it: little, since there may be a million. next is another with its key.
type seenReport struct {
	number, next int32
	at           int64
	freq         float64 // 0 where it is not known
	band         string
	seconds      bool
}

// mostSampled is how many reports are looked at for clocks that are off.
const mostSampled = 20_000

func (r *reportReader) cell(cells []string, what string) string {
	i, ok := r.at[what]
	if !ok || i >= len(cells) {
		return ""
	}
	return cells[i]
}

func (r *reportReader) has(what string) bool {
	_, ok := r.at[what]
	return ok
}

// moment is when, as it is written.
func (r *reportReader) moment(cells []string) string {
	if _, ok := r.at[asAt]; ok {
		return r.cell(cells, asAt)
	}
	return dayAndTime(r.cell(cells, asDate), r.cell(cells, asTime))
}

// readReports reads a table of reception reports into the preview; what is beyond those that it holds goes to each alone.
func readReports(ctx context.Context, p *Preview, t table, list []reportColumn, o Options) error {
	p.Kind = "reports"
	p.Heard = []Heard{}
	r := &reportReader{p: p, o: o, table: t, columns: list, at: map[string]int{}, seed: maphash.MakeSeed(), before: map[uint64]int32{},
		others: map[string]int{}, noticed: map[string]bool{}}
	for i, c := range list {
		if _, twice := r.at[c.holds]; c.holds != "" && !twice {
			r.at[c.holds] = i
		}
	}
	if err := r.look(ctx); err != nil {
		return err
	}
	if r.survey.rows == 0 {
		return &FileError{"no report was found in the file", "a row for each, with who heard whom, when, and how strong"}
	}
	if r.survey.rows > mostHeard && o.Each == nil {
		return &FileError{fmt.Sprintf("the file has more than %d reports", mostHeard), "fewer at a time here; reed import takes them all"}
	}
	r.decide()
	if err := t.rows(ctx, r.row); err != nil {
		return err
	}
	r.conclude()
	return nil
}

// decide makes the decisions that a row alone cannot, and tells them as guesses.
func (r *reportReader) decide() {
	if r.table.head == nil {
		var said []string
		for i, c := range r.columns {
			if c.holds != "" {
				said = append(said, fmt.Sprintf("column %d is the %s", i+1, c.holds))
			}
		}
		r.p.guess("columns", "by their cells", "no line names the columns: "+strings.Join(said, ", "), "by their cells")
	}
	if !r.has(asSender) {
		r.p.note("note", 0, 0, asSender, "the file names no sender: these are taken as reports of %s",
			cmp.Or(strings.ToUpper(r.o.Own), "yourself"))
	}
	r.decideOrder()
	r.decideZone()
	r.decideUnits()
	r.decideWhose()
}

func (r *reportReader) decideOrder() {
	s := r.survey
	r.clock.order = dayFirst
	switch {
	case s.monthFirst > s.dayFirst:
		r.clock.order = monthFirst
	case s.dayFirst == s.monthFirst && s.odd > 0 && r.likelyMonthFirst():
		r.clock.order = monthFirst
	}
	if c := r.o.choice("date-order"); c != "" {
		r.clock.order = c
	}
	if s.odd > 0 || s.dayFirst+s.monthFirst > 0 {
		text := "dates have the day first"
		if r.clock.order == monthFirst {
			text = "dates have the month first"
		}
		if s.dayFirst > 0 && s.monthFirst > 0 {
			text += ", though some can be read the other way only"
		} else if s.dayFirst+s.monthFirst == 0 {
			text += "; none of them says so by itself"
		}
		r.p.guess("date-order", r.clock.order, text, dayFirst, monthFirst)
	}
}

// likelyMonthFirst reports whether dates that can be read both ways lie closer together, or not in the future, with the month
// first.
func (r *reportReader) likelyMonthFirst() bool {
	s := r.survey
	if !r.o.Now.IsZero() {
		if a, b := clock.InFuture(s.dmy[1], r.o.Now), clock.InFuture(s.mdy[1], r.o.Now); a != b {
			return a
		}
	}
	return s.mdy[1].Sub(s.mdy[0]) < s.dmy[1].Sub(s.dmy[0])
}

var zones = []string{"UTC", "UTC-8", "UTC-5", "UTC+1", "UTC+2", "UTC+9"}

func (r *reportReader) decideZone() {
	if r.survey.zoned || r.clock.epoch {
		return
	}
	told, local := false, false
	for _, what := range []string{asAt, asTime, asDate} {
		if i, ok := r.at[what]; ok {
			told = told || r.columns[i].unit == "UTC"
			local = local || r.columns[i].unit == "local"
		}
	}
	if told && r.o.choice("time-zone") == "" {
		return
	}
	choice := cmp.Or(r.o.choice("time-zone"), "UTC")
	if h, err := strconv.Atoi(strings.TrimPrefix(choice, "UTC")); err == nil && h >= -12 && h <= 14 {
		r.clock.zone = time.FixedZone(choice, h*3600)
	}
	text := "times say no zone; taken as " + choice
	if local {
		text = "times are called local, of whatever place; taken as " + choice
	}
	r.p.guess("time-zone", choice, text, zones...)
}

func (r *reportReader) unit(what string) string {
	if i, ok := r.at[what]; ok {
		return r.columns[i].unit
	}
	return ""
}

func (r *reportReader) decideUnits() {
	r.freq, r.far = r.unit(asFreq), cmp.Or(r.unit(asDistance), "km")
	r.power = r.unit(asPower)
	if _, ok := r.at[asPower]; ok && !slices.Contains([]string{"dBm", "W", "mW"}, r.power) {
		r.power = "W"
		if s := r.survey; s.powers.number > 0 && s.powerSteps && r.slow() {
			r.power = "dBm"
		}
		r.power = cmp.Or(r.o.choice("power-unit"), r.power)
		if r.survey.powers.number > 0 {
			r.p.guess("power-unit", r.power, fmt.Sprintf("powers of %.4g to %.4g are %s", r.survey.powers.lo, r.survey.powers.hi,
				r.power), "dBm", "W", "mW")
		}
	}
	if _, ok := r.at[asDistance]; ok && r.unit(asDistance) == "" {
		r.far = cmp.Or(r.o.choice("distance-unit"), "km")
		r.p.guess("distance-unit", r.far, "distances are "+r.far, "km", "mi")
	}
}

// slow reports whether most of the file is of slow beacons, or says no mode: those tell powers in dBm.
func (r *reportReader) slow() bool {
	beacons := r.survey.modes["WSPR"] + r.survey.modes["FST4W"] + r.survey.modes[""]
	return 2*beacons > r.survey.rows
}

// decideWhose decides whose reports these are: of one sender that many heard, or of one receiver that heard many.
func (r *reportReader) decideWhose() {
	s := r.survey
	ranked := func(m map[string]int) (out []string) {
		for c := range m {
			out = append(out, c)
		}
		slices.SortFunc(out, func(a, b string) int { return cmp.Or(m[b]-m[a], strings.Compare(a, b)) })
		return out
	}
	senders, receivers := ranked(s.senders), ranked(s.receivers)
	own := onair.BaseCall(r.o.Own)
	r.byMe = own != "" && s.senders[own] == 0 && s.receivers[own] > 0 || own == "" && len(receivers) == 1 && len(senders) > 3
	list := senders
	if r.byMe {
		list = receivers
	}
	if len(list) == 0 {
		return
	}
	r.own = list[0]
	if own != "" && slices.Contains(list, own) {
		r.own = own
	}
	const all = "all"
	if c := r.o.choice("whose"); c == all {
		r.own = ""
	} else if c != "" {
		r.own = onair.BaseCall(c)
	}
	if len(list) > 1 {
		text := fmt.Sprintf("%d stations sent; those of %s are taken", len(list), cmp.Or(r.own, "all"))
		if r.byMe {
			text = fmt.Sprintf("%d stations received; those of %s are taken", len(list), cmp.Or(r.own, "all"))
		}
		r.p.guess("whose", cmp.Or(r.own, all), text, append(slices.Clone(list[:min(len(list), 12)]), all)...)
	}
}

// row reads one row.
func (r *reportReader) row(line int, cells []string) error {
	r.number++
	h := Heard{Number: r.number, Line: line, Taken: true, Report: onair.Report{}}
	w := rowReader{reportReader: r, h: &h, cells: cells}
	w.read()
	if h.Taken {
		w.twice()
		if h.Locator == "" && !h.Own || h.SenderLocator == "" && h.Own {
			r.noGrid++
		}
	}
	r.p.Counts.Records++
	switch {
	case !h.Taken:
		r.p.Counts.Refused++
	case h.Known:
		r.p.Counts.Known++
	default:
		r.p.Counts.Added++
	}
	if r.o.Each != nil {
		return r.o.Each(h)
	}
	r.p.Heard = append(r.p.Heard, h)
	return nil
}

// conclude says what is odd of them all.
func (r *reportReader) conclude() {
	p := r.p
	others := 0
	var names []string
	for c, n := range r.others {
		others += n
		names = append(names, c)
	}
	slices.Sort(names)
	if others > 0 {
		p.note("warning", 0, 0, asSender, "%d reports are of other stations (%s) and are not taken; choose whose to change that", others,
			strings.Join(names[:min(len(names), 5)], ", "))
	}
	if r.ownHeard > 0 {
		p.note("note", 0, 0, asReceiver, "%d reports are of what you heard yourself: they say how your antennas hear, not who heard you",
			r.ownHeard)
	}
	if r.ofOthers > 0 {
		p.note("note", 0, 0, asSender, "%d reports are of others, heard by others: they are kept as a reference for what the band did, no more",
			r.ofOthers)
	}
	if r.noGrid > 0 {
		who := "receivers"
		if r.ownHeard > 0 {
			who = "stations"
		}
		p.note("note", 0, 0, asLocator, "%d reports are of %s without a locator: their distance is unknown, not zero", r.noGrid, who)
	}
	if off, ok := onair.ClockOff(r.sampled); ok {
		p.note("warning", 0, 0, asAt, "a clock is off: most reports stand %s %s the beginning of their slot; times are kept as they stand",
			off.Abs().Round(time.Second), map[bool]string{true: "after", false: "before"}[off > 0])
	}
	r.clocks(r.sampled)
}

// clocks says which receivers' clocks are off where not all are.
func (r *reportReader) clocks(taken []onair.Report) {
	by := map[string][]onair.Report{}
	for _, x := range taken {
		by[x.Receiver] = append(by[x.Receiver], x)
	}
	_, all := onair.ClockOff(taken)
	var names []string
	for name, list := range by {
		if _, ok := onair.ClockOff(list); ok && !all {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	for _, name := range names {
		off, _ := onair.ClockOff(by[name])
		r.p.note("warning", 0, 0, asAt, "the clock of %s is off: its reports stand %s from the beginning of their slot", name,
			off.Round(time.Second))
	}
}

// rowReader reads one row.
type rowReader struct {
	*reportReader
	h     *Heard
	cells []string
}

func (w *rowReader) odd(field, format string, args ...any) {
	text := fmt.Sprintf(format, args...)
	w.p.note("warning", w.h.Line, w.h.Number, field, "%s", text)
	w.h.Marks = append(w.h.Marks, field+": "+text)
}

// keep leaves a cell as text, marked.
func (w *rowReader) keep(field, text, format string, args ...any) {
	w.odd(field, format+"; kept as text", args...)
	w.h.Extra = append(w.h.Extra, onair.Field{Name: field, Value: text})
}

func (w *rowReader) refuse(field, format string, args ...any) {
	w.h.Taken = false
	w.p.note("error", w.h.Line, w.h.Number, field, format, args...)
}

func (w *rowReader) read() {
	w.calls()
	w.h.Own = w.heardOneself()
	// Who sends is oneself, under whatever call, where the file is of one sender.
	if me := cmp.Or(w.own, onair.BaseCall(w.o.Own)); me != "" && !w.h.Own {
		w.h.Others = onair.BaseCall(w.h.Sender) != me
	}
	w.when()
	w.where()
	w.what()
	w.strength()
	w.rest()
	if w.own != "" && w.h.Taken {
		side := w.h.Sender
		if w.byMe {
			side = w.h.Receiver
		}
		if base := onair.BaseCall(side); base != w.own && !(w.h.Own && w.own == onair.BaseCall(w.o.Own)) {
			w.h.Taken = false
			w.others[base]++
		}
	}
	switch {
	case !w.h.Taken:
	case w.h.Own:
		w.ownHeard++
	case w.h.Others:
		w.ofOthers++
	}
}

// heardOneself says whether a report is of what one heard oneself: of who one is, or of whom the file is where that is not known.
func (w *rowReader) heardOneself() bool {
	sender, receiver := onair.BaseCall(w.h.Sender), onair.BaseCall(w.h.Receiver)
	if me := onair.BaseCall(w.o.Own); me != "" {
		return receiver == me && sender != me
	}
	return w.byMe && w.own != "" && receiver == w.own
}

// calls reads who heard whom.
func (w *rowReader) calls() {
	for _, side := range []struct {
		what string
		to   *string
	}{{asSender, &w.h.Sender}, {asReceiver, &w.h.Receiver}} {
		text := w.cell(w.cells, side.what)
		call, changed := bareCall(text)
		switch {
		case text == "" && side.what == asSender && !w.has(asSender):
			call = strings.ToUpper(w.o.Own) // a list of who heard me names nobody else
		case text == "":
			w.refuse(side.what, "the %s is missing, so this report is skipped", side.what)
		case hashed.MatchString(text):
			w.refuse(side.what, "the %s is hashed (%s) and cannot be resolved, so this report is skipped", side.what, text)
		case !onair.IsCall(call):
			w.odd(side.what, "%q does not look like a call", text)
		case changed && !w.noticed[text]:
			w.noticed[text] = true
			w.p.note("note", w.h.Line, w.h.Number, side.what, "%s is read as %s", text, call)
		}
		*side.to = call
	}
}

func (w *rowReader) when() {
	text := w.moment(w.cells)
	t, ok := w.clock.read(text)
	if !ok {
		w.refuse(asAt, "%q is no date and time, so this report is skipped; expected like 2026-05-16 14:32:00", text)
		return
	}
	w.h.At, w.h.Seconds = t.at, t.seconds
	if !w.o.Now.IsZero() && clock.InFuture(t.at, w.o.Now) {
		w.odd(asAt, "%s UTC lies in the future", t.at.Format("2006-01-02 15:04"))
	}
}

// where reads locators and the distance, which is computed where both ends are known and it is not given.
func (w *rowReader) where() {
	for _, side := range []struct {
		what string
		to   *string
	}{{asFrom, &w.h.SenderLocator}, {asLocator, &w.h.Locator}} {
		text := w.cell(w.cells, side.what)
		switch {
		case text == "" || strings.Trim(text, "-?") == "":
		case len(text) >= 4 && len(text) <= 12 && locatorForm.MatchString(text[:min(len(text)/2*2, 10)]):
			*side.to = text
		default:
			w.keep(side.what, text, "%q is not a locator", text)
		}
	}
	text := w.cell(w.cells, asDistance)
	if text != "" {
		bare, unit := united(text, w.far, "km", "mi", "m")
		v, ok := plainNumber(bare)
		if groups.MatchString(bare) {
			v, ok = numbered(bare, grouped)
		}
		scale := map[string]float64{"km": 1e3, "mi": 1609.344, "m": 1}[unit]
		switch m := v * scale; {
		case w.h.Others: // it is that of the others' path, not of one's own to who heard
			w.h.Extra = append(w.h.Extra, onair.Field{Name: asDistance, Value: text})
		case ok && m >= 0 && m <= 20_100e3:
			w.h.DistanceM = &m
		default:
			w.keep(asDistance, text, "%q is no distance on this earth", text)
		}
	}
	w.h.Far(w.o.Home)
}

// united parts a cell into its number and the unit behind it, of those that it may have; the usual one where it has none.
func united(text, usual string, units ...string) (number, unit string) {
	for _, u := range units {
		if n := len(text) - len(u); n > 0 && strings.EqualFold(text[n:], u) {
			return strings.TrimSpace(text[:n]), u
		}
	}
	return text, usual
}

// what reads frequency, band and mode.
func (w *rowReader) what() {
	h := w.h
	if text := w.cell(w.cells, asFreq); text != "" {
		bare, unit := united(text, w.freq, "MHz", "kHz", "Hz")
		v, ok := plainNumber(bare)
		hz, found := w.hertz(v, unit)
		switch {
		case !ok || !found:
			w.keep(asFreq, text, "%q is not an amateur frequency", text)
		default:
			h.FreqHz = &hz
			if b, in := band.At(w.o.Region, hz); in {
				h.Band = b.Name
			} else {
				w.odd(asFreq, "%s MHz is in no amateur band of region %d", quantity.MHz(hz), w.o.Region)
			}
		}
	}
	if text := strings.ToLower(w.cell(w.cells, asBand)); text != "" {
		b, ok := band.Named(w.o.Region, text)
		if v, isNumber := plainNumber(text); !ok && isNumber { // slow beacons' lists name a band by its megahertz
			b, ok = bandOfMHz(w.o.Region, v)
		}
		switch {
		case !ok && h.Band == "":
			w.keep(asBand, text, "%q is not a band from 160 m to 6 m", text)
		case ok && h.Band == "":
			h.Band = b.Name
		case ok && h.Band != b.Name:
			w.keep(asBand, text, "%s is not where the frequency lies, which is taken", text)
		}
	}
	h.Mode = strings.ToUpper(w.cell(w.cells, asMode))
	if sub := strings.ToUpper(w.cell(w.cells, asSubmode)); sub != "" {
		h.Mode = sub
	}
}

// bandOfMHz is the band that begins at whole megahertz.
func bandOfMHz(r band.Region, mhz float64) (band.Band, bool) {
	for off := 0.0; off < 1; off += 0.05 {
		if b, ok := band.At(r, (mhz+off)*1e6); ok {
			return b, true
		}
	}
	return band.Band{}, false
}

// hertz reads a number in a unit, or in the one in which it lies in a band.
func (w *rowReader) hertz(v float64, unit string) (float64, bool) {
	scales := map[string]float64{"MHz": 1e6, "kHz": 1e3, "Hz": 1}
	unit = cmp.Or(unit, "MHz")
	for _, u := range []string{unit, "MHz", "kHz", "Hz"} {
		if _, in := band.At(w.o.Region, v*scales[u]); in {
			return v * scales[u], true
		}
	}
	hz := v * scales[unit]
	return hz, hz >= onair.LeastFreq && hz <= onair.MostFreq
}

// strength reads how strong it was, and with what power.
func (w *rowReader) strength() {
	if text := w.cell(w.cells, asSNR); text != "" {
		bare, _ := united(text, "dB", "dB")
		v, ok := plainNumber(bare)
		if ok && v >= -70 && v <= 120 {
			w.h.SNR = &v
		} else {
			w.keep(asSNR, text, "%q is no ratio to noise in dB", text)
		}
	}
	if text := w.cell(w.cells, asPower); text != "" {
		watts, err := w.watts(text)
		if err != nil {
			w.keep(asPower, text, "%q is no power", text)
		} else {
			w.h.PowerW = &watts
		}
	}
}

func (w *rowReader) watts(text string) (float64, error) {
	bare, unit := united(text, w.power, "dBm", "mW", "kW", "W")
	v, ok := plainNumber(bare)
	if !ok {
		return 0, errors.New("no number")
	}
	switch unit {
	case "dBm":
		v = math.Round(1e6*math.Pow(10, v/10)/1e3) / 1e6
	case "mW":
		v /= 1e3
	case "kW":
		v *= 1e3
	}
	if v <= 0 || v > onair.MostPower {
		return 0, errors.New("out of range")
	}
	return v, nil
}

// rest carries along what no column is read for.
func (w *rowReader) rest() {
	for i, c := range w.columns {
		if i >= len(w.cells) || w.cells[i] == "" || w.at[c.holds] == i && c.holds != "" {
			continue
		}
		w.h.Extra = append(w.h.Extra, onair.Field{Name: cmp.Or(c.name, fmt.Sprintf("column %d", i+1)), Value: w.cells[i]})
	}
}

// twice finds the same report before this one in the file; whoever stores it knows what is kept.
func (w *rowReader) twice() {
	within := max(onair.Within(w.h.Mode), 30*time.Second)
	bucket := w.h.At.UnixNano() / int64(2*within)
	key := func(at int64) uint64 {
		return maphash.String(w.seed, fmt.Sprintf("%s|%s|%s|%d", onair.BaseCall(w.h.Sender), onair.BaseCall(w.h.Receiver), w.h.Mode, at))
	}
	for _, at := range []int64{bucket - 1, bucket, bucket + 1} {
		for k := w.before[key(at)]; k > 0; k = w.seen[k-1].next {
			old := w.seen[k-1]
			was := onair.Report{At: time.Unix(0, old.at).UTC(), Seconds: old.seconds, Sender: w.h.Sender, Receiver: w.h.Receiver, Mode: w.h.Mode,
				Band: old.band}
			if old.freq > 0 {
				was.FreqHz = &old.freq
			}
			if was.SameAs(w.h.Report) {
				w.h.Known = true
				w.p.note("note", w.h.Line, w.h.Number, "", "the same as report %d: one transmission at one receiver counts once", old.number)
				return
			}
		}
	}
	one := seenReport{number: int32(w.h.Number), next: w.before[key(bucket)], at: w.h.At.UnixNano(), band: w.h.Band, seconds: w.h.Seconds}
	if w.h.FreqHz != nil {
		one.freq = *w.h.FreqHz
	}
	w.seen = append(w.seen, one)
	w.before[key(bucket)] = int32(len(w.seen))
	if len(w.sampled) < mostSampled {
		w.sampled = append(w.sampled, onair.Report{At: w.h.At, Seconds: w.h.Seconds, Receiver: w.h.Receiver, Mode: w.h.Mode})
	}
}

// adifReports turns a log of receptions into a table: records that tell a signal over noise and who received it.
func adifReports(p *Preview) (t table, list []reportColumn, ok bool) {
	var names []string
	seen := map[string]int{}
	snr := 0
	for _, rec := range p.Records {
		told, both := false, false
		for _, f := range rec.Fields {
			if _, ok := seen[f.Name]; !ok {
				seen[f.Name] = len(names)
				names = append(names, f.Name)
			}
			told = told || f.Name == "SNR" || strings.HasSuffix(f.Name, "_SNR")
			both = both || f.Name == "RST_RCVD" // then it was a contact
		}
		if told && !both {
			snr++
		}
	}
	if len(p.Records) == 0 || 2*snr <= len(p.Records) {
		return t, nil, false
	}
	for _, n := range names {
		c := reportColumn{name: n}
		switch n {
		case "CALL":
			c.holds = asSender
		case "OPERATOR", "STATION_CALLSIGN":
			c.holds = asReceiver
		case "GRIDSQUARE":
			c.holds = asFrom
		case "MY_GRIDSQUARE":
			c.holds = asLocator
		case "QSO_DATE":
			c.holds, c.unit = asDate, "UTC"
		case "TIME_ON":
			c.holds, c.unit = asTime, "UTC"
		case "FREQ":
			c.holds, c.unit = asFreq, "MHz"
		case "BAND":
			c.holds = asBand
		case "MODE":
			c.holds = asMode
		case "SUBMODE":
			c.holds = asSubmode
		case "TX_PWR":
			c.holds, c.unit = asPower, "W"
		case "DISTANCE":
			c.holds, c.unit = asDistance, "km"
		}
		if n == "SNR" || strings.HasSuffix(n, "_SNR") {
			c.holds = asSNR
		}
		list = append(list, c)
	}
	records := p.Records
	t.head = names
	t.rows = func(ctx context.Context, each func(int, []string) error) error {
		for _, rec := range records {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			cells := make([]string, len(names))
			for _, f := range rec.Fields {
				if i := seen[f.Name]; cells[i] == "" {
					cells[i] = strings.TrimSpace(f.Value)
				}
			}
			if err := each(rec.Line, cells); err != nil {
				return err
			}
		}
		return nil
	}
	has := func(what string) bool { return holding(list, what) >= 0 }
	return t, list, has(asSender) && has(asReceiver) && has(asDate) && has(asTime)
}

// heardLog reads a log of receptions in place of one of contacts. In ADIF the station logs what it received; some write it the
// other way, so that it can be chosen.
func (p *Preview) heardLog(ctx context.Context, t table, list []reportColumn, o Options) error {
	const received, sent = "CALL was heard", "CALL heard it"
	choice := cmp.Or(o.choice("direction"), received)
	if choice == sent {
		swapped(list)
	}
	p.Records, p.Notes = nil, []Note{}
	p.guess("direction", choice, "records tell a signal over noise, so they are reception reports: "+choice, received, sent)
	return readReports(ctx, p, t, list, o)
}

// swapped turns who sent and who received round, where a log means it the other way.
func swapped(list []reportColumn) {
	other := map[string]string{asSender: asReceiver, asReceiver: asSender, asFrom: asLocator, asLocator: asFrom}
	for i := range list {
		if to, ok := other[list[i].holds]; ok {
			list[i].holds = to
		}
	}
}

// HomeOf is a place as options take it; nil where it cannot be read.
func HomeOf(text string) *place.Point {
	p, err := place.ParsePosition(text)
	if err != nil {
		return nil
	}
	return &p
}
