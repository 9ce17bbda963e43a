package onair

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"reed/core/band"
	"reed/core/clock"
	"reed/core/place"
	"reed/core/quantity"
)

// Grammar explains the log line, one form a row, for showing it in place.
var Grammar = [][2]string{
	{"Q2TAV", "the call; the first word"},
	{"59 57", "report sent, then received"},
	{"@1432  @-5", "time UTC, or minutes ago; else now"},
	{"40m  7.032", "band, or frequency in MHz; stays"},
	{"CW", "mode; stays"},
	{"5W", "power; stays"},
	{"^IN36ab", "their locator"},
	{"&Ida", "their name"},
	{"=MI-0003", "their site reference; several, one by one"},
	{"+MI-0001", "your own, if not the outing's; several, one by one"},
	{"!12 !34", "exchange sent, then received: serial number or text"},
	{"~B", "antenna in use; stays"},
	{"%Q2AB", "operator at your station; stays, % alone ends it"},
	{"; text", "comment up to the end"},
}

// Usual is a mode that is offered to be pressed, with the reports that are given most in it, sent then received.
type Usual struct {
	Mode    string   `json:"mode"`
	Reports []string `json:"reports"`
}

// UsualModes are the modes of most contacts from the field.
func UsualModes() []Usual {
	return []Usual{
		{"CW", []string{"599 599", "599 579", "579 559", "559 559"}},
		{"SSB", []string{"59 59", "59 57", "57 57", "55 57"}},
		{"FT8", []string{"-05 -05", "-10 -10", "-15 -15"}},
		{"FM", []string{"59 59", "57 57"}},
	}
}

// Context is the input beside a line: the values that stay from the contact before, and the time now.
type Context struct {
	Now         time.Time
	Region      band.Region
	Band        string
	FreqHz      float64
	Mode        string
	Submode     string
	PowerW      float64
	OwnRef      string
	Operator    string
	Deployment  string            // in use
	Deployments map[string]string // letter to id
}

// Problem is a fault of one word of a line; From and To are character offsets.
type Problem struct {
	From int    `json:"from"`
	To   int    `json:"to"`
	Text string `json:"text"`
}

var (
	lineWord   = regexp.MustCompile(`\S+`)
	frequency  = regexp.MustCompile(`^\d{1,2}[.,]\d{1,6}$`)
	kilohertz  = regexp.MustCompile(`^\d{4,5}([.,]\d+)?k(?:hz)?$`)
	bandWord   = regexp.MustCompile(`^\d{1,3}c?m$`)
	powerWord  = regexp.MustCompile(`(?i)^\d+([.,]\d+)?(mw|w|kw)$`)
	reportWord = regexp.MustCompile(`^([1-5][1-9][1-9]?[ACKSacks]?|[+-]\d{1,2}|[1-5][NnTt1-9]{2}|R[1-5][1-9])$`)
	timeOfDay  = regexp.MustCompile(`^(?:(\d{4})-(\d{2})-(\d{2})[Tt])?([01]?\d|2[0-3]):?([0-5]\d)(?::?([0-5]\d))?$`)
	ago        = regexp.MustCompile(`^-(\d{1,4})$`)
)

// MaxLine is the longest line that is read, in bytes.
const MaxLine = 1000

// ParseLine reads one typed contact. Every word that is not understood is a Problem at its place, with
// what was expected; with any problem the contact is not to be stored. Times are UTC; a clock time
// later than now by more than two minutes is read as yesterday's when no date stands with it.
func ParseLine(line string, ctx Context) (Contact, []Problem) {
	r := lineReader{Context: ctx, text: line, c: Contact{
		At: ctx.Now.UTC().Truncate(time.Second), Seconds: true, Band: ctx.Band, FreqHz: ctx.FreqHz, Mode: ctx.Mode, Submode: ctx.Submode,
		PowerW: ctx.PowerW, OwnRef: ctx.OwnRef, DeploymentID: ctx.Deployment, Operator: ctx.Operator, Line: line,
	}}
	if len(line) > MaxLine || !utf8.ValidString(line) {
		return r.c, []Problem{{0, min(utf8.RuneCountInString(line), 20), fmt.Sprintf("the line has more than %d characters, or is not text",
			MaxLine)}}
	}
	if i := strings.Index(line, ";"); i >= 0 {
		r.c.Comment, r.text = strings.TrimSpace(line[i+1:]), line[:i]
	}
	for _, at := range lineWord.FindAllStringIndex(r.text, -1) {
		r.at, r.word = at, r.text[at[0]:at[1]]
		for _, w := range words {
			if w.is(&r) {
				w.read(&r)
				break
			}
		}
	}
	r.stayed()
	r.complete()
	return r.c, r.problems
}

