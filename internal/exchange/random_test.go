package exchange

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"reed/core/onair"
	"reed/core/sweep"
)

// words makes text with what breaks naive readers: brackets, tags, line ends, letters outside ASCII.
func words(rng *rand.Rand) string {
	parts := []string{"a", "Z", " ", "<", ">", "<EOR>", "<CALL:3>", ":", "\r\n", "é", "漢", "🌾", "0", ",", "\"", "\t", "  "}
	var b strings.Builder
	for range rng.IntN(9) {
		b.WriteString(parts[rng.IntN(len(parts))])
	}
	return b.String()
}

func TestAnyContactGoesOutAndComesBack(t *testing.T) {
	rng := rand.New(rand.NewPCG(21, 22))
	pick := func(v ...string) string { return v[rng.IntN(len(v))] }
	for range 400 {
		var in []onair.Contact
		for i := range 1 + rng.IntN(5) {
			c := onair.Contact{
				Call: fmt.Sprintf("Q%dA%c", i, 'A'+rune(rng.IntN(26))), At: time.Date(2020+rng.IntN(6), time.Month(1+rng.IntN(12)), 1+rng.IntN(28),
					rng.IntN(24), rng.IntN(60), 0, 0, time.UTC),
				Band: pick("40m", "20m", ""), Mode: pick("CW", "SSB", "MFSK", ""), Sent: pick("", "599", "-12"), Received: pick("", "57"),
				Locator:  pick("", "IN36", "IN36ab", "IN36ab12"),
				OtherRef: pick("", "MI-0001"), OwnRef: pick("", "MI-0002"), PowerW: []float64{0, 0.5, 10, 12.25}[rng.IntN(4)],
			}
			if c.Mode == "MFSK" {
				c.Submode = pick("FT4", "JS8")
			}
			if rng.IntN(2) == 0 {
				c.Seconds, c.At = true, c.At.Add(time.Duration(rng.IntN(60))*time.Second)
			}
			if c.Band == "40m" && rng.IntN(2) == 0 {
				c.FreqHz = 7e6 + float64(rng.IntN(200000))
			}
			if text := words(rng); strings.TrimSpace(text) != "" {
				c.Comment = text
			}
			if text := words(rng); text != "" {
				c.Extra = append(c.Extra, onair.Field{Name: "NOTES", Value: text})
			}
			in = append(in, c)
		}
		var b strings.Builder
		if err := WriteADI(&b, Owner{}, in); err != nil {
			t.Fatal(err)
		}
		p, err := Read(context.Background(), strings.NewReader(b.String()), "x.adi", Options{Region: 1})
		if err != nil || len(p.Records) != len(in) {
			t.Fatalf("%d contacts became %v, %v\n%s", len(in), p, err, b.String())
		}
		for i, r := range p.Records {
			got, want := r.Contact, in[i]
			got.Marks = nil
			if math.Abs(got.FreqHz-want.FreqHz) < 0.01 {
				got.FreqHz = want.FreqHz
			}
			if want.Band == "" && want.FreqHz == 0 {
				got.Band = ""
			}
			if fmt.Sprintf("%+v", got) != fmt.Sprintf("%+v", want) {
				t.Fatalf("got  %+v\nwant %+v\n%s\nnotes %v", got, want, b.String(), p.Notes)
			}
		}
	}
}

func TestAnyTableOfNumbersReadsAsItWasWritten(t *testing.T) {
	rng := rand.New(rand.NewPCG(23, 24))
	for range 300 {
		sep := []string{";", "\t", ",", " "}[rng.IntN(4)]
		comma := sep != "," && rng.IntN(2) == 0
		unit, scale := "MHz", 1e6
		if rng.IntN(2) == 0 {
			unit, scale = "kHz", 1e3
		}
		n := 6 + rng.IntN(40)
		var b strings.Builder
		header := rng.IntN(2) == 0
		if header {
			b.WriteString("Freq(" + unit + ")" + sep + "SWR\n")
		}
		want := make([]float64, n)
		for i := range n {
			want[i] = 1 + 4*math.Abs(float64(i)/float64(n)-0.5) + 0.01*rng.Float64()
			line := fmt.Sprintf("%.4f%s%.4f", (7e6+float64(i)*5e3)/scale, "\x00", want[i])
			if comma {
				line = strings.ReplaceAll(line, ".", ",")
			}
			b.WriteString(strings.ReplaceAll(line, "\x00", sep) + []string{"\n", "\r\n"}[rng.IntN(2)])
		}
		p, err := Read(context.Background(), strings.NewReader(b.String()), "a.csv", Options{Region: 1})
		if err != nil || len(p.Points) != n || p.Sweep.Kind != sweep.Magnitude {
			t.Fatalf("%v, %+v\n%s", err, p, b.String())
		}
		for i, point := range p.Points {
			if math.Abs(point.SWR-want[i]) > 1e-3 || math.Abs(point.Hz-(7e6+float64(i)*5e3)) > 60 {
				t.Fatalf("point %d is %v at %v, want %v\n%s", i, point.SWR, point.Hz, want[i], b.String())
			}
		}
	}
}

func TestVersionTwoTouchstone(t *testing.T) {
	text := `! made up
[Version] 2.0
# MHz S RI R 75
[Number of Ports] 1
[Number of Frequencies] 3
[Reference] 50.0
[Network Data]
7.0 0.2 0.0
7.1 0.1 0.0
7.2 0.3 0.1
[End]
`
	p := preview(t, "a.ts", text)
	if len(p.Points) != 3 || math.Abs(p.Points[0].SWR-1.5) > 1e-9 {
		t.Errorf("%+v", p.Points)
	}
	split := strings.Replace(text, "[Reference] 50.0", "[Reference]\n50.0", 1)
	if q := preview(t, "a.ts", split); len(q.Points) != 3 || math.Abs(q.Points[0].SWR-1.5) > 1e-9 {
		t.Errorf("reference on a line of its own: %+v", q.Points)
	}
	if r := preview(t, "a.s2p", "# MHz S MA R 50\n7.0 0.2 0 0.1 0\n 0.1 0 0.9 0\n7.1 0.1 0 0.1 0\n 0.1 0 0.9 0\n"); len(r.Points) != 2 {
		t.Errorf("two-port points on two lines: %+v %v", r.Points, r.Notes)
	}
}
