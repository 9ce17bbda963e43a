package exchange

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"reed/core/band"
	"reed/core/onair"
	"reed/core/place"
)

var locatorForm = regexp.MustCompile(`(?i)^[A-R]{2}[0-9]{2}([A-X]{2}([0-9]{2}([A-X]{2}([0-9]{2})?)?)?)?$`)

// addRecord turns the fields of one record into a contact. Fields that are read in full become the
// contact's own; all others stay in Extra, in their order, with a mark where they should have been read.
func (p *Preview) addRecord(number int, fields []rawField, o Options) {
	r := Record{Number: number, Line: fields[0].line, Taken: true, Fields: []onair.Field{}}
	c := &r.Contact
	at := map[string]rawField{}
	for _, f := range fields {
		r.Fields = append(r.Fields, f.Field)
		if _, twice := at[f.Name]; twice {
			p.note("warning", f.line, number, f.Name, "stands twice; the second, %q, is kept as text", f.Value)
			continue
		}
		at[f.Name] = f
	}
	used := map[string]bool{}
	take := func(name string) string {
		v := strings.TrimSpace(at[name].Value)
		used[name] = v != ""
		return v
	}
	odd := func(name, format string, args ...any) {
		text := fmt.Sprintf(format, args...)
		p.note("warning", at[name].line, number, name, "%s", text)
		c.Marks = append(c.Marks, name+": "+text)
	}
	keep := func(name, format string, args ...any) {
		used[name] = false
		odd(name, format+"; kept as text", args...)
	}
	refuse := func(name, format string, args ...any) {
		r.Taken = false
		line := at[name].line
		if line == 0 {
			line = r.Line
		}
		p.note("error", line, number, name, format, args...)
	}

	c.Call = strings.ToUpper(take("CALL"))
	switch {
	case c.Call == "":
		refuse("CALL", "the call is missing, so this record is not taken; expected a field like <CALL:5>Q2TAV")
	case !onair.IsCall(c.Call):
		odd("CALL", "%q does not look like a call", c.Call)
	}
	p.times(c, at, take, keep, refuse)
	if !o.Now.IsZero() && c.At.After(o.Now.Add(2*time.Minute)) {
		odd("QSO_DATE", "%s UTC lies in the future", c.At.Format("2006-01-02 15:04"))
	}

	c.Band = strings.ToLower(take("BAND"))
	if f := take("FREQ"); f != "" {
		v, err := strconv.ParseFloat(strings.Replace(f, ",", ".", 1), 64)
		hz := v * 1e6
		if _, ok := band.At(o.Region, hz); !ok && err == nil {
			if b, ok := band.At(o.Region, v*1e3); ok {
				hz = v * 1e3
				odd("FREQ", "%s is no amateur frequency in MHz; read as kHz, in %s", f, b.Label())
			}
		}
		b, in := band.At(o.Region, hz)
		switch {
		case err != nil || !(v > 0):
			keep("FREQ", "%q is not a frequency in MHz", f)
		case in && c.Band != "" && b.Name != c.Band:
			keep("FREQ", "%s MHz lies in %s but the band says %s", f, b.Label(), c.Band)
		default:
			c.FreqHz = hz
			if c.Band == "" && in {
				c.Band = b.Name
			}
		}
	}
	if c.Band == "" {
		c.Marks = append(c.Marks, "no band")
		p.note("warning", r.Line, number, "BAND", "neither band nor a frequency that names one")
	} else if _, ok := band.Named(o.Region, c.Band); !ok {
		odd("BAND", "%q is not a band from 160 m to 6 m; kept as written", c.Band)
	}

	c.Mode, c.Submode = strings.ToUpper(take("MODE")), strings.ToUpper(take("SUBMODE"))
	if mode, sub, ok := onair.ModeOf(c.Mode); ok && sub != "" {
		if c.Submode == "" || c.Submode == sub {
			p.note("note", at["MODE"].line, number, "MODE", "%s is a submode; read as %s with submode %s", c.Mode, mode, sub)
			c.Mode, c.Submode = mode, sub
		}
	} else if !ok && c.Mode != "" {
		odd("MODE", "%q is not a known mode; kept as written", c.Mode)
	}
	c.Sent, c.Received = take("RST_SENT"), take("RST_RCVD")
	if w := take("TX_PWR"); w != "" {
		if v, err := strconv.ParseFloat(strings.Replace(w, ",", ".", 1), 64); err == nil && v >= 0 && v < 1e5 {
			c.PowerW = v
		} else {
			keep("TX_PWR", "%q is not a power in watts", w)
		}
	}
	if l := take("GRIDSQUARE"); l != "" {
		if locatorForm.MatchString(l) {
			c.Locator = l
		} else {
			keep("GRIDSQUARE", "%q is not a locator of 4 to 12 characters", l)
		}
	}
	c.OtherRef, c.OwnRef = strings.ToUpper(take("SIG_INFO")), strings.ToUpper(take("MY_SIG_INFO"))
	if strings.ContainsAny(c.OtherRef, ",;") {
		odd("SIG_INFO", "several references in one field; kept together")
	}
	if take("NAME") != "" {
		c.Name = at["NAME"].Value
	}
	if take("COMMENT") != "" {
		c.Comment = at["COMMENT"].Value
	}
	first := map[string]bool{}
	for _, f := range fields {
		if used[f.Name] && !first[f.Name] {
			first[f.Name] = true
			continue
		}
		c.Extra = append(c.Extra, f.Field)
	}
	p.Records = append(p.Records, r)
}