// Whole is a line that stands for itself: the band or frequency and the mode that stayed from the one before are written into it.
func Whole(line string, c Contact, ctx Context) string {
	bare := ctx
	bare.Band, bare.FreqHz, bare.Mode, bare.Submode = "", 0, "", ""
	alone, _ := ParseLine(line, bare)
	words, comment, commented := strings.Cut(line, ";")
	words = strings.TrimSpace(words)
	switch {
	case alone.Band != "" || c.Band == "":
	case c.FreqHz > 0:
		words += " " + quantity.MHz(c.FreqHz)
	default:
		words += " " + c.Band
	}
	if alone.Mode == "" && c.Mode != "" {
		words += " " + c.ModeLabel()
	}
	if bare.Operator = ""; c.Operator != "" {
		if alone, _ = ParseLine(line, bare); alone.Operator == "" {
			words += " %" + c.Operator
		}
	}
	if commented {
		return words + " ;" + comment
	}
	return words
}

// lineReader is a line under way: its contact so far, and the word that is read.
type lineReader struct {
	Context
	text     string
	c        Contact
	problems []Problem
	at       []int
	word     string
	reported [][]int
	said     bool // the mode stands in this line
	// twice are the kinds of words that stand in it already, of which there is only one; exchanges how many there were.
	twice     map[string]bool
	exchanges int
}

// once takes note of a word of which there is only one in a line, and says so when it is another.
func (r *lineReader) once(what string) bool {
	if r.twice[what] {
		r.bad("%q is %s for the second time; which one is it?", r.word, what)
		return false
	}
	if r.twice == nil {
		r.twice = map[string]bool{}
	}
	r.twice[what] = true
	return true
}

func (r *lineReader) bad(format string, args ...any) {
	r.problem(r.at, fmt.Sprintf(format, args...))
}

func (r *lineReader) problem(at []int, text string) {
	from := utf8.RuneCountInString(r.text[:at[0]])
	r.problems = append(r.problems, Problem{from, from + utf8.RuneCountInString(r.text[at[0]:at[1]]), text})
}

// rest is a word without the character that says what it is.
func (r *lineReader) rest() string { return r.word[1:] }

// begins says that a word is one of those that begin with a character of their own.
func begins(with byte) func(*lineReader) bool {
	return func(r *lineReader) bool { return r.word[0] == with }
}

// words are the kinds of words, in the order in which they are tried; the last is any other.
var words = []struct {
	is   func(*lineReader) bool
	read func(*lineReader)
}{
	{func(r *lineReader) bool { return r.c.Call == "" && !strings.ContainsRune("@^#=+~!&%", rune(r.word[0])) }, (*lineReader).call},
	{begins('@'), (*lineReader).time},
	{begins('^'), (*lineReader).locator},
	{begins('#'), (*lineReader).locator}, // as it was written once: drafts and lines that wait may have it
	{begins('&'), (*lineReader).name},
	{begins('='), func(r *lineReader) { r.c.OtherRef = r.another(r.c.OtherRef, r.reference("=MI-0003")) }},
	{begins('!'), (*lineReader).exchange},
	{begins('~'), (*lineReader).antenna},
	{begins('%'), (*lineReader).operator},
	{func(r *lineReader) bool { return reportWord.MatchString(r.word) && len(r.reported) < 2 }, (*lineReader).report},
	{begins('+'), func(r *lineReader) {
		if !r.twice["your own reference"] { // what is typed takes the place of the outing's
			r.c.OwnRef = ""
			r.once("your own reference")
		}
		r.c.OwnRef = r.another(r.c.OwnRef, r.reference("+MI-0001"))
	}},
	{func(r *lineReader) bool { return powerWord.MatchString(r.word) }, (*lineReader).power},
	{func(r *lineReader) bool { return bandWord.MatchString(strings.ToLower(r.word)) }, (*lineReader).band},
	{func(r *lineReader) bool {
		return frequency.MatchString(r.word) || kilohertz.MatchString(strings.ToLower(r.word))
	}, (*lineReader).frequency},
	{func(*lineReader) bool { return true }, (*lineReader).mode},
}

func (r *lineReader) call() {
	if !IsCall(r.word) {
		r.bad("%q is not a call; a line begins with one, like Q2TAV or Q7RUN/P", r.word)
	}
	r.c.Call = strings.ToUpper(r.word)
}

