package exchange

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"reed/core/band"
	"reed/core/clock"
	"reed/core/onair"
	"reed/core/place"
)

var locatorForm = regexp.MustCompile(`(?i)^[A-R]{2}[0-9]{2}([A-X]{2}([0-9]{2}([A-X]{2}([0-9]{2})?)?)?)?$`)

// recordReader turns the fields of one record into a contact. Fields that are read in full become the contact's own; all
// others stay in Extra, in their order, with a mark where they should have been read.
type recordReader struct {
	*Preview
	Record
	o    Options
	at   map[string]rawField
	used map[string]bool
}

func (r *recordReader) take(name string) string {
	v := strings.TrimSpace(r.at[name].Value)
	r.used[name] = v != ""
	return v
}

// odd marks a field that was read as it may be meant.
func (r *recordReader) odd(name, format string, args ...any) {
	text := fmt.Sprintf(format, args...)
	r.note("warning", r.at[name].line, r.Number, name, "%s", text)
	r.Contact.Marks = append(r.Contact.Marks, name+": "+text)
}

// keep leaves a field among the others, as text.
func (r *recordReader) keep(name, format string, args ...any) {
	r.used[name] = false
	r.odd(name, format+"; kept as text", args...)
}

func (r *recordReader) refuse(name, format string, args ...any) {
	r.Taken = false
	line := r.at[name].line
	if line == 0 {
		line = r.Line
	}
	r.note("error", line, r.Number, name, format, args...)
}

// readers read the fields that a contact has a place for, in this order: a band may come from a frequency.
var readers = []func(*recordReader){
	(*recordReader).call, (*recordReader).times, (*recordReader).frequency, (*recordReader).band, (*recordReader).mode,
	func(r *recordReader) { r.Contact.Sent, r.Contact.Received = r.take("RST_SENT"), r.take("RST_RCVD") },
	(*recordReader).power, (*recordReader).locator, (*recordReader).references,
	verbatim("NAME", func(c *onair.Contact) *string { return &c.Name }),
	verbatim("COMMENT", func(c *onair.Contact) *string { return &c.Comment }),
	verbatim("OPERATOR", func(c *onair.Contact) *string { return &c.Operator }),
}

// verbatim reads a field as it stands, its spaces too.
func verbatim(name string, of func(*onair.Contact) *string) func(*recordReader) {
	return func(r *recordReader) {
		if r.take(name) != "" {
			*of(&r.Contact) = r.at[name].Value
		}
	}
}

// addRecord reads one record.
func (p *Preview) addRecord(number int, fields []rawField, o Options) {
	r := &recordReader{Preview: p, o: o, at: map[string]rawField{}, used: map[string]bool{},
		Record: Record{Number: number, Line: fields[0].line, Taken: true, Fields: []onair.Field{}}}
	for _, f := range fields {
		r.Fields = append(r.Fields, f.Field)
		if _, twice := r.at[f.Name]; twice {
			p.note("warning", f.line, number, f.Name, "is given twice; the second, %q, is kept as text", f.Value)
			continue
		}
		r.at[f.Name] = f
	}
	for _, read := range readers {
		read(r)
	}
	first := map[string]bool{}
	unread := fields[:0:0]
	for _, f := range fields {
		if r.used[f.Name] && !first[f.Name] {
			first[f.Name] = true
			continue
		}
		unread = append(unread, f)
	}
	if len(unread) > 0 {
		r.Contact.Extra = make([]onair.Field, 0, len(unread))
	}
	for _, f := range unread {
		r.Contact.Extra = append(r.Contact.Extra, f.Field)
	}
	// Of a long log that is of contacts, as its beginning shows, only the first records are shown field by field.
	const deciding = 1000
	if n := len(p.Records); n == deciding {
		_, _, reports := adifReports(p)
		p.ofContacts = !reports
	}
	if p.ofContacts {
		r.Fields = nil
	}
	p.Records = append(p.Records, r.Record)
}

func (r *recordReader) call() {
	c := &r.Contact
	c.Call = strings.ToUpper(r.take("CALL"))
	switch {
	case c.Call == "":
		r.refuse("CALL", "the call is missing, so this record is skipped; expected a field like <CALL:5>Q2TAV")
	case !onair.IsCall(c.Call):
		r.odd("CALL", "%q does not look like a call", c.Call)
	}
}

// frequency reads the frequency beside the band, which it names where that is missing.
func (r *recordReader) frequency() {
	c := &r.Contact
	c.Band = strings.ToLower(r.take("BAND"))
	f := r.take("FREQ")
	if f == "" {
		return
	}
	v, err := decimal(f)
	hz := v * 1e6
	if _, ok := band.At(r.o.Region, hz); !ok && err == nil {
		if b, ok := band.At(r.o.Region, v*1e3); ok {
			hz = v * 1e3
			r.odd("FREQ", "%s is no amateur frequency in MHz; read as kHz, in %s", f, b.Label())
		}
	}
	b, in := band.At(r.o.Region, hz)
	switch {
	case err != nil || !(v > 0):
		r.keep("FREQ", "%q is not a frequency in MHz", f)
	case in && c.Band != "" && b.Name != c.Band:
		r.keep("FREQ", "%s MHz lies in %s but the band says %s", f, b.Label(), c.Band)
	default:
		c.FreqHz = hz
		if c.Band == "" && in {
			c.Band = b.Name
		}
	}
}

