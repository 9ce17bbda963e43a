package exchange

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"reed/internal/testsize"
)

func TestCSVIsReadAsItIsQuoted(t *testing.T) {
	for name, c := range map[string]struct {
		text string
		hz   float64
		swr  float64
		n    int
	}{
		"commas in quotes":               {"Frequency (MHz),Note,SWR\n7.0,\"wet, windy\",1.5\n7.1,\"dry\",1.2\n", 7e6, 1.5, 2},
		"doubled quotes":                 {"Frequency (MHz),Note,SWR\n7.0,\"the \"\"long\"\" one\",1.5\n7.1,x,1.2\n", 7e6, 1.5, 2},
		"line ends in quotes":            {"Frequency (MHz),Note,SWR\n7.0,\"first\nsecond\n# third\",1.5\n7.1,x,1.2\n", 7e6, 1.5, 2},
		"quoted decimal commas":          {"Frequency (MHz),SWR\n\"7,03\",\"1,5\"\n\"7,1\",\"1,25\"\n", 7.03e6, 1.5, 2},
		"quoted decimal commas, three":   {"Frequency (MHz),SWR\n\"7,032\",\"1,500\"\n\"7,100\",\"1,250\"\n", 7.032e6, 1.5, 2},
		"quoted thousands":               {"Frequency (kHz),SWR\n\"14,060\",1.5\n\"14,100\",1.2\n", 14.06e6, 1.5, 2},
		"quoted thousands in hertz":      {"Frequency,SWR\n\"14,060,000\",1.5\n\"14,100,000\",1.2\n", 14.06e6, 1.5, 2},
		"thousands with a decimal point": {"Frequency (kHz),SWR\n\"14,060.5\",1.5\n\"14,100.5\",1.2\n", 14.0605e6, 1.5, 2},
		"thousands by points":            {"Frequenz (Hz);SWR\n14.060.000;1,5\n14.100.000;1,2\n", 14.06e6, 1.5, 2},
		"a header that begins with #":    {"# made by hand\n# Frequency (kHz), SWR\n7000,1.5\n7100,1.2\n", 7e6, 1.5, 2},
		"a first column named #":         {"#,Frequency (MHz),SWR\n1,7.0,1.5\n2,7.1,1.2\n", 7e6, 1.5, 2},
		"a word named #":                 {"\"#\",\"Freq MHz\",\"SWR\"\n1,7.0,1.5\n2,7.1,1.2\n", 7e6, 1.5, 2},
		"more columns than understood":   {"Frequency (MHz),SWR,Temp,Who,Why\n7.0,1.5,20,me,=A1+1\n7.1,1.2,21,me,@x\n", 7e6, 1.5, 2},
		"sep= says it":                   {"sep=;\nFrequency (MHz);SWR\n7,0;1,5\n7,1;1,2\n", 7e6, 1.5, 2},
		"UHF":                            {"Frequency (MHz),SWR\n1296.2,1.5\n1296.4,1.2\n", 1296.2e6, 1.5, 2},
	} {
		t.Run(name, func(t *testing.T) {
			p := preview(t, "a.csv", c.text)
			if len(p.Points) != c.n || math.Abs(p.Points[0].Hz-c.hz) > 1 || math.Abs(p.Points[0].SWR-c.swr) > 0.001 || p.Sweep == nil {
				t.Errorf("%+v\n%+v\n%+v", p.Points, p.Guesses, p.Notes)
			}
		})
	}
}