// another adds a reference to those that a contact counts for already.
func (r *lineReader) another(have, ref string) string {
	switch {
	case ref == "":
		return have
	case have == "":
		return ref
	case slices.Contains(strings.Split(have, ","), ref):
		r.bad("%s is given twice", ref)
		return have
	}
	return have + "," + ref
}

// exchange reads the exchange sent and received beside the reports, by its names in a log: a number is a serial number.
func (r *lineReader) exchange() {
	text := r.rest()
	if text == "" || r.exchanges == 2 {
		r.bad("%q is no exchange; write the one sent and the one received, like !12 !34", r.word)
		return
	}
	name := []string{"STX", "SRX"}[r.exchanges]
	if strings.Trim(text, "0123456789") != "" {
		name += "_STRING"
	}
	r.exchanges++
	r.c.Extra = append(r.c.Extra, Field{Name: name, Value: strings.ToUpper(text)})
}

func (r *lineReader) time() {
	if !r.once("a time") {
		return
	}
	t, seconds, err := lineTime(r.rest(), r.Now)
	if err != nil {
		r.bad("%s", err)
		return
	}
	r.c.At, r.c.Seconds = t, seconds
}

func (r *lineReader) locator() {
	if !r.once("a locator") {
		return
	}
	if _, err := place.ParseLocator(r.rest()); err != nil {
		r.bad("%s", err)
	}
	r.c.Locator = r.rest()
}

func (r *lineReader) name() {
	if r.rest() == "" {
		r.bad("a name is missing after &, like &Ida")
		return
	}
	if r.once("a name") {
		r.c.Name = strings.ReplaceAll(r.rest(), "_", " ")
	}
}

func (r *lineReader) reference(like string) string {
	if r.rest() == "" {
		r.bad("a reference is missing after %c, like %s", r.word[0], like)
	}
	return strings.ToUpper(r.rest())
}

func (r *lineReader) antenna() {
	if !r.once("an antenna") {
		return
	}
	id, ok := r.Deployments[strings.ToUpper(r.rest())]
	if !ok {
		r.bad("%q is not an antenna of this outing", r.rest())
	}
	r.c.DeploymentID = id
}

func (r *lineReader) operator() {
	call := strings.ToUpper(r.rest())
	if call != "" && !IsCall(call) {
		r.bad("%q is not the call of an operator; write it like %%Q2AB, or %% alone for yourself", r.word)
		return
	}
	if r.once("an operator") {
		r.c.Operator = call
	}
}

func (r *lineReader) report() {
	if r.reported = append(r.reported, r.at); len(r.reported) == 1 {
		r.c.Sent = strings.ToUpper(r.word)
	} else {
		r.c.Received = strings.ToUpper(r.word)
	}
}

func (r *lineReader) power() {
	if !r.once("a power") {
		return
	}
	w, err := quantity.ParsePower(r.word)
	if err == nil && w > MostPower {
		err = fmt.Errorf("%s found; expected at most %.0f W", r.word, MostPower)
	}
	if err != nil {
		r.bad("%s", err)
	}
	r.c.PowerW = w
}

func (r *lineReader) band() {
	b, ok := band.Named(r.Region, r.word)
	if !ok {
		r.bad("%q is not a band from 160 m to 6 m; write it like 40m", r.word)
		return
	}
	if !r.once("a band") {
		return
	}
	if r.twice["a frequency"] && r.c.Band != b.Name {
		r.bad("%s is not where %s MHz lies", b.Name, quantity.ToKHz(r.c.FreqHz))
		return
	}
	if f, in := band.At(r.Region, r.c.FreqHz); !in || f.Name != b.Name {
		r.c.FreqHz = 0
	}
	r.c.Band = b.Name
}

func (r *lineReader) frequency() {
	f, err := quantity.ParseFrequency(r.word, "MHz")
	b, ok := band.At(r.Region, f.Value)
	if err != nil || !ok {
		r.bad("%s MHz is in no amateur band of region %d", quantity.MHz(f.Value), r.Region)
		return
	}
	if !r.once("a frequency") {
		return
	}
	if r.twice["a band"] && r.c.Band != b.Name {
		r.bad("%s MHz does not lie in %s", quantity.MHz(f.Value), r.c.Band)
		return
	}
	r.c.FreqHz, r.c.Band = f.Value, b.Name
}

