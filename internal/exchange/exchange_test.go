package exchange

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"slices"
	"strings"
	"testing"
	"time"

	"golang.org/x/text/encoding/charmap"
	textunicode "golang.org/x/text/encoding/unicode"

	"reed/core/circuit"
	"reed/core/onair"
	"reed/core/sweep"
)

func preview(t *testing.T, name, text string, choices ...string) *Preview {
	t.Helper()
	o := Options{Region: 1, Choices: map[string]string{}}
	for i := 0; i+1 < len(choices); i += 2 {
		o.Choices[choices[i]] = choices[i+1]
	}
	p, err := Read(context.Background(), strings.NewReader(text), name, o)
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	return p
}

func has(p *Preview, severity, part string) bool {
	for _, n := range p.Notes {
		if n.Severity == severity && strings.Contains(fmt.Sprintf("%d/%d/%s %s", n.Line, n.Record, n.Field, n.Text), part) {
			return true
		}
	}
	return false
}

const plainRecord = "<CALL:5>Q2TAV <QSO_DATE:8>20260516 <TIME_ON:6>143210 <BAND:3>40m <FREQ:5>7.032 <MODE:2>CW <RST_SENT:3>599 " +
	"<RST_RCVD:3>579 <APP_OTHER_X:4:S>a<b> <EOR>\n"

func TestADIFRecordIsReadWhole(t *testing.T) {
	p := preview(t, "log.adi", "made <today> by hand\n<ADIF_VER:5>3.1.4 <EOH>\n"+plainRecord)
	if len(p.Records) != 1 || !p.Records[0].Taken || len(p.Header) != 1 || p.Header[0].Value != "3.1.4" {
		t.Fatalf("%+v", p)
	}
	c := p.Records[0].Contact
	if c.Call != "Q2TAV" || c.FreqHz != 7.032e6 || c.At.Format("2006-01-02 15:04:05") != "2026-05-16 14:32:10" || !c.Seconds ||
		c.Received != "579" {
		t.Errorf("%+v", c)
	}
	if len(c.Extra) != 1 || c.Extra[0] != (onair.Field{Name: "APP_OTHER_X", Value: "a<b>", Type: "S"}) {
		t.Errorf("an unknown field is carried along: %+v", c.Extra)
	}
}

// fieldsOf reads a log back as plain fields, for comparing what went in with what came out.
func fieldsOf(t *testing.T, text string) []map[string]string {
	t.Helper()
	var out []map[string]string
	for _, r := range preview(t, "x.adi", text).Records {
		m := map[string]string{}
		for _, f := range r.Fields {
			m[f.Name] = f.Value
		}
		out = append(out, m)
	}
	return out
}

func TestADIFRoundTripLosesNoField(t *testing.T) {
	in := "<EOH>" + plainRecord +
		"<call:7>q7run/p<qso_date:8>20260516<time_on:4>2350<time_off:4>0010<band:3>20m<mode:3>FT4<gridsquare:6>IN46ab<notes:12>two\nlines " +
		"<b>\r<eor>" +
		"<CALL:5>Q3ABC<QSO_DATE:8>20260516<TIME_ON:6>235959<BAND:3>40m<FREQ:6>14.285<MODE:5>SPARK" +
		"<TX_PWR:3>lot<GRIDSQUARE:3>xyz<TIME_OFF:4>9999<MY_RIG:8>Gerät ä<QSL_SENT:1>N<SIG_INFO:15>MI-0003,MI-0004<EOR>"
	in = strings.Replace(in, "<MY_RIG:8>Gerät ä", fmt.Sprintf("<MY_RIG:%d>Gerät ä", len("Gerät ä")), 1)
	p := preview(t, "in.adi", in)
	var cs []onair.Contact
	for _, r := range p.Records {
		cs = append(cs, r.Contact)
	}
	var b strings.Builder
	if err := WriteADI(&b, Owner{Call: "Q1REED"}, cs); err != nil {
		t.Fatal(err)
	}
	before, after := fieldsOf(t, in), fieldsOf(t, b.String())
	if len(before) != 3 || len(after) != 3 {
		t.Fatalf("%d records became %d", len(before), len(after))
	}
	for i := range before {
		for name, v := range before[i] {
			got := after[i][name]
			switch {
			case name == "CALL":
				v = strings.ToUpper(v)
			case name == "MODE" && v == "FT4":
				v = "MFSK" // FT4 is its submode
			}
			if got != v {
				t.Errorf("record %d: %s was %q, came back as %q", i+1, name, v, got)
			}
		}
	}
	if after[1]["SUBMODE"] != "FT4" || after[1]["QSO_DATE_OFF"] != "20260517" || after[1]["TIME_ON"] != "2350" {
		t.Errorf("record 2: %v", after[1])
	}
	// A second time round nothing changes at all.
	var again strings.Builder
	cs = nil
	for _, r := range preview(t, "x.adi", b.String()).Records {
		cs = append(cs, r.Contact)
	}
	if err := WriteADI(&again, Owner{Call: "Q1REED"}, cs); err != nil || again.String() != b.String() {
		t.Errorf("not stable:\n%s\n%s", b.String(), again.String())
	}
}

