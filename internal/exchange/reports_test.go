package exchange

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"reed/core/band"
	"reed/core/onair"
	"reed/core/place"
)

func heard(t testing.TB, text string, o Options) *Preview {
	t.Helper()
	o.Region = band.Region(1)
	p, err := Read(context.Background(), strings.NewReader(text), "reports.csv", o)
	if err != nil {
		t.Fatalf("%v\n%s", err, text)
	}
	if p.Kind != "reports" {
		t.Fatalf("read as %s:\n%s", p.Kind, text)
	}
	return p
}

func value(v *float64) float64 {
	if v == nil {
		return math.NaN()
	}
	return *v
}

func (p *Preview) guessed(code string) string {
	for _, g := range p.Guesses {
		if g.Code == code {
			return g.Choice
		}
	}
	return ""
}

func (p *Preview) says(text string) bool {
	return slices.ContainsFunc(p.Notes, func(n Note) bool { return strings.Contains(n.Text, text) })
}

const plainReports = `timestamp,tx_sign,tx_loc,power,rx_sign,rx_loc,frequency,mode,snr,distance
2026-05-16 14:32:00,Q1REED,IN36xl,23,Q5ABC,JO22ab,14.097102,WSPR,-17,1210
2026-05-16 14:34:00,Q1REED,IN36xl,23,Q6DEF,FN31,14.097105,WSPR,-24.5,
`