// times reads start and end. A start without a date or time refuses the record, since it has no place
// in the log; a bad end costs only the end.
func (p *Preview) times(c *onair.Contact, at map[string]rawField, take func(string) string, keep, refuse func(string, string, ...any)) {
	day, err := time.Parse("20060102", take("QSO_DATE"))
	if err != nil {
		refuse("QSO_DATE", "%q is not a date, so this record is not taken; expected YYYYMMDD", at["QSO_DATE"].Value)
		return
	}
	clock, seconds, err := adifTime(take("TIME_ON"))
	if err != nil {
		refuse("TIME_ON", "%q is not a time, so this record is not taken; expected HHMM or HHMMSS", at["TIME_ON"].Value)
		return
	}
	c.At, c.Seconds = day.Add(clock), seconds
	off := take("TIME_OFF")
	if off == "" {
		return
	}
	clock, offSeconds, err := adifTime(off)
	if err != nil {
		keep("TIME_OFF", "%q is not a time", off)
		return
	}
	if offSeconds != seconds {
		keep("TIME_OFF", "the end has other digits than the start")
	}
	end := day
	if d := take("QSO_DATE_OFF"); d != "" {
		if end, err = time.Parse("20060102", d); err != nil {
			keep("QSO_DATE_OFF", "%q is not a date", d)
			end = day
		}
	}
	c.End = end.Add(clock)
	if c.End.Before(c.At) {
		if at["QSO_DATE_OFF"].Value == "" {
			c.End = c.End.AddDate(0, 0, 1)
			p.note("note", at["TIME_OFF"].line, 0, "TIME_OFF", "the end %s is before the start; read as the next day", off)
			return
		}
		c.End = time.Time{}
		keep("TIME_OFF", "the end lies before the start")
		keep("QSO_DATE_OFF", "the end lies before the start")
	}
}

func adifTime(s string) (d time.Duration, seconds bool, err error) {
	layout := "1504"
	if len(s) == 6 {
		layout, seconds = "150405", true
	}
	t, err := time.Parse(layout, s)
	if err != nil || len(s) != len(layout) {
		return 0, false, fmt.Errorf("%q is not HHMM or HHMMSS", s)
	}
	return time.Duration(t.Hour())*time.Hour + time.Duration(t.Minute())*time.Minute + time.Duration(t.Second())*time.Second, seconds, nil
}

// Owner is what a log says of the station that made it.
type Owner struct {
	Call    string
	Locator string
	Version string
}