func TestADIFOdditiesAreToldAtTheirPlace(t *testing.T) {
	rec := func(fields string) string {
		return "<CALL:5>Q2TAV<QSO_DATE:8>20260516<TIME_ON:4>1432" + fields + "<EOR>"
	}
	for name, c := range map[string]struct{ text, severity, part string }{
		"frequency and band disagree": {rec("<BAND:3>40m<FREQ:6>14.285<MODE:2>CW"), "warning", "lies in 20 m but the band says 40m"},
		"frequency in kHz":            {rec("<FREQ:4>7032<MODE:2>CW"), "warning", "read as kHz"},
		"submode as mode":             {rec("<BAND:3>20m<MODE:3>FT4"), "note", "read as MFSK with submode FT4"},
		"unknown mode":                {rec("<BAND:3>20m<MODE:5>SPARK"), "warning", "not a known mode"},
		"unknown band":                {rec("<BAND:3>41m<MODE:2>CW"), "warning", "not a band"},
		"locator":                     {rec("<BAND:3>40m<GRIDSQUARE:4>ZZ99"), "warning", "not a locator"},
		"length too short": {"<CALL:3>Q2TAV<QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m<EOR>", "warning",
			`1/1/CALL length 3 does not fit; read as "Q2TAV"`},
		"length too long": {"<CALL:16>Q2TAV<BAND:3>40m<QSO_DATE:8>20260516<TIME_ON:4>1432<EOR>", "warning", `read as "Q2TAV"`},
		"truncated":       {plainRecord + "<CALL:5>Q2T", "error", "the file ends after 3"},
		"missing end of record": {"<CALL:5>Q2TAV<QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m\n" +
			"<CALL:5>Q3TAV<QSO_DATE:8>20260516<TIME_ON:4>1433<BAND:3>40m<EOR>", "warning", "2/1/CALL an end-of-record is missing"},
		"no end of record at the end":  {"<CALL:5>Q2TAV<QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m", "warning", "no end-of-record mark"},
		"no call":                      {"<EOH>\n<QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m<EOR>", "error", "2/1/CALL the call is missing"},
		"bad date":                     {"<CALL:5>Q2TAV<QSO_DATE:8>20261332<TIME_ON:4>1432<BAND:3>40m<EOR>", "error", "is not a date"},
		"bad time":                     {"<CALL:5>Q2TAV<QSO_DATE:8>20260516<TIME_ON:4>2561<BAND:3>40m<EOR>", "error", "is not a time"},
		"several references":           {rec("<BAND:3>40m<SIG_INFO:15>MI-0001,MI-0002"), "warning", "several references"},
		"end before start, date given": {rec("<BAND:3>40m<QSO_DATE_OFF:8>20260516<TIME_OFF:4>1400"), "warning", "lies before the start"},
		"words behind a short length":  {rec("<NAME:4>John Smith<BAND:3>40m"), "warning", "1/1/NAME text behind the value, left out: \"Smith\""},
		"a field twice":                {rec("<BAND:3>40m<COMMENT:1>a<COMMENT:1>b"), "warning", "is given twice"},
	} {
		if p := preview(t, "log.adi", c.text); !has(p, c.severity, c.part) {
			t.Errorf("%s: want %s %q, got %+v", name, c.severity, c.part, p.Notes)
		}
	}
}