func TestACommaThatCanBeTwoThingsIsNotGuessed(t *testing.T) {
	for name, text := range map[string]string{
		"both columns":          "13,900,1,5\n13,905,1,4\n13,910,1,3\n",
		"with a header":         "Frequency,SWR\n13,900,1,5\n13,905,1,4\n",
		"one column":            "7,032,1.5\n7,040,1.4\n7,050,1.3\n",
		"one column and a head": "f MHz,swr\n7,032,1.5\n7,040,1.4\n",
		"one line":              "13,900,1,5\n",
	} {
		_, err := Read(context.Background(), strings.NewReader(text), "a.csv", Options{Region: 1})
		var fe *FileError
		if !errors.As(err, &fe) || !strings.Contains(err.Error(), "two ways") {
			t.Errorf("%s: %v", name, err)
		}
	}
	// Where both readings make sense the guess is shown, and can be changed.
	text := "Frequency,SWR\n\"7,032\",1.5\n\"7,100\",1.2\n"
	p := preview(t, "a.csv", text)
	if p.Guesses[0].Code != "commas" {
		t.Fatalf("%+v", p.Guesses)
	}
	other := preview(t, "a.csv", text, "commas", map[string]string{grouped: commaDecimal, commaDecimal: grouped}[p.Guesses[0].Choice])
	if other.Guesses[0].Choice == p.Guesses[0].Choice || other.Points[0].Fields[0] != "7,032" {
		t.Errorf("%+v %+v", other.Guesses, other.Points)
	}
}

func TestFrequenciesThatNoAntennaHasAreAskedAbout(t *testing.T) {
	for name, text := range map[string]string{"a.csv": "Frequency (Hz),SWR\n13,1.5\n14,1.2\n",
		"b.csv": "Frequency (GHz),SWR\n7.0,1.5\n7.1,1.2\n", "c.s1p": "# GHZ S RI R 50\n7 0.1 0\n7.1 0.2 0\n", "d.s1p": "7 0.1 0\n7.1 0.2 0\n"} {
		p := preview(t, name, text)
		if p.Sweep != nil || len(p.Points) != 2 || !has(p, "error", "outside 0.1 to 3000") {
			t.Errorf("%s: %+v %+v", name, p.Sweep, p.Notes)
		}
	}
	if p := preview(t, "d.s1p", "7 0.1 0\n7.1 0.2 0\n", "frequency-unit", "MHZ"); p.Sweep == nil || p.Points[0].Hz != 7e6 {
		t.Errorf("the unit that was chosen: %+v", p.Guesses)
	}
	// What is offered lies within reach.
	for _, g := range preview(t, "a.csv", "13900,1.5\n13905,1.4\n").Guesses {
		if g.Code == "frequency-unit" && (g.Options[0] == "Hz" || g.Choice != "kHz") {
			t.Errorf("%+v", g)
		}
	}
}

func TestTouchstoneUnitsAndReferences(t *testing.T) {
	for text, want := range map[string]string{
		"# THZ S MA R 50\n7 0.1 0\n": `"THZ" is no unit`, "# MHZ S MA R 0\n7 0.1 0\n": `reference of "0"`,
		"# MHZ S MA R -50\n7 0.1 0\n":                                          `reference of "-50"`,
		"[Version] 2.0\n# MHZ S MA\n[Reference] 0\n[Network Data]\n7 0.1 0\n":  `reference of "0"`,
		"[Version] 2.0\n# MHZ S MA\n[Reference]\n0\n[Network Data]\n7 0.1 0\n": `reference of "0"`,
	} {
		_, err := Read(context.Background(), strings.NewReader(text), "a.s1p", Options{Region: 1})
		var fe *FileError
		if !errors.As(err, &fe) || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", text, err)
		}
	}
	for _, line := range []string{"# MHZ", "# MHZ S R 50", "# S MA R 50", "# S"} {
		scale := 1e9 // Touchstone's own unit where none is named
		if strings.Contains(line, "MHZ") {
			scale = 1e6
		}
		for _, name := range []string{"a.s1p", "a.txt"} {
			p := preview(t, name, line+"\n7 0.2 0\n7.1 0.1 0\n")
			if len(p.Points) != 2 || p.Points[0].Hz != 7*scale {
				t.Errorf("%s, %q: %+v", name, line, p.Points)
			}
		}
	}
	p := preview(t, "a.s1p", "# MHZ S MA R 50\n7,0 0,2 10\n7,1 0,1 -5,5\n")
	if p.Points[0].Hz != 7e6 || math.Abs(p.Points[0].SWR-1.5) > 0.001 || p.Guesses[0].Code != "commas" || p.Guesses[0].Choice != "decimal" {
		t.Errorf("decimal commas: %+v %+v", p.Points, p.Guesses)
	}
	if p := preview(t, "a.s1p", "# MHZ S MA R 50\n7.0, 0.2, 10\n7.1, 0.1, -5\n"); p.Points[0].Hz != 7e6 || len(p.Guesses) != 0 {
		t.Errorf("separating commas: %+v %+v", p.Points, p.Guesses)
	}
}