func (r *recordReader) band() {
	c := &r.Contact
	if c.Band == "" {
		c.Marks = append(c.Marks, "no band")
		r.note("warning", r.Line, r.Number, "BAND", "no band, and no frequency that gives one")
	} else if _, ok := band.Named(r.o.Region, c.Band); !ok {
		r.odd("BAND", "%q is not a band from 160 m to 6 m; kept as written", c.Band)
	}
}

func (r *recordReader) mode() {
	c := &r.Contact
	c.Mode, c.Submode = strings.ToUpper(r.take("MODE")), strings.ToUpper(r.take("SUBMODE"))
	mode, sub, ok := onair.ModeOf(c.Mode)
	switch {
	case !ok && c.Mode != "":
		r.odd("MODE", "%q is not a known mode; kept as written", c.Mode)
	case ok && sub != "" && (c.Submode == "" || c.Submode == sub):
		r.note("note", r.at["MODE"].line, r.Number, "MODE", "%s is a submode; read as %s with submode %s", c.Mode, mode, sub)
		c.Mode, c.Submode = mode, sub
	}
}

func (r *recordReader) power() {
	w := r.take("TX_PWR")
	if w == "" {
		return
	}
	v, err := decimal(w)
	if err != nil || !(v >= 0 && v < 1e5) {
		r.keep("TX_PWR", "%q is not a power in watts", w)
		return
	}
	r.Contact.PowerW = v
}

func (r *recordReader) locator() {
	l := r.take("GRIDSQUARE")
	if l == "" {
		return
	}
	if !locatorForm.MatchString(l) {
		r.keep("GRIDSQUARE", "%q is not a locator of 4 to 12 characters", l)
		return
	}
	r.Contact.Locator = l
}

func (r *recordReader) references() {
	c := &r.Contact
	c.OtherRef, c.OwnRef = strings.ToUpper(r.take("SIG_INFO")), strings.ToUpper(r.take("MY_SIG_INFO"))
	if strings.ContainsAny(c.OtherRef, ",;") {
		r.odd("SIG_INFO", "several references in one field; kept together")
	}
}

// decimal reads a number with a point or a comma.
func decimal(text string) (float64, error) {
	return strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
}

// times reads start and end. A start without a date or time refuses the record, since it has no place
// in the log; a bad end costs only the end.
func (r *recordReader) times() {
	c := &r.Contact
	if !r.o.Now.IsZero() {
		defer func() {
			if clock.InFuture(c.At, r.o.Now) {
				r.odd("QSO_DATE", "%s UTC lies in the future", c.At.Format("2006-01-02 15:04"))
			}
		}()
	}
	day, err := time.Parse("20060102", r.take("QSO_DATE"))
	if err != nil {
		r.refuse("QSO_DATE", "%q is not a date, so this record is skipped; expected YYYYMMDD", r.at["QSO_DATE"].Value)
		return
	}
	clock, seconds, err := adifTime(r.take("TIME_ON"))
	if err != nil {
		r.refuse("TIME_ON", "%q is not a time, so this record is skipped; expected HHMM or HHMMSS", r.at["TIME_ON"].Value)
		return
	}
	c.At, c.Seconds = day.Add(clock), seconds
	off := r.take("TIME_OFF")
	if off == "" {
		return
	}
	clock, offSeconds, err := adifTime(off)
	if err != nil {
		r.keep("TIME_OFF", "%q is not a time", off)
		return
	}
	if offSeconds != seconds {
		r.keep("TIME_OFF", "the end has other digits than the start")
	}
	end := day
	if d := r.take("QSO_DATE_OFF"); d != "" {
		if end, err = time.Parse("20060102", d); err != nil {
			r.keep("QSO_DATE_OFF", "%q is not a date", d)
			end = day
		}
	}
	c.End = end.Add(clock)
	if c.End.Before(c.At) {
		if r.at["QSO_DATE_OFF"].Value == "" {
			c.End = c.End.AddDate(0, 0, 1)
			r.note("note", r.at["TIME_OFF"].line, 0, "TIME_OFF", "the end %s is before the start; read as the next day", off)
			return
		}
		c.End = time.Time{}
		r.keep("TIME_OFF", "the end lies before the start")
		r.keep("QSO_DATE_OFF", "the end lies before the start")
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

// Owner is the station that made a log, as the log names it.
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
		writeContact(put, owner, c)
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
			p.note("note", r.Line, r.Number, "CALL", "%s at %s %s; skipped", r.Contact.Call, r.Contact.At.Format("15:04"), why)
		}
		seen[key(r.Contact)] = "is twice in this file"
	}
	p.count()
}

// writeContact writes the fields of a contact.
func writeContact(put func(name, value, kind string), owner Owner, c onair.Contact) {
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
	known("OPERATOR", c.Operator)
	unless("STATION_CALLSIGN", owner.Call)
	if _, err := place.ParseLocator(owner.Locator); err == nil {
		unless("MY_GRIDSQUARE", owner.Locator)
	}
	for _, f := range c.Extra {
		put(f.Name, f.Value, f.Type)
	}
}