func TestContactsOfTheFutureAreMarked(t *testing.T) {
	day := time.Date(2026, 5, 15, 12, 0, 0, 0, time.UTC)
	p, err := Read(context.Background(), strings.NewReader(plainRecord), "log.adi", Options{Region: 1, Now: day})
	if err != nil || !has(p, "warning", "1/1/QSO_DATE 2026-05-16 14:32 UTC lies in the future") || !p.Records[0].Taken {
		t.Errorf("%v %+v", err, p)
	}
	if q, _ := Read(context.Background(), strings.NewReader(plainRecord), "log.adi",
		Options{Region: 1, Now: day.AddDate(0, 0, 2)}); len(q.Notes) != 0 {
		t.Errorf("%+v", q.Notes)
	}
}

func TestEndOfRecordInsideAValueIsText(t *testing.T) {
	p := preview(t, "log.adi", "<CALL:5>Q2TAV<COMMENT:13>say <EOR> now<QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m<EOR>")
	if len(p.Records) != 1 || p.Records[0].Contact.Comment != "say <EOR> now" {
		t.Errorf("%+v", p.Records)
	}
	p = preview(t, "log.adi", "<CALL:5>Q2TAV<APP_X_Y:13>say <EOR> now<QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m<EOR>")
	if len(p.Records) != 1 || p.Records[0].Contact.Extra[0].Value != "say <EOR> now" || len(p.Notes) != 0 {
		t.Errorf("in a field that is not known: %+v %+v", p.Records, p.Notes)
	}
}

func TestLengthsAreCountedAsTheFileCountsThem(t *testing.T) {
	for _, unit := range lengthUnits {
		n := map[string]int{"bytes": len("Zoë 🌾 ö"), "characters": 7, "UTF-16 units": 8}[unit]
		text := fmt.Sprintf("<EOH><CALL:5>Q2TAV<NAME:%d>Zoë 🌾 ö<QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m<EOR>", n)
		p := preview(t, "log.adi", text)
		if got := p.Records[0].Contact.Name; got != "Zoë 🌾 ö" {
			t.Errorf("counted in %s: %q, notes %v", unit, got, p.Notes)
		}
	}
	// Four letters in five bytes, and a blank behind: five of either lines up, so it is asked.
	p := preview(t, "log.adi", "<EOH><CALL:5>Q2TAV<NAME:5>Jörg <QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m<EOR>")
	if p.Records[0].Contact.Name != "Jörg" || !slices.ContainsFunc(p.Guesses, func(g Guess) bool { return g.Code == "length-unit" }) {
		t.Errorf("what cannot be told is not asked: %+v", p.Guesses)
	}
	enc, _ := charmap.Windows1252.NewEncoder().String("<CALL:5>Q2TAV<NAME:3>Zoë<QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m<EOR>")
	if p := preview(t, "log.adi", enc); p.Encoding != "Windows-1252" || p.Records[0].Contact.Name != "Zoë" {
		t.Errorf("%s %+v", p.Encoding, p.Records[0].Contact)
	}
}

func TestADXIsReadWithoutFollowingEntities(t *testing.T) {
	text := `<?xml version="1.0" encoding="UTF-8"?><!DOCTYPE ADX [<!ENTITY bomb "boom">]>
<ADX><HEADER><ADIF_VER>3.1.4</ADIF_VER></HEADER><RECORDS>
<RECORD><CALL>Q2TAV</CALL><QSO_DATE>20260516</QSO_DATE><TIME_ON>1432</TIME_ON><BAND>40M</BAND><MODE>CW</MODE>
<APP PROGRAMID="OTHER" FIELDNAME="X" TYPE="S">1 &lt; 2</APP></RECORD>
<RECORD><CALL>Q3TAV</CALL><QSO_DATE>20260516</QSO_DATE><TIME_ON>1440</TIME_ON><BAND>40M</BAND><NAME>&bomb;</NAME></RECORD></RECORDS></ADX>`
	p := preview(t, "log.adx", text)
	if len(p.Records) != 1 || p.Records[0].Contact.Extra[0].Name != "APP_OTHER_X" || p.Records[0].Contact.Band != "40m" {
		t.Errorf("%+v", p.Records)
	}
	if !has(p, "error", "the XML breaks off") || !has(p, "warning", "not followed") {
		t.Errorf("%+v", p.Notes)
	}
}

func TestKnownContactsAreNotDoubled(t *testing.T) {
	p := preview(t, "log.adi", plainRecord+plainRecord)
	if p.MarkKnown(nil); p.Counts.Added != 1 || !p.Records[1].Known {
		t.Errorf("taken %d", p.Counts.Added)
	}
	q := preview(t, "log.adi", plainRecord)
	if q.MarkKnown([]onair.Contact{p.Records[0].Contact}); q.Counts.Added != 0 || !has(q, "note", "in the log already") {
		t.Errorf("taken %d, %v", q.Counts.Added, q.Notes)
	}
}