func (r *lineReader) mode() {
	mode, sub, ok := ModeOf(r.word)
	if !ok {
		if len(r.reported) == 2 && reportWord.MatchString(r.word) {
			r.bad("more than two reports: %q; put a serial number after !, like !12", r.word)
			return
		}
		r.bad("%q is not understood; put comments after ;", r.word)
		return
	}
	if !r.once("a mode") {
		return
	}
	r.c.Mode, r.c.Submode, r.said = mode, sub, true
}

// stayed asks about a mode that stayed from the contact before: a report of another kind says that it may be another
// by now.
func (r *lineReader) stayed() {
	if r.said || r.c.Mode == "" {
		return
	}
	for _, at := range r.reported {
		if word := r.text[at[0]:at[1]]; !fits(r.c.Mode, strings.ToUpper(word)) {
			r.problem(at, fmt.Sprintf("%s is no report in %s, which stayed from the contact before: %s", word, r.c.ModeLabel(), instead(word)))
		}
	}
}

// complete says what a contact needs and this one lacks, where nothing was said of it yet.
func (r *lineReader) complete() {
	end := utf8.RuneCountInString(r.text)
	for _, need := range []struct {
		missing bool
		what    string
	}{
		{r.c.Call == "", "the call is missing; begin with it, like Q2TAV 59 57"},
		{r.c.Band == "", "the band is missing; say it once, like 40m or 7.032"},
		{r.c.Mode == "", "the mode is missing; say it once, like CW or SSB"},
		{clock.InFuture(r.c.At, r.Now), "the time " + r.c.At.Format("2006-01-02 15:04") + " lies in the future; times are UTC"},
	} {
		if need.missing && len(r.problems) == 0 {
			r.problems = append(r.problems, Problem{end, end, need.what})
		}
	}
}

var (
	phoneReport = regexp.MustCompile(`^[1-5][1-9]$|^R[1-5][1-9]$`)
	keyedReport = regexp.MustCompile(`^[1-5][1-9NT][1-9NTACKS]?$|^[1-5][1-9NT][1-9NT][ACKS]?$`)
	levelReport = regexp.MustCompile(`^[+-]\d{1,2}$`)
)

// kinds of report by mode; a mode that is not listed takes any.
var (
	phone  = map[string]bool{"SSB": true, "AM": true, "FM": true, "DIGITALVOICE": true}
	keyed  = map[string]bool{"CW": true, "RTTY": true, "HELL": true}
	levels = map[string]bool{"FT8": true, "JT65": true, "JT9": true, "MSK144": true}
)

// fits reports whether a report is of the kind that goes with a mode: two figures by voice, three by key, decibels
// where a program measures them.
func fits(mode, report string) bool {
	switch {
	case phone[mode]:
		return phoneReport.MatchString(report)
	case keyed[mode]:
		return len(report) >= 3 && keyedReport.MatchString(report)
	case levels[mode]:
		return levelReport.MatchString(report)
	}
	return true
}

// instead says what to write for a report that does not go with the mode.
func instead(report string) string {
	switch {
	case levelReport.MatchString(report):
		return "write the mode, like FT8, or a report like 59 or 599"
	case len(report) == 2:
		return "write SSB if it was by voice, or three figures like " + report + "9; with the mode written it is taken as it stands"
	}
	return "write CW if it was by key, or two figures like " + report[:2] + "; with the mode written it is taken as it stands"
}

func lineTime(s string, now time.Time) (t time.Time, seconds bool, err error) {
	now = now.UTC()
	if m := ago.FindStringSubmatch(s); m != nil {
		n, _ := strconv.Atoi(m[1])
		return now.Add(-time.Duration(n) * time.Minute).Truncate(time.Minute), false, nil
	}
	m := timeOfDay.FindStringSubmatch(s)
	if m == nil {
		return t, false, fmt.Errorf("%q is not a time; write @1432, @14:32:10, @2026-05-16T14:32 or @-5", s)
	}
	y, mo, d := now.Date()
	if m[1] != "" {
		day, err := time.Parse(time.DateOnly, m[1]+"-"+m[2]+"-"+m[3])
		if err != nil {
			return t, false, fmt.Errorf("%s-%s-%s is not a date", m[1], m[2], m[3])
		}
		y, mo, d = day.Date()
	}
	h, _ := strconv.Atoi(m[4])
	min, _ := strconv.Atoi(m[5])
	sec, _ := strconv.Atoi("0" + m[6])
	t = time.Date(y, mo, d, h, min, sec, 0, time.UTC)
	if m[1] == "" && clock.InFuture(t, now) {
		t = t.AddDate(0, 0, -1)
	}
	return t, m[6] != "", nil
}
