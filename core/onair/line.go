package onair

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"reed/core/band"
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
	{"#IN36ab", "their locator"},
	{"=MI-0003", "their site reference"},
	{"+MI-0001", "your own, if not the outing's"},
	{"~B", "antenna in use; stays"},
	{"; text", "comment up to the end"},
}

// Context is what a line is read against: what stays from the contact before, and the time now.
type Context struct {
	Now         time.Time
	Region      band.Region
	Band        string
	FreqHz      float64
	Mode        string
	Submode     string
	PowerW      float64
	OwnRef      string
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
	clock      = regexp.MustCompile(`^(?:(\d{4})-(\d{2})-(\d{2})[Tt])?([01]?\d|2[0-3]):?([0-5]\d)(?::?([0-5]\d))?$`)
	ago        = regexp.MustCompile(`^-(\d{1,4})$`)
)

// MaxLine is the longest line that is read, in bytes.
const MaxLine = 1000

// ParseLine reads one typed contact. Every word that is not understood is a Problem at its place, with
// what was expected; with any problem the contact is not to be stored. Times are UTC; a clock time
// later than now by more than two minutes is read as yesterday's when no date stands with it.
func ParseLine(line string, ctx Context) (Contact, []Problem) {
	c := Contact{
		At: ctx.Now.UTC().Truncate(time.Second), Seconds: true, Band: ctx.Band, FreqHz: ctx.FreqHz, Mode: ctx.Mode, Submode: ctx.Submode,
		PowerW: ctx.PowerW, OwnRef: ctx.OwnRef, DeploymentID: ctx.Deployment, Line: line,
	}
	var problems []Problem
	if len(line) > MaxLine || !utf8.ValidString(line) {
		return c, []Problem{{0, min(utf8.RuneCountInString(line), 20), fmt.Sprintf("the line has more than %d characters, or is not text", MaxLine)}}
	}
	text := line
	if i := strings.Index(text, ";"); i >= 0 {
		c.Comment, text = strings.TrimSpace(text[i+1:]), text[:i]
	}
	reports := 0
	said := false // the mode stands in this line
	var reported [][2]int
	for _, at := range lineWord.FindAllStringIndex(text, -1) {
		word := text[at[0]:at[1]]
		bad := func(format string, args ...any) {
			from := utf8.RuneCountInString(text[:at[0]])
			problems = append(problems, Problem{from, from + utf8.RuneCountInString(word), fmt.Sprintf(format, args...)})
		}
		switch first, rest := word[0], word[1:]; {
		case c.Call == "" && !strings.ContainsRune("@#=+~", rune(first)):
			if !IsCall(word) {
				bad("%q is not a call; a line begins with one, like Q2TAV or Q7RUN/P", word)
			}
			c.Call = strings.ToUpper(word)
		case first == '@':
			t, seconds, err := lineTime(rest, ctx.Now)
			if err != nil {
				bad("%s", err)
				break
			}
			c.At, c.Seconds = t, seconds
		case first == '#':
			if _, err := place.ParseLocator(rest); err != nil {
				bad("%s", err)
			}
			c.Locator = rest
		case first == '=':
			if c.OtherRef = strings.ToUpper(rest); rest == "" {
				bad("a reference is missing after =, like =MI-0003")
			}
		case first == '~':
			id, ok := ctx.Deployments[strings.ToUpper(rest)]
			if !ok {
				bad("%q is not an antenna of this outing", rest)
			}
			c.DeploymentID = id
		case reportWord.MatchString(word) && reports < 2:
			reported = append(reported, [2]int{at[0], at[1]})
			if reports++; reports == 1 {
				c.Sent = strings.ToUpper(word)
			} else {
				c.Received = strings.ToUpper(word)
			}
		case first == '+':
			if c.OwnRef = strings.ToUpper(rest); rest == "" {
				bad("a reference is missing after +, like +MI-0001")
			}
		case powerWord.MatchString(word):
			w, err := quantity.ParsePower(word)
			if err == nil && w > MostPower {
				err = fmt.Errorf("%s found; expected at most %.0f W", word, MostPower)
			}
			if err != nil {
				bad("%s", err)
			}
			c.PowerW = w
		case bandWord.MatchString(strings.ToLower(word)):
			b, ok := band.Named(ctx.Region, word)
			if !ok {
				bad("%q is not a band from 160 m to 6 m; write it like 40m", word)
				break
			}
			if f, in := band.At(ctx.Region, c.FreqHz); !in || f.Name != b.Name {
				c.FreqHz = 0
			}
			c.Band = b.Name
		case frequency.MatchString(word), kilohertz.MatchString(strings.ToLower(word)):
			r, err := quantity.ParseFrequency(word, "MHz")
			b, ok := band.At(ctx.Region, r.Value)
			if err != nil || !ok {
				bad("%s MHz is in no amateur band of region %d", quantity.MHz(r.Value), ctx.Region)
				break
			}
			c.FreqHz, c.Band = r.Value, b.Name
		default:
			mode, sub, ok := ModeOf(word)
			if !ok {
				bad("%q is not understood; a comment stands after ;", word)
				break
			}
			c.Mode, c.Submode, said = mode, sub, true
		}
	}
	if !said && c.Mode != "" {
		// The mode stayed from the contact before: a report of another kind says that it may be another by now.
		for _, at := range reported {
			if word := text[at[0]:at[1]]; !fits(c.Mode, strings.ToUpper(word)) {
				from := utf8.RuneCountInString(text[:at[0]])
				problems = append(problems, Problem{from, from + utf8.RuneCountInString(word), fmt.Sprintf("%s is no report in %s, which stayed from the contact before: %s",
					word, c.ModeLabel(), instead(word))})
			}
		}
	}
	end := utf8.RuneCountInString(text)
	need := func(missing bool, what string) {
		if missing && len(problems) == 0 {
			problems = append(problems, Problem{end, end, what})
		}
	}
	need(c.Call == "", "the call is missing; begin with it, like Q2TAV 59 57")
	need(c.Band == "", "the band is missing; say it once, like 40m or 7.032")
	need(c.Mode == "", "the mode is missing; say it once, like CW or SSB")
	need(c.At.After(ctx.Now.Add(future)), "the time "+c.At.Format("2006-01-02 15:04")+" lies in the future; times are UTC")
	return c, problems
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
	m := clock.FindStringSubmatch(s)
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
	if m[1] == "" && t.After(now.Add(future)) {
		t = t.AddDate(0, 0, -1)
	}
	return t, m[6] != "", nil
}