// resonance writes the same resonator in any Touchstone dress.
func resonance(option, param, format string, unit, ref float64, normal bool) string {
	s := circuit.SeriesAt(7.1e6, 60, 12)
	var b strings.Builder
	b.WriteString("! made for a test\n" + option + "\n")
	for i := range 41 {
		f := 6.8e6 + 15e3*float64(i)
		z := s.Z(f)
		v := circuit.Gamma(z, ref)
		switch param {
		case "Z":
			v = z
			if normal {
				v /= complex(ref, 0)
			}
		case "Y":
			v = 1 / z
			if normal {
				v *= complex(ref, 0)
			}
		}
		x, y := real(v), imag(v)
		switch format {
		case "MA":
			x, y = cmplx.Abs(v), cmplx.Phase(v)*180/math.Pi
		case "DB":
			x, y = 20*math.Log10(cmplx.Abs(v)), cmplx.Phase(v)*180/math.Pi
		}
		fmt.Fprintf(&b, "%.9g %.9g %.9g ! point\n", f/unit, x, y)
	}
	return b.String()
}

func TestEveryDressOfATouchstoneFileGivesTheSameCurve(t *testing.T) {
	for name, text := range map[string]string{
		"defaults":             resonance("", "S", "MA", 1e9, 50, false),
		"RI in Hz":             resonance("# HZ S RI R 50", "S", "RI", 1, 50, false),
		"any order and case":   resonance("# r 50 db mhz s", "S", "DB", 1e6, 50, false),
		"reference 75":         resonance("# kHz S MA R 75", "S", "MA", 1e3, 75, false),
		"normalised Z":         resonance("# MHz Z RI R 50", "Z", "RI", 1e6, 50, true),
		"Z in ohms":            resonance("# MHz Z RI R 50", "Z", "RI", 1e6, 50, false),
		"normalised Y, 75":     resonance("# MHz Y RI R 75", "Y", "RI", 1e6, 75, true),
		"Y in siemens":         resonance("# MHz Y MA R 50", "Y", "MA", 1e6, 50, false),
		"version 2, Z in ohms": "[Version] 2.0\n" + resonance("# MHz Z RI", "Z", "RI", 1e6, 50, false) + "[End]\nrubbish after the end\n",
		"CSV of R and X":       strings.ReplaceAll(resonance("Frequency (Hz),R,X", "Z", "RI", 1, 50, false), " ", ","),
		"CSV without header":   resonance("", "Z", "RI", 1e6, 50, false),
	} {
		file := "a.s1p"
		if strings.HasPrefix(name, "CSV") {
			file = "a.csv"
			text = strings.ReplaceAll(strings.ReplaceAll(text, ",!,point", ""), " ! point", "")
			text = strings.Replace(text, "Frequency,(Hz)", "Frequency (Hz)", 1)
		}
		p := preview(t, file, text)
		if len(p.Points) != 41 || p.Sweep.Kind != sweep.Complex {
			t.Errorf("%s: %d points of kind %s, %v", name, len(p.Points), p.Sweep.Kind, p.Notes)
			continue
		}
		want := circuit.Gamma(circuit.SeriesAt(7.1e6, 60, 12).Z(6.95e6), 50)
		if got := complex(p.Sweep.Re[10], p.Sweep.Im[10]); cmplx.Abs(got-want) > 1e-5 || math.Abs(p.Sweep.F[10]-6.95e6) > 1 {
			t.Errorf("%s: %v at %v, want %v", name, got, p.Sweep.F[10], want)
		}
	}
}

func TestTouchstoneRoundTrip(t *testing.T) {
	p := preview(t, "a.s1p", resonance("# HZ S RI R 50", "S", "RI", 1, 50, false))
	q := preview(t, "b.s1p", WriteTouchstone(*p.Sweep, "two\nlines"))
	for i := range p.Sweep.F {
		if p.Sweep.F[i] != q.Sweep.F[i] || math.Abs(p.Sweep.Re[i]-q.Sweep.Re[i]) > 1e-6 || math.Abs(p.Sweep.Im[i]-q.Sweep.Im[i]) > 1e-6 {
			t.Fatalf("point %d changed", i)
		}
	}
}