func TestADamagedCommentDoesNotMakeALogBinary(t *testing.T) {
	p := preview(t, "a.adi", "<EOH><CALL:5>Q2TAV<QSO_DATE:8>20260516<TIME_ON:4>1400"+
		"<BAND:4>23cm<FREQ:6>1296.2<MODE:2>FM<COMMENT:5>a\x00\x01\x1bc<EOR>\n"+
		"<CALL:5>Q3TAV<QSO_DATE:8>20260516<TIME_ON:4>1401<FREQ:5>144.3<MODE:2>FM<EOR>\n")
	if len(p.Records) != 2 || !p.Records[0].Taken || !p.Records[1].Taken {
		t.Fatalf("%+v", p.Records)
	}
	one, two := p.Records[0].Contact, p.Records[1].Contact
	if one.Band != "23cm" || one.FreqHz != 1296.2e6 || len(one.Comment) != 5 || two.FreqHz != 144.3e6 {
		t.Errorf("%+v\n%+v", one, two)
	}
}

// A file of the largest size is refused or read within bounds, and a stop is heeded at once.
func TestLargeSweepsAreBounded(t *testing.T) {
	testsize.SkipIfShort(t, "reads large files")
	line := "7.1,1.5\n"
	for name, text := range map[string]string{
		"a.csv": strings.Repeat(line, (30<<20)/len(line)), "b.csv": "f,swr,note\n" + strings.Repeat("7.1,1.5,\""+strings.Repeat("x", 200)+
			"\"\n", 120000),
		"c.s1p": "# MHZ S RI\n" + strings.Repeat("7.1 0.1 0.1\n", 2<<20), "d.csv": strings.Repeat("7,", 1<<20),
	} {
		begun := time.Now()
		_, err := Read(context.Background(), strings.NewReader(text), name, Options{Region: 1})
		var fe *FileError
		if !errors.As(err, &fe) || !strings.Contains(err.Error(), "expected") {
			t.Errorf("%s: %v", name, err)
		}
		t.Logf("%s: %d MB in %v", name, len(text)>>20, time.Since(begun))
	}
}

func BenchmarkPreviewOfALargestSweep(b *testing.B) {
	var s strings.Builder
	s.WriteString("Frequency (MHz),SWR\n")
	for i := range maxPoints {
		fmt.Fprintf(&s, "%.5f,1.%03d\n", 7+float64(i)*1e-5, i%1000)
	}
	for b.Loop() {
		if _, err := Read(context.Background(), strings.NewReader(s.String()), "a.csv", Options{Region: 1}); err != nil {
			b.Fatal(err)
		}
	}
}

// Cut off in silence the rest of a log would be lost.
func TestAFileThatIsTooLargeIsRefusedWhole(t *testing.T) {
	text := "<EOH>" + strings.Repeat("<CALL:5>Q2TAV<QSO_DATE:8>20260516<TIME_ON:4>1400<BAND:3>40m<MODE:2>CW<COMMENT:40000>"+
		strings.Repeat("x", 40000)+"<EOR>", MaxSize/40000+1)
	_, err := Read(context.Background(), strings.NewReader(text), "a.adi", Options{Region: 1})
	var fe *FileError
	if !errors.As(err, &fe) || !strings.Contains(err.Error(), "larger than 32 MB") {
		t.Errorf("%d MB: %v", len(text)>>20, err)
	}
}