// WriteADI writes contacts as ADIF 3.1 with lengths in bytes of UTF-8. What an import carried along goes
// out again unchanged.
func WriteADI(w interface{ WriteString(string) (int, error) }, owner Owner, contacts []onair.Contact) error {
	var b strings.Builder
	put := func(name, value, kind string) {
		if value == "" {
			return
		}
		if kind != "" {
			kind = ":" + kind
		}
		fmt.Fprintf(&b, "<%s:%d%s>%s ", name, len(value), kind, value)
	}
	b.WriteString("Itinerant Reed log\n")
	put("ADIF_VER", "3.1.4", "")
	put("PROGRAMID", "Itinerant Reed", "")
	put("PROGRAMVERSION", owner.Version, "")
	b.WriteString("<EOH>\n")
	for _, c := range contacts {
		extra := map[string]bool{}
		for _, f := range c.Extra {
			extra[f.Name] = true
		}
		known := func(name, value string) { put(name, value, "") }
		// These are ours only where the import did not bring its own.
		unless := func(name, value string) {
			if !extra[name] {
				put(name, value, "")
			}
		}
		put("CALL", c.Call, "")
		put("QSO_DATE", c.At.UTC().Format("20060102"), "")
		clock := "1504"
		if c.Seconds {
			clock = "150405"
		}
		put("TIME_ON", c.At.UTC().Format(clock), "")
		if !c.End.IsZero() {
			known("QSO_DATE_OFF", c.End.UTC().Format("20060102"))
			unless("TIME_OFF", c.End.UTC().Format(clock))
		}
		known("BAND", c.Band)
		if c.FreqHz > 0 {
			known("FREQ", strings.TrimRight(strings.TrimRight(strconv.FormatFloat(c.FreqHz/1e6, 'f', 9, 64), "0"), "."))
		}
		known("MODE", c.Mode)
		known("SUBMODE", c.Submode)
		known("RST_SENT", c.Sent)
		known("RST_RCVD", c.Received)
		if c.PowerW > 0 {
			known("TX_PWR", strconv.FormatFloat(c.PowerW, 'f', -1, 64))
		}
		known("GRIDSQUARE", c.Locator)
		known("SIG_INFO", c.OtherRef)
		known("MY_SIG_INFO", c.OwnRef)
		known("NAME", c.Name)
		known("COMMENT", c.Comment)
		unless("STATION_CALLSIGN", owner.Call)
		if _, err := place.ParseLocator(owner.Locator); err == nil {
			unless("MY_GRIDSQUARE", owner.Locator)
		}
		for _, f := range c.Extra {
			put(f.Name, f.Value, f.Type)
		}
		b.WriteString("<EOR>\n")
		if b.Len() > 1<<16 {
			if _, err := w.WriteString(b.String()); err != nil {
				return fmt.Errorf("writing the log: %w", err)
			}
			b.Reset()
		}
	}
	if _, err := w.WriteString(b.String()); err != nil {
		return fmt.Errorf("writing the log: %w", err)
	}
	return nil
}

// MarkKnown marks the records that are in the log already or twice in the file: same call, band and
// mode, begun in the same minute.
func (p *Preview) MarkKnown(have []onair.Contact) {
	seen := map[string]string{}
	key := func(c onair.Contact) string {
		return strings.Join([]string{c.Call, c.Band, c.Mode, c.At.UTC().Format("2006-01-02T15:04")}, "|")
	}
	for _, c := range have {
		seen[key(c)] = "is in the log already"
	}
	for i := range p.Records {
		r := &p.Records[i]
		if !r.Taken {
			continue
		}
		if why, ok := seen[key(r.Contact)]; ok {
			r.Known = true
			p.note("note", r.Line, r.Number, "CALL", "%s at %s %s; not taken again", r.Contact.Call, r.Contact.At.Format("15:04"), why)
		}
		seen[key(r.Contact)] = "stands twice in this file"
	}
	p.count()
}