func TestReportsWithNamedColumns(t *testing.T) {
	p := heard(t, plainReports, Options{})
	a, b := p.Heard[0], p.Heard[1]
	if a.Sender != "Q1REED" || a.Receiver != "Q5ABC" || a.Locator != "JO22ab" || a.SenderLocator != "IN36xl" || value(a.FreqHz) != 14097102 ||
		a.Band != "20m" || a.Mode != "WSPR" || value(a.SNR) != -17 || value(a.DistanceM) != 1210e3 || !a.Taken || !a.Seconds ||
		a.At.Format(time.RFC3339) != "2026-05-16T14:32:00Z" {
		t.Errorf("%+v", a)
	}
	// Powers of slow beacons that are whole steps of dBm are dBm; it is a guess that can be changed.
	if math.Abs(value(a.PowerW)-0.19953) > 1e-3 || p.guessed("power-unit") != "dBm" {
		t.Errorf("%v W, %v", value(a.PowerW), p.Guesses)
	}
	// A fraction of a decibel stays, a missing distance is computed from both locators.
	want := place.Distance(must(place.ParseLocator("IN36xl")), must(place.ParseLocator("FN31")))
	if value(b.SNR) != -24.5 || math.Abs(value(b.DistanceM)-want) > 1 {
		t.Errorf("%+v", b)
	}
	if p.Counts != (Counts{Records: 2, Added: 2}) {
		t.Errorf("%+v", p.Counts)
	}
	if w := heard(t, plainReports, Options{Choices: map[string]string{"power-unit": "W"}}).Heard[0]; value(w.PowerW) != 23 {
		t.Errorf("%v W", value(w.PowerW))
	}
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

func TestColumnsOfAnyOrderAndName(t *testing.T) {
	for name, text := range map[string]string{
		"camels and semicolons": "snr;receiverCallsign;receiverLocator;senderCallsign;frequency;mode;flowStartSeconds\n" +
			"-17;Q5ABC;JO22;Q1REED;14097102;WSPR;1778941920\n",
		"tabs": "Date\tTime (UTC)\tCall\tFrequency (kHz)\tSNR (dB)\tReporter\tGrid\tMode\n" +
			"2026-05-16\t1432\tQ1REED\t14097.102\t-17\tQ5ABC\tJO22\tWSPR\n",
		"heard by": "time,heard by,grid,freq MHz,SNR,mode\n2026-05-16T14:32:00Z,Q5ABC,JO22,14.097102,-17,WSPR\n",
		"a comment names them": "# made for Q1REED\n#utc,spotter,loc,dx,mhz freq,db,mode\n" +
			"2026-05-16 14:32,Q5ABC,JO22,Q1REED,14.097102,-17,WSPR\n",
		"a comment behind the names": "time,rx call,rx grid,tx call,freq,snr,mode\n# from here on\n" +
			"2026-05-16 14:32,Q5ABC,JO22,Q1REED,14.097102,-17,WSPR\n",
		"a comment before the names": "# made for Q1REED\ntime,rx call,rx grid,tx call,freq,snr,mode\n" +
			"2026-05-16 14:32,Q5ABC,JO22,Q1REED,14.097102,-17,WSPR\n",
		"a byte order mark and quotes": "\ufeff\"Date\",\"UTC\",\"TX call\",\"RX call\",\"RX grid\",\"MHz freq\",\"SNR\",\"Mode\"\r\n" +
			"\"16.05.2026\",\"14:32\",\"Q1REED\",\"Q5ABC\",\"JO22\",\"14,097102\",\"-17\",\"WSPR\"\r\n",
		"decimal commas": "zeit_utc time;date;sender;receiver;locator;freq;snr;mode\n14:32;2026-05-16;Q1REED;Q5ABC;JO22;14,097102;-17,0;WSPR\n",
		"short names": "Timestamp,Call,MHz,S/N,Drift,Grid,Pwr,Reporter,RGrid,mode\n" +
			"2026-05-16 14:32,Q1REED,14.097102,-17,0,IN36xl,0.2,Q5ABC,JO22,WSPR\n",
		"prefixes": "date time,txcall,txgrid,rcall,rgrid,khz,db,mode\n" +
			"2026-05-16 14:32,Q1REED,IN36xl,Q5ABC,JO22,14097.102,-17,WSPR\n",
		"bars": "timestamp | sender | receiver | locator | frequency | snr | mode\n" +
			"2026-05-16 14:32 | Q1REED | Q5ABC | JO22 | 14.097102 | -17 | WSPR\n",
	} {
		t.Run(name, func(t *testing.T) {
			h := heard(t, text, Options{Own: "Q1REED"}).Heard[0]
			if h.Sender != "Q1REED" || h.Receiver != "Q5ABC" || h.Locator != "JO22" || math.Abs(value(h.FreqHz)-14097102) > 1 ||
				value(h.SNR) != -17 ||
				h.Mode != "WSPR" || h.At.Format("2006-01-02 15:04") != "2026-05-16 14:32" || !h.Taken {
				t.Errorf("%+v", h)
			}
		})
	}
}

func TestReportsWithoutNamesOfColumns(t *testing.T) {
	p := heard(t, `2026-05-16 14:32:00,Q5ABC,JO22,Q1REED,IN36,14.097102,-17,0.2,1210
2026-05-16 14:34:00,Q6DEF,FN31,Q1REED,IN36,14.097105,-24,0.2,4901
2026-05-16 14:36:00,Q7GHI,FN20,Q1REED,IN36,14.097105,-21,0.2,5003
`, Options{})
	h := p.Heard[1]
	if h.Sender != "Q1REED" || h.Receiver != "Q6DEF" || h.Locator != "FN31" || h.SenderLocator != "IN36" || value(h.FreqHz) != 14097105 ||
		value(h.SNR) != -24 || value(h.PowerW) != 0.2 || value(h.DistanceM) != 4901e3 {
		t.Errorf("%+v", h)
	}
	if p.guessed("columns") == "" || !strings.Contains(fmt.Sprint(p.Guesses), "column 4 is the sender") {
		t.Errorf("%+v", p.Guesses)
	}
}

// As many lists have it: a drift, a bearing before the distance, powers in watts, and no names.
func TestDistancesAreKnownByTheLocators(t *testing.T) {
	row := func(at, receiver, locator string, snr, drift, bearing int, miles float64) string {
		return fmt.Sprintf(" 2026-05-16 %s \t Q1REED \t 14.097102 \t %d \t %d \t IN36xl \t 0.2 \t %s \t %s \t %d \t %.0f \n", at, snr, drift,
			receiver, locator, bearing, miles)
	}
	home := must(place.ParseLocator("IN36xl"))
	miles := func(locator string) float64 {
		return place.Distance(home, must(place.ParseLocator(locator))) / 1609.344
	}
	p := heard(t, row("14:32", "Q5ABC", "JO22ab", -17, 0, 47, miles("JO22ab"))+row("14:34", "Q6DEF", "FN31aa", -24, -1, 291, miles("FN31aa"))+
		row("14:36", "Q7GHI", "EM00aa", -22, 0, 293, miles("EM00aa")), Options{})
	for _, h := range p.Heard {
		want := place.Distance(home, must(place.ParseLocator(h.Locator)))
		if h.Sender != "Q1REED" || math.Abs(value(h.DistanceM)/want-1) > 0.01 || value(h.PowerW) != 0.2 || value(h.FreqHz) != 14097102 {
			t.Errorf("%+v: %v of %v m", h, value(h.DistanceM), want)
		}
	}
	if value(p.Heard[0].SNR) != -17 {
		t.Errorf("%+v", p.Heard[0])
	}
}

func TestDayAndMonth(t *testing.T) {
	row := func(date string) string { return date + " 14:32,Q1REED,Q5ABC,JO22,14.0971,-17\n" }
	head := "timestamp,sender,receiver,locator,freq,snr\n"
	for text, want := range map[string]string{
		row("16/05/2026"): "2026-05-16", row("05/16/2026"): "2026-05-16", row("16.05.26"): "2026-05-16",
		row("20260516"): "2026-05-16", row("16 May 2026"): "2026-05-16",
		// One date that can be read one way only decides for all.
		row("04/05/2026") + row("05/16/2026"): "2026-04-05", row("04/05/2026") + row("16/05/2026"): "2026-05-04",
		// Where none decides, that which lies closer together: all on two days in April, and not over a year.
		row("04/05/2026") + row("04/06/2026") + row("04/11/2026"): "2026-04-05",
	} {
		p := heard(t, head+text, Options{})
		if got := p.Heard[0].At.Format(time.DateOnly); got != want {
			t.Errorf("%q is read as %s, want %s", text, got, want)
		}
	}
	p := heard(t, head+row("04/05/2026"), Options{})
	if p.guessed("date-order") != dayFirst || !strings.Contains(fmt.Sprint(p.Guesses), "none of them says so") {
		t.Errorf("%+v", p.Guesses)
	}
	if got := heard(t, head+row("04/05/2026"),
		Options{Choices: map[string]string{"date-order": monthFirst}}).Heard[0].At; got.Month() != time.April {
		t.Errorf("%v", got)
	}
	// What would lie in the future is read the other way.
	now := time.Date(2026, 6, 1, 0, 0, 0, 0, time.UTC)
	if got := heard(t, head+row("05/09/2026"), Options{Now: now}).Heard[0].At; got.Month() != time.May {
		t.Errorf("%v", got)
	}
}

func TestZonesSecondsAndEpochs(t *testing.T) {
	head := "timestamp,sender,receiver,snr\n"
	for text, want := range map[string]string{
		"2026-05-16T16:32:00+02:00": "14:32:00 true", "2026-05-16T14:32:10Z": "14:32:10 true", "2026-05-16 14:32:10 UTC": "14:32:10 true",
		"1778941920": "14:32:00 true", "1778941920000": "14:32:00 true", "1778941920000000": "14:32:00 true", "1778941920.5": "14:32:00 true",
		"2026-05-16 14:32": "14:32:00 false", "20260516143210": "14:32:10 true", "202605161432": "14:32:00 false",
		"2026-05-16 2:32:10 PM": "14:32:10 true", "2026-05-16 14:32:10.250": "14:32:10 true",
	} {
		h := heard(t, head+text+",Q1REED,Q5ABC,-17\n", Options{}).Heard[0]
		if got := fmt.Sprintf("%s %v", h.At.Format("15:04:05"), h.Seconds); got != want || h.At.Format(time.DateOnly) != "2026-05-16" {
			t.Errorf("%q is read as %s %s, want %s", text, h.At.Format(time.DateOnly), got, want)
		}
	}
	text := "local time,date,sender,receiver,snr\n16:32,2026-05-16,Q1REED,Q5ABC,-17\n932,2026-05-16,Q1REED,Q6DEF,-17\n"
	p := heard(t, text, Options{})
	if p.guessed("time-zone") != "UTC" || !strings.Contains(fmt.Sprint(p.Guesses), "called local") || p.Heard[1].At.Hour() != 9 {
		t.Errorf("%+v %v", p.Guesses, p.Heard[1].At)
	}
	if p := heard(t, text, Options{Choices: map[string]string{"time-zone": "UTC+2"}}); p.Heard[0].At.Hour() != 14 ||
		p.guessed("time-zone") != "UTC+2" {
		t.Errorf("%v %v", p.Heard[0].At, p.Guesses)
	}
}

func TestPowersInWhateverUnit(t *testing.T) {
	for _, x := range []struct {
		head, cell, mode string
		watts            float64
	}{{"power dBm", "37", "WSPR", 5.01187}, {"dbm", "30", "FT8", 1}, {"power (W)", "10", "WSPR", 10}, {"power", "10", "FT8", 10},
		{"power", "23", "WSPR", 0.19953}, {"power", "5 W", "WSPR", 5}, {"power", "200 mW", "FT8", 0.2}, {"pwr", "0.2", "WSPR", 0.2},
		{"tx power mW", "500", "WSPR", 0.5}} {
		text := "timestamp,sender,receiver,snr,mode," + x.head + "\n2026-05-16 14:32,Q1REED,Q5ABC,-17," + x.mode + "," + x.cell + "\n"
		if h := heard(t, text, Options{}).Heard[0]; math.Abs(value(h.PowerW)/x.watts-1) > 1e-3 {
			t.Errorf("%s %q in %s: %v W, want %v", x.head, x.cell, x.mode, value(h.PowerW), x.watts)
		}
	}
	h := heard(t, "timestamp,sender,receiver,snr,power\n2026-05-16 14:32,Q1REED,Q5ABC,-17,much\n", Options{}).Heard[0]
	if !h.Taken || h.PowerW != nil || len(h.Marks) != 1 || h.Extra[0].Value != "much" {
		t.Errorf("a bad power costs more than the power: %+v", h)
	}
}

func TestUnitsInTheCellsGoBeforeTheColumns(t *testing.T) {
	p := heard(t, `timestamp,sender,receiver,snr,freq kHz,distance
2026-05-16 14:32,Q1REED,Q5ABC,-17 dB,14.0971,750 mi
2026-05-16 14:34,Q1REED,Q5ABC,-17,14097.1,"1,210"
2026-05-16 14:36,Q1REED,Q5ABC,-17,7.0386 MHz,1210 km
`, Options{})
	for i, want := range [][2]float64{{14097100, 750 * 1609.344}, {14097100, 1210e3}, {7038600, 1210e3}} {
		if h := p.Heard[i]; math.Abs(value(h.FreqHz)-want[0]) > 1 || math.Abs(value(h.DistanceM)-want[1]) > 1 || value(h.SNR) != -17 {
			t.Errorf("%v Hz, %v m, %v dB, want %v", value(h.FreqHz), value(h.DistanceM), value(h.SNR), want)
		}
	}
}

func TestTheSameReportCountsOnce(t *testing.T) {
	head := "timestamp,sender,receiver,locator,freq,mode,snr\n"
	row := func(at, sender, receiver, freq, snr string) string {
		return strings.Join([]string{at, sender, receiver, "JO22", freq, "WSPR", snr}, ",") + "\n"
	}
	p := heard(t, head+row("2026-05-16 14:32:00", "Q1REED", "Q5ABC", "14.097102", "-17")+
		row("2026-05-16 14:32:50", "Q1REED/P", "Q5ABC", "14.097110", "-17")+ // another database: later in the slot
		row("2026-05-16 14:34:00", "Q1REED", "Q5ABC", "14.097102", "-17")+ // the next slot
		row("2026-05-16 14:32:00", "Q1REED", "Q6DEF", "14.097102", "-17")+ // another receiver
		row("2026-05-16 14:32:00", "Q1REED", "Q5ABC", "7.040102", "-17"), Options{}) // another band
	var known []int
	for _, h := range p.Heard {
		if h.Known {
			known = append(known, h.Number)
		}
	}
	if !slices.Equal(known, []int{2}) || p.Counts != (Counts{Records: 5, Added: 4, Known: 1}) || !p.says("the same as report 1") {
		t.Errorf("%v %+v %+v", known, p.Counts, p.Notes)
	}
}

func TestCallsInBracketsHashedAndWithSuffix(t *testing.T) {
	p := heard(t, `timestamp,sender,receiver,snr
2026-05-16 14:32,<Q1REED/P>,Q5ABC-1,-17
2026-05-16 14:34,<...>,Q5ABC,-17
2026-05-16 14:36,Q1REED,Q6DEF/QRP,-17
2026-05-16 14:38,Q1REED,,-17
`, Options{})
	h := p.Heard
	if h[0].Sender != "Q1REED/P" || h[0].Receiver != "Q5ABC" || !h[0].Taken || !p.says("<Q1REED/P> is read as Q1REED/P") {
		t.Errorf("%+v", h[0])
	}
	if h[1].Taken || !p.says("hashed") || h[3].Taken || !p.says("the receiver is missing") {
		t.Errorf("%+v %+v %+v", h[1], h[3], p.Notes)
	}
	// With and without suffix it is one station: nobody else's reports are among them.
	if !h[2].Taken || p.Counts.Refused != 2 || p.guessed("whose") != "" {
		t.Errorf("%+v %+v", h[2], p.Guesses)
	}
}

func TestOtherTransmittersAreNotTaken(t *testing.T) {
	text := `timestamp,sender,receiver,snr
2026-05-16 14:32,Q1REED,Q5ABC,-17
2026-05-16 14:32,Q9OTH,Q5ABC,-3
2026-05-16 14:34,Q1REED,Q6DEF,-19
`
	p := heard(t, text, Options{})
	if !p.Heard[0].Taken || p.Heard[1].Taken || p.guessed("whose") != "Q1REED" || !p.says("1 reports are of other stations (Q9OTH)") {
		t.Errorf("%+v %+v %+v", p.Counts, p.Guesses, p.Notes)
	}
	if p := heard(t, text, Options{Own: "q9oth/p"}); p.Heard[0].Taken || !p.Heard[1].Taken {
		t.Errorf("%+v", p.Guesses)
	}
	if p := heard(t, text, Options{Choices: map[string]string{"whose": "all"}}); p.Counts.Added != 3 {
		t.Errorf("%+v", p.Counts)
	}
	// What one heard oneself: one receiver, many senders.
	p = heard(t, `timestamp,sender,receiver,snr
2026-05-16 14:32,Q2AAA,Q1REED,-17
2026-05-16 14:32,Q3BBB,Q1REED,-3
2026-05-16 14:32,Q4CCC,Q1REED,-8
2026-05-16 14:34,Q5DDD,Q1REED,-19
`, Options{Own: "Q1REED"})
	if p.Counts.Added != 4 {
		t.Errorf("%+v %+v", p.Counts, p.Notes)
	}
}

func TestReceiversWithoutLocatorAreFarUnknown(t *testing.T) {
	p := heard(t, `timestamp,sender,receiver,locator,snr
2026-05-16 14:32,Q1REED,Q5ABC,,-17
2026-05-16 14:34,Q1REED,Q6DEF,JO22,-17
2026-05-16 14:36,Q1REED,Q7GHI,nowhere,-17
`, Options{Home: &place.Point{Lat: 46.5, Lon: -12}})
	if p.Heard[0].DistanceM != nil || p.Heard[1].DistanceM == nil || p.Heard[2].DistanceM != nil || !p.Heard[2].Taken ||
		!p.says("2 reports are of receivers without a locator") || p.Heard[2].Extra[0].Value != "nowhere" {
		t.Errorf("%+v %+v", p.Heard, p.Notes)
	}
}

func TestClocksThatAreOffAreNoticed(t *testing.T) {
	rows := func(late time.Duration, receiver string) (out string) {
		at := time.Date(2026, 5, 16, 14, 0, 0, 0, time.UTC)
		for i := range 6 {
			out += fmt.Sprintf("%s,Q1REED,%s,WSPR,-%d\n", at.Add(time.Duration(2*i)*time.Minute+late).Format("2006-01-02 15:04:05"), receiver, 10+i)
		}
		return out
	}
	head := "timestamp,sender,receiver,mode,snr\n"
	if p := heard(t, head+rows(40*time.Second, "Q5ABC")+rows(41*time.Second, "Q6DEF"),
		Options{}); !p.says("40s after the beginning of their slot") &&
		!p.says("41s after") {
		t.Errorf("%+v", p.Notes)
	}
	if p := heard(t, head+rows(time.Second, "Q5ABC")+rows(0, "Q6DEF")+rows(0, "Q8JKL"), Options{}); p.says("clock") {
		t.Errorf("%+v", p.Notes)
	}
	if p := heard(t, head+rows(25*time.Second, "Q5ABC")+rows(0, "Q6DEF")+rows(0, "Q8JKL")+rows(0, "Q7GHI")+rows(0, "Q9MNO"),
		Options{}); !p.says("the clock of Q5ABC is off") {
		t.Errorf("%+v", p.Notes)
	}
}

func TestALogOfReceptions(t *testing.T) {
	text := `<EOH><CALL:6>Q1REED<OPERATOR:5>Q5ABC<MY_GRIDSQUARE:4>JO22<GRIDSQUARE:6>IN36xl<QSO_DATE:8>20260516<TIME_ON:6>143200
<FREQ:9>14.097102<MODE:4>WSPR<APP_X_SNR:3>-17<TX_PWR:3>0.2<EOR>`
	p, err := Read(context.Background(), strings.NewReader(text), "x.adi", Options{Region: 1})
	if err != nil || p.Kind != "reports" {
		t.Fatalf("%v %+v", err, p)
	}
	h := p.Heard[0]
	if h.Sender != "Q1REED" || h.Receiver != "Q5ABC" || h.Locator != "JO22" || value(h.SNR) != -17 || value(h.PowerW) != 0.2 ||
		h.Band != "20m" {
		t.Errorf("%+v", h)
	}
	p, _ = Read(context.Background(), strings.NewReader(text), "x.adi", Options{Region: 1,
		Choices: map[string]string{"direction": "CALL heard it"}})
	if h := p.Heard[0]; h.Sender != "Q5ABC" || h.Receiver != "Q1REED" || h.Locator != "IN36xl" {
		t.Errorf("%+v", h)
	}
	// A contact with reports of both sides stays one.
	p, _ = Read(context.Background(), strings.NewReader(strings.Replace(text, "<EOR>", "<RST_RCVD:3>-12<EOR>", 1)), "x.adi",
		Options{Region: 1})
	if p.Kind != "adif" || len(p.Records) != 1 {
		t.Errorf("%+v", p)
	}
}

func TestShortDatesAndOneColumnOfCalls(t *testing.T) {
	p := heard(t, "260516 1432 Q5ABC JO22 14.0971020 -17\n260516 1434 Q6DEF FN31 14.0971030 -21\n", Options{Own: "Q1REED"})
	h := p.Heard[1]
	if h.Receiver != "Q6DEF" || h.Sender != "Q1REED" || h.At.Format("2006-01-02 15:04") != "2026-05-16 14:34" || h.Locator != "FN31" ||
		value(h.FreqHz) != 14097103 || value(h.SNR) != -21 {
		t.Errorf("%+v %+v", h, p.Guesses)
	}
}

func TestAListOfWhoHeardMeNamesNoSender(t *testing.T) {
	text := "time,date,reporter,grid,snr\n14:32,2026-05-16,Q5ABC,JO22,-17\n"
	if p := heard(t, text, Options{}); !p.Heard[0].Taken || p.Heard[0].Sender != "" || !p.says("names no sender") {
		t.Errorf("%+v %+v", p.Heard, p.Notes)
	}
	if p := heard(t, text, Options{Own: "q1reed"}); p.Heard[0].Sender != "Q1REED" {
		t.Errorf("%+v", p.Heard)
	}
}

func TestASweepIsNoReport(t *testing.T) {
	for _, text := range []string{"frequency,swr\n7.0,1.5\n7.1,1.2\n7.2,1.4\n", "7000000,1.5\n7100000,1.2\n7200000,1.3\n"} {
		p, err := Read(context.Background(), strings.NewReader(text), "x.csv", Options{Region: 1})
		if err != nil || p.Kind != "csv" {
			t.Errorf("%q: %v %+v", text, err, p)
		}
	}
}

func TestOneByOneNothingIsHeldInThePreview(t *testing.T) {
	n := 0
	columns := strings.ReplaceAll(strings.Replace(plainReports, "snr,", "drift,snr,", 1), "WSPR,", "WSPR,2,")
	p := heard(t, columns, Options{Each: func(h Heard) error {
		if n++; len(h.Extra) != 1 || h.Extra[0].Name != "drift" || h.Extra[0].Value != "2" {
			t.Errorf("a column that is not read is lost on the way: %+v", h.Extra)
		}
		return nil
	}})
	if n != 2 || len(p.Heard) != 0 || p.Counts.Added != 2 {
		t.Errorf("%d given, %d held, %+v", n, len(p.Heard), p.Counts)
	}
	ctx, stop := context.WithCancel(context.Background())
	stop()
	if _, err := Read(ctx, strings.NewReader(plainReports), "x.csv", Options{Region: 1}); err == nil {
		t.Error("it reads on though nobody waits")
	}
}

func FuzzReports(f *testing.F) {
	f.Add(plainReports)
	f.Add("2026-05-16 14:32:00;Q5ABC;JO22;Q1REED;14.097102;-17;0,2;1210\n")
	f.Add("time\tcall\trx\tsnr\n1778941920\t<Q1REED>\tQ5ABC\t-1\n")
	f.Fuzz(func(t *testing.T, text string) {
		p, err := Read(context.Background(), strings.NewReader(text), "x.csv", Options{Region: 1, Now: time.Date(2026, 11, 1, 0, 0, 0,
			0, time.UTC)})
		if err != nil || p.Kind != "reports" {
			return
		}
		if p.Counts.Records != len(p.Heard) || p.Counts.Records != p.Counts.Added+p.Counts.Known+p.Counts.Refused {
			t.Errorf("%d rows: %+v", len(p.Heard), p.Counts)
		}
		for _, h := range p.Heard {
			if h.Taken && (h.At.IsZero() || h.Receiver == "") {
				t.Errorf("%+v", h)
			}
		}
	})
}

// What one heard oneself is told from who heard one, in one file too, and lies where the station that was heard is.
func TestWhatOneHeardOneselfIsKeptApart(t *testing.T) {
	text := `timestamp,sender,sender_locator,receiver,locator,mode,snr
2026-05-16 14:32,Q1REED,IN36,Q5ABC,JO22,WSPR,-17
2026-05-16 14:34,Q6DEF/P,JO22,Q1REED,IN36,WSPR,-3
2026-05-16 14:36,Q7GHI,,Q1REED/P,IN36,WSPR,-5
2026-05-16 14:36,Q7GHI,JO22,Q8JKL,JO33,WSPR,-5
`
	p := heard(t, text, Options{Own: "Q1REED/P"})
	if p.Counts.Added != 3 || p.Counts.Refused != 1 || !p.says("2 reports are of what you heard yourself") ||
		!p.says("of other stations (Q7GHI)") {
		t.Errorf("%+v %+v", p.Counts, p.Notes)
	}
	sent, got := p.Heard[0], p.Heard[1]
	if sent.Own || !got.Own || !p.Heard[2].Own || sent.Bearing == nil || got.Bearing == nil || *sent.Bearing != *got.Bearing ||
		*sent.DistanceM != *got.DistanceM || p.Heard[2].Bearing != nil {
		t.Errorf("%+v\n%+v\n%+v", sent, got, p.Heard[2])
	}
	// All are taken where one asks for it, those of others for themselves.
	all := heard(t, text, Options{Own: "Q1REED/P", Choices: map[string]string{"whose": "all"}})
	if all.Counts.Added != 4 || !all.Heard[3].Others || all.Heard[0].Others || all.Heard[1].Others || !all.says("1 reports are of others") {
		t.Errorf("%+v %+v", all.Counts, all.Notes)
	}
	// Of others the path that counts is from one's own place to who heard; what they told of theirs is kept as text.
	home := place.Point{Lat: 46.5, Lon: -12}
	third := heard(t, "timestamp,sender,sender_locator,receiver,locator,snr,distance\n2026-05-16 14:36,Q7GHI,JO22,Q8JKL,JO33,-5,123 km\n",
		Options{Own: "Q1REED", Home: &home, Choices: map[string]string{"whose": "all"}}).Heard[0]
	if to, _ := onair.At("JO33"); !third.Others || math.Abs(*third.DistanceM-place.Distance(home, to)) > 1 || len(third.Extra) != 1 ||
		third.Extra[0].Value != "123 km" {
		t.Errorf("%+v", third)
	}
	// Sent under another call than that of the settings, it is still of oneself.
	club := heard(t, "timestamp,sender,receiver,snr\n2026-05-16 14:32,Q1CLUB,Q5ABC,-17\n", Options{Own: "Q1REED"})
	if club.Counts.Added != 1 || club.Heard[0].Others || club.Heard[0].Own {
		t.Errorf("%+v", club.Heard)
	}
	// A list of one receiver that heard many, from one whose call is not known.
	p = heard(t, `timestamp,sender,receiver,snr
2026-05-16 14:32,Q2ABC,Q1REED,-17
2026-05-16 14:34,Q3ABC,Q1REED,-17
2026-05-16 14:36,Q4ABC,Q1REED,-17
2026-05-16 14:38,Q5ABC,Q1REED,-17
`, Options{})
	if p.Counts.Added != 4 || !p.Heard[3].Own {
		t.Errorf("%+v %+v", p.Counts, p.Heard)
	}
}