func TestTouchstoneOddities(t *testing.T) {
	for name, c := range map[string]struct{ text, severity, part string }{
		"no option line": {"7.1 0.1 0\n7.2 0.1 0", "warning", "option line is missing"},
		"a NaN":          {"# MHZ S RI\n7.0 0.1 0\n7.1 NaN 0\n7.2 0.1 0", "error", "3/0/ \"NaN\" is not a number"},
		"short line":     {"# MHZ S RI\n7.0 0.1 0\n7.1 0.1\n", "error", "3/0/ 2 numbers found"},
		"out of order":   {"# MHZ S RI\n7.2 0.1 0\n7.1 0.1 0", "note", "out of order"},
		"repeated":       {"# MHZ S RI\n7.1 0.1 0\n7.1 0.2 0", "warning", "repeat a frequency"},
		"uncalibrated":   {"# MHZ S RI\n7.1 1.4 0\n7.2 0.2 0", "warning", "more than all"},
		"noise":          {"# MHZ S RI\n7.1 1.01 0\n7.2 0.2 0", "note", "taken as noise"},
		"unit":           {"# GHZ S RI\n7.1 0.1 0\n7.2 0.2 0", "warning", "is the unit right"},
		"reference":      {"# MHZ S RI R x\n7.1 0.1 0\n7.2 0.2 0", "warning", "not a reference"},
		"strange word":   {"# MHZ S RI Q\n7.1 0.1 0\n7.2 0.2 0", "warning", `"Q" in the option line`},
		"negative":       {"# MHZ S RI\n-7.1 0.1 0\n7.2 0.2 0", "error", "not above zero"},
	} {
		if p := preview(t, "a.s1p", c.text); !has(p, c.severity, c.part) {
			t.Errorf("%s: want %s %q, got %+v", name, c.severity, c.part, p.Notes)
		}
	}
	two := preview(t, "a.s2p", "# MHZ S RI R 50\n7.1 0.3 0 1 0 1 0 0.9 0\n7.2 0.2 0 1 0 1 0 0.9 0\n")
	if two.Sweep.Re[0] != 0.3 || two.Guesses[0].Code != "port" {
		t.Errorf("%+v", two)
	}
}

func TestTheGuessOfNormalisedCanBeChanged(t *testing.T) {
	text := resonance("# MHz Z RI R 50", "Z", "RI", 1e6, 50, false)
	p := preview(t, "a.s1p", text, "normalised", "normalised")
	if p.Guesses[0].Choice != "normalised" || p.Sweep.Re[10] == preview(t, "a.s1p", text).Sweep.Re[10] {
		t.Errorf("%+v", p.Guesses)
	}
}

func TestCSVDressesAndGuesses(t *testing.T) {
	for name, c := range map[string]struct {
		text    string
		columns string
		hz, swr float64
	}{
		"SWR with header":          {"Freq(MHz),SWR\n7.0,1.5\n7.1,1.2\n", "f swr", 7e6, 1.5},
		"SWR without header":       {"7.0,1.5\n7.1,1.2\n", "f swr", 7e6, 1.5},
		"semicolons and decimals":  {"7,0;1,5\n7,1;1,2\n", "f swr", 7e6, 1.5},
		"tabs":                     {"7000\t1.5\n7100\t1.2\n", "f swr", 7e6, 1.5},
		"blanks and decimal comma": {"7,0 1,5\n7,1 1,2\n", "f swr", 7e6, 1.5},
		"return loss, positive":    {"freq,return loss\n7000000,13.979\n7100000,20\n", "f rl", 7e6, 1.5},
		"return loss, negative":    {"freq,s11 db\n7000000,-13.979\n7100000,-20\n", "f rl", 7e6, 1.5},
		"return loss by its size":  {"7000000,-13.979\n7100000,-20\n", "f rl", 7e6, 1.5},
		"all columns":              {"Frequency,R,X,SWR\n7e6,75,0,1.5\n7.1e6,60,0,1.2\n", "f r x swr", 7e6, 1.5},
		"reflection":               {"f,re s11,im s11\n7e6,0.2,0\n7.1e6,0.1,0\n", "f re im", 7e6, 1.5},
		"quoted with a column more": {"\"Frequency (kHz)\",\"Note\",\"SWR\"\n\"7000\",\"a\",\"1.5\"\n\"7100\",\"b\",\"1.2\"\n", "f - swr", 7e6,
			1.5},
	} {
		p := preview(t, "a.csv", c.text)
		if p.Guesses[0].Choice != c.columns || len(p.Points) != 2 || math.Abs(p.Points[0].Hz-c.hz) > 1 ||
			math.Abs(p.Points[0].SWR-c.swr) > 0.001 {
			t.Errorf("%s: columns %q, %+v, %v", name, p.Guesses[0].Choice, p.Points, p.Notes)
		}
	}
	p := preview(t, "a.csv", "7.0,14\n7.1,20\n", "columns", "f rl", "frequency-unit", "kHz")
	if p.Guesses[0].Choice != "f rl" || p.Points[0].Hz != 7000 || math.Abs(p.Points[0].SWR-1.498) > 0.01 {
		t.Errorf("a changed guess is followed: %+v %+v", p.Guesses, p.Points)
	}
}

func TestCSVOddities(t *testing.T) {
	for name, c := range map[string]struct{ text, severity, part string }{
		"a word":        {"7.0,1.5\n7.1,oops\n7.2,1.2", "error", "2/0/ \"oops\" is not a number"},
		"a short line":  {"7.0,1,2\n7.1\n7.2,1,2", "error", "2/0/"},
		"impossible":    {"freq,swr\n7.0,1.5\n7.1,0.5", "error", "3/0/swr an SWR of 0.5"},
		"contradiction": {"f,r,x,swr\n7e6,75,0,9\n7.1e6,60,0,1.2", "warning", "contradicts R and X"},
		"unsigned X":    {"f,r,x\n7.0,50,40\n7.05,50,20\n7.1,50,1\n7.15,50,20\n7.2,50,40", "warning", "without sign"},
		"both signs":    {"f,rl\n7.0,10\n7.1,-20", "warning", "both signs"},
		"zero":          {"f,swr\n0,1.5\n7.1,1.2", "error", "not above zero"},
		"formula":       {"f,swr\n7.0,1.5\n7.1,=1+1", "error", "=1+1"},
	} {
		if p := preview(t, "a.csv", c.text); !has(p, c.severity, c.part) {
			t.Errorf("%s: want %s %q, got %+v", name, c.severity, c.part, p.Notes)
		}
	}
}

func TestUTF16IsRead(t *testing.T) {
	for _, e := range []textunicode.BOMPolicy{textunicode.UseBOM, textunicode.IgnoreBOM} {
		text, _ := textunicode.UTF16(textunicode.LittleEndian, e).NewEncoder().String("Freq(MHz);SWR\r\n7,0;1,5\r\n7,1;1,2\r\n")
		if p := preview(t, "a.csv", text); p.Encoding != "UTF-16" || len(p.Points) != 2 {
			t.Errorf("%+v", p)
		}
	}
}

func TestFilesThatCannotBeReadSayWhatWasExpected(t *testing.T) {
	for name, text := range map[string]string{
		"empty": "", "blank": " \n\t\n", "binary": "MZ\x00\x01\x02\x00\x00\xff\xfe\x00abc", "prose": "Dear diary, the band was closed.\nYours",
		"header only":     "x <EOH>",
		"too many points": "7.0,1.5\n" + strings.Repeat("7.1,1.5\n", maxPoints),
		"one column":      "1\n2\n3", "hybrid": "# MHZ H RI\n7 1 1", "huge": strings.Repeat("7.1,1.5\n", MaxSize/8+1),
		"adx without records": "<?xml version='1.0'?><ADX></ADX>", "broken adx": "<?xml <<",
	} {
		_, err := Read(context.Background(), strings.NewReader(text), name, Options{Region: 1})
		var fe *FileError
		if !errors.As(err, &fe) || !strings.Contains(err.Error(), "expected") {
			t.Errorf("%s: %v", name, err)
		}
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := Read(ctx, strings.NewReader(plainRecord), "x.adi", Options{Region: 1}); !errors.Is(err, context.Canceled) {
		t.Errorf("a stopped reading goes on: %v", err)
	}
}

func TestTypedReadings(t *testing.T) {
	p, err := ParseReadings("7.0 1.8\n7,1 1,3\n7200 2\n\nseven 1\n7.15 0.4\n7.1\n", ReadingOptions{})
	if err != nil || len(p.Points) != 3 {
		t.Fatalf("%v %+v", err, p)
	}
	for _, want := range []string{"5/0/f", "6/0/swr", "7/0/ 1 words"} {
		if !has(p, "error", want) {
			t.Errorf("%q is missing in %+v", want, p.Notes)
		}
	}
	if _, err := ParseReadings("nothing here at all", ReadingOptions{}); err == nil {
		t.Error("nonsense accepted")
	}
}

func FuzzRead(f *testing.F) {
	f.Add("log.adi", plainRecord)
	f.Add("a.s1p", "# MHZ S RI R 50\n7.1 0.1 0\n")
	f.Add("a.csv", "7,0;1,5\n7,1;1,2\n")
	f.Add("a.adx", "<ADX><RECORD><CALL>Q2TAV</CALL></RECORD></ADX>")
	f.Fuzz(func(t *testing.T, name, text string) {
		p, err := Read(context.Background(), strings.NewReader(text), name, Options{Region: 1})
		if err != nil {
			return
		}
		if p.Sweep != nil {
			if err := p.Sweep.Check(); err != nil {
				t.Fatalf("accepted a sweep that is none: %v", err)
			}
			if _, err := p.Sweep.Curve(); err != nil {
				t.Fatalf("a checked sweep makes no curve: %v", err)
			}
		}
		var cs []onair.Contact
		for _, r := range p.Records {
			if r.Taken {
				cs = append(cs, r.Contact)
			}
		}
		if len(cs) == 0 {
			return
		}
		var b strings.Builder
		if err := WriteADI(&b, Owner{}, cs); err != nil {
			t.Fatal(err)
		}
		q, err := Read(context.Background(), strings.NewReader(b.String()), "x.adi", Options{Region: 1})
		if err != nil || len(q.Records) != len(cs) {
			t.Fatalf("%d contacts written, read back %v, %v\n%q", len(cs), q, err, b.String())
		}
	})
}

// People write down what their instrument shows: SWR, R and X, or all three; megahertz or kilohertz; one band or many.
func TestReadingsAreTypedAsTheyAreShown(t *testing.T) {
	for _, c := range []struct {
		text, kind string
		swr        []float64
		noted      string
	}{
		{"10.1 48 -21\n10.12 50 0\n10.15 52 18", sweep.Complex, []float64{1.54, 1, 1.43}, ""},
		{"14.05 1.5 62 +j18\n14.10 1.2 55 -j6", sweep.Complex, []float64{1.48, 1.16}, ""},
		{"7050 1.7\n7100 1,4\n14150 2.2", sweep.Magnitude, []float64{1.7, 1.4, 2.2}, "read as kHz"},
		{"3.6 2.0\n3.65 40 10", sweep.Magnitude, []float64{2, 1.37}, "1 of 2 lines have R and X"},
	} {
		p, err := ParseReadings(c.text, ReadingOptions{})
		if err != nil || p.Sweep == nil || p.Sweep.Kind != c.kind || len(p.Points) != len(c.swr) {
			t.Errorf("%q: %v %+v", c.text, err, p)
			continue
		}
		for i, want := range c.swr {
			if math.Abs(p.Points[i].SWR-want) > 0.011 {
				t.Errorf("%q: SWR %.3f in line %d, want %.2f", c.text, p.Points[i].SWR, i+1, want)
			}
		}
		if c.noted != "" && !slices.ContainsFunc(p.Notes, func(n Note) bool { return strings.Contains(n.Text, c.noted) }) {
			t.Errorf("%q: %v", c.text, p.Notes)
		}
	}
	for text, says := range map[string]string{"7.1 -4 10": "R and X", "7.1 1.4 50 3 9": "5 words", "7.1 fifty 3": "R and X",
		"70 1.4": "outside"} {
		if _, err := ParseReadings(text, ReadingOptions{}); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", text, err)
		}
	}
}

func TestALogWithAValueTooLongIsRefused(t *testing.T) {
	for name, text := range map[string]string{
		"x.adi": "<CALL:5>Q2TAV<COMMENT:300000>" + strings.Repeat("w", 300_000) + "<EOR>",
		"x.adx": "<ADX><RECORDS><RECORD><CALL>Q2TAV</CALL><COMMENT>" + strings.Repeat("w", 300_000) + "</COMMENT></RECORD></RECORDS></ADX>",
	} {
		_, err := ReadBytes(t.Context(), []byte(text), name, Options{})
		if err == nil || !strings.Contains(err.Error(), "COMMENT has 300000 characters") {
			t.Errorf("%s: %v", name, err)
		}
	}
}
