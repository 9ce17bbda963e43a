package main

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"testing"

	"reed/internal/testsize"
)

// asked runs a script's command on a case and reads its answer.
func asked(t *testing.T, command, in string, into any) {
	t.Helper()
	code, out, errs := reed(t, command, "-in", write(t, "case.json", in))
	if code != 0 {
		t.Fatalf("%s ended with %d: %s", command, code, errs)
	}
	if err := json.Unmarshal([]byte(out), into); err != nil {
		t.Fatalf("%v in %s", err, out)
	}
}

func TestAPlanByScriptIsWhatOneIsToldToCut(t *testing.T) {
	testsize.SkipIfShort(t, "solves or builds the program")
	var p struct {
		Sentence, Default string
		Pieces            []pieceOut
		Settings          []settingOut
	}
	asked(t, "plan", `{"family":"dipole","variant":"flat","frequencies_mhz":[10.12],"texts":{"feed_height":"9"},"ground":"rock"}`, &p)
	if p.Default != "solver" || len(p.Pieces) != 1 || p.Pieces[0].Count != 2 || p.Pieces[0].Electrical < 6.7 ||
		p.Pieces[0].Electrical > 7.2 {
		t.Errorf("%+v", p)
	}
	// What it is told to cut resonates by the forecast of the same case.
	var f struct{ Bands []bandOut }
	asked(t, "forecast", `{"family":"dipole","variant":"flat","frequencies_mhz":[10.12],"built":true,"ground":"rock",
		"texts":{"feed_height":"9",
		"radiator":"`+strings.TrimSpace(jsonNumber(p.Pieces[0].Electrical))+`","leg_b":"`+jsonNumber(p.Pieces[0].Electrical)+`"},
		"coax":{"type":"RG-58","length_m":12},"choke":{"place":"feed"}}`, &f)
	if b := f.Bands[0]; math.Abs(b.X) > 3 || b.R < 40 || b.R > 100 {
		t.Errorf("%+v", b)
	}
	asked(t, "plan", `{"family":"small-loop","variant":"upright","frequencies_mhz":[14.06,10.12]}`, &p)
	if len(p.Settings) != 2 || p.Settings[0].C < 5 || p.Settings[0].C > 400 {
		t.Errorf("%+v", p.Settings)
	}
}

// Whatever is cut for its bands dips there, with the parts that were chosen for these lengths; what is typed of one part leaves
// the others.
// What a plan does not ask for is named, not left out without a word.
func TestAPlanByScriptNamesWhatItDidNotUse(t *testing.T) {
	var p struct {
		Faults []struct{ Field, Text string }
	}
	asked(t, "plan", `{"family":"loading-stick","variant":"ground-radials",
		"texts":{"for":"14.06","radiator":"2","knot":"5 cm","hight":"3"}}`, &p)
	var fields []string
	for _, f := range p.Faults {
		if strings.Contains(f.Text, "not used") {
			fields = append(fields, f.Field)
		}
	}
	if strings.Join(fields, " ") != "hight radiator" {
		t.Errorf("named are %v", fields)
	}
}

func TestAForecastByScriptIsOfWhatOneIsToldToCut(t *testing.T) {
	testsize.SkipIfShort(t, "solves or builds the program")
	for _, c := range []string{
		`{"family":"end-fed-loaded","variant":"flat","frequencies_mhz":[14.2,7.15],"ground":"wet"`,
		`{"family":"loading-stick","variant":"mount","frequencies_mhz":[10.12],"ground":"city"`,
		`{"family":"helix","variant":"raised-radials","frequencies_mhz":[7.15,14.2]`,
		`{"family":"dipole","variant":"inverted-v","frequencies_mhz":[7.15]`,
		`{"family":"vertical","variant":"ground-radials","frequencies_mhz":[18.1],"ground":"dry-sand"`,
	} {
		var f struct{ Bands []bandOut }
		asked(t, "forecast", c+"}", &f)
		for _, b := range f.Bands {
			if off := b.DipMHz/b.MHz - 1; math.Abs(off) > 0.007 {
				t.Errorf("%s: the dip for %g MHz is %.1f %% off", c, b.MHz, 100*off)
			}
		}
	}
	var p struct{ Settings []settingOut }
	asked(t, "plan", `{"family":"end-fed-loaded","variant":"flat","frequencies_mhz":[14.2,7.15],"ground":"wet"}`, &p)
	if len(p.Settings) != 1 || p.Settings[0].L < 15 || p.Settings[0].L > 60 {
		t.Errorf("%+v", p.Settings)
	}
	dip := func(tip string) float64 {
		var f struct{ Bands []bandOut }
		asked(t, "forecast", `{"family":"loading-stick","variant":"mount","frequencies_mhz":[10.12],"built":true,"texts":{"tip":"`+tip+`"}}`, &f)
		return f.Bands[0].DipMHz
	}
	if short, long := dip("0.85"), dip("1.0"); short < long*1.01 {
		t.Errorf("a tip of 85 cm dips at %g MHz, one of 1 m at %g", short, long)
	}
}

// Of what no length serves that is said, at its field.
func TestAPlanByScriptSaysWhatCannotBe(t *testing.T) {
	var p struct{ Faults []faultOut }
	asked(t, "plan", `{"family":"j-pole","variant":"upright","frequencies_mhz":[28.4],"texts":{"stub":"3.4"}}`, &p)
	if len(p.Faults) == 0 || p.Faults[0].Field != "radiator" || !strings.Contains(p.Faults[0].Text, "28.400") {
		t.Errorf("%+v", p.Faults)
	}
}

// Readings come in any order, and none twice.
func TestReadingsByScriptComeInAnyOrder(t *testing.T) {
	testsize.SkipIfShort(t, "solves or builds the program")
	setup := `{"setup":{"family":"linked-dipole","variant":"flat","frequencies_mhz":[14.1,7.05]},"wanted_mhz":[14.1,7.05],
		"revisions":[{"texts":{},"readings":`
	var up, down adviceOut
	asked(t, "advise", setup+`[[7.02,1.2],[13.8,1.4]]}]}`, &up)
	asked(t, "advise", setup+`[[13.8,1.4],[7.02,1.2]]}]}`, &down)
	if up.Sentence != down.Sentence || len(up.Actions) == 0 {
		t.Errorf("%q and %q", up.Sentence, down.Sentence)
	}
	code, _, errs := reed(t, "advise", "-in", write(t, "twice.json", setup+`[[13.8,1.4],[13.8,1.3]]}]}`))
	if code != 2 || !strings.Contains(errs, "revisions.0.readings") {
		t.Errorf("two readings of one frequency: %d, %s", code, errs)
	}
}

func jsonNumber(v float64) string {
	b, _ := json.Marshal(v)
	return string(b)
}

func TestAForecastByScriptAddsUp(t *testing.T) {
	testsize.SkipIfShort(t, "solves set-ups")
	var f struct {
		Bands    []bandOut
		Unknowns int
	}
	asked(t, "forecast", `{"family":"end-fed","variant":"sloper","frequencies_mhz":[7.05,14.1],"built":true,
		"texts":{"radiator":"20.1","pole_height":"8","primary_turns":"3","secondary_turns":"21"},
		"coax":{"type":"RG-174","length_m":9},"power_w":5}`, &f)
	if len(f.Bands) != 2 || f.Unknowns < 10 {
		t.Fatalf("%+v", f)
	}
	for _, b := range f.Bands {
		sum := b.SystemShare
		for _, share := range b.Losses {
			sum += share
		}
		if math.Abs(sum-1) > 1e-6 || b.SystemShare > b.SkyShare || b.Losses["coax"] <= 0 || b.Losses["transformer"] <= 0 {
			t.Errorf("%g MHz: %v and %v of the power come to %v", b.MHz, b.Losses, b.SystemShare, sum)
		}
		if b.Range.Sky[0] > b.SkyShare || b.Range.Sky[1] < b.SkyShare || b.Range.Dip[0] >= b.DipMHz || b.Range.SWR[0] > b.SWRRadio {
			t.Errorf("%g MHz lies outside its ranges: %+v", b.MHz, b)
		}
	}
}

func TestAnAdviceByScript(t *testing.T) {
	testsize.SkipIfShort(t, "solves or builds the program")
	var a adviceOut
	setup := `{"setup":{"family":"dipole","variant":"flat","unit":"m","texts":{"feed_height":"8","radiator":"5.25","leg_b":"5.25"}},
		"wanted_mhz":[14.1],"revisions":`
	asked(t, "advise", setup+`[{"readings":[[13.4,2.3],[13.5,1.7],[13.6,1.3],[13.7,1.2],[13.8,1.5],[13.9,1.9],[14.0,2.4]]}]}`, &a)
	if len(a.Actions) != 1 || a.Actions[0].Verb != "fold" || a.Actions[0].Metres < 0.05 || a.Actions[0].Metres > 0.2 || a.TooShort > 0.02 ||
		len(a.Expect) != 1 || a.Expect[0].Lo > a.Expect[0].MHz || len(a.Causes) == 0 {
		t.Errorf("%+v", a)
	}
	// A meter that still falls at the end of the segment.
	asked(t, "advise", setup+`[{"readings":[[14.0,1.9],[14.1,2.4],[14.2,2.9],[14.35,3.7]]}]}`, &a)
	if len(a.Actions) != 1 || a.Actions[0].Verb != "fold" || a.Expect[0].Lo >= 14.0 {
		t.Errorf("%+v", a)
	}
}

func TestScriptsNameWhatTheyCannotRead(t *testing.T) {
	for _, c := range []struct{ command, in, says string }{
		{"plan", `{"family":"dipole","variant":"flat","frequencies_mhz":[7.1],"texts":{"feed_height":"high"}}`, "feed_height"},
		{"plan", `{"family":"kite","variant":"flat","frequencies_mhz":[7.1]}`, "family"},
		{"plan", `{"family":"dipole","variant":"flat"}`, "for"},
		{"plan", `{"family":"dipole","variant":"sideways","frequencies_mhz":[7.1]}`, "variant"},
		{"forecast", `{"family":"dipole","variant":"flat","frequencies_mhz":[7.1],"built":true,"coax":{"type":"RG-0","length_m":3}}`, "coax"},
		{"forecast", `{"family":"dipole","variant":"flat","frequencies_mhz":[7.1],"colour":"green"}`, "colour"},
		{"advise", `{"setup":{"family":"dipole","variant":"flat"},"wanted_mhz":[7.1],"revisions":[{"readings":[[7.1]]}]}`, "readings"},
		{"advise", `{"setup":{"family":"dipole","variant":"flat"},"wanted_mhz":[7.1],"revisions":[]}`, "revisions"},
		{"advise", `not json`, "not understood"},
		{"scout", `{"site":{"lines":["tree, up there"]},"purpose":{"date":"2026-05-16","frequencies_mhz":[7.1]}}`, "lines.0"},
		{"scout", `{"site":{"lines":[]},"purpose":{"date":"2026-05-16","frequencies_mhz":[]}}`, "frequencies_mhz"},
		{"scout", `{"site":{"lines":[]},"purpose":{"date":"2026-05-16","frequencies_mhz":[7.1]},"bag":[{"kind":"boat","name":"x"}]}`, "bag.0"},
	} {
		if code, _, errs := reed(t, c.command, "-in", write(t, "case.json", c.in)); code != 2 || !strings.Contains(errs, c.says) {
			t.Errorf("%s %s: %d %q", c.command, c.in, code, errs)
		}
	}
}

func TestAScriptAsksWhatFitsASite(t *testing.T) {
	testsize.SkipIfShort(t, "solves set-ups")
	const site = `{"site":{"lines":["area, 40 by 30 m","tree, 10 m at 320, 12 m high"%s],"ground":"average","place":"46.5 N 12.0 W"},
		"purpose":{"date":"2026-05-16","from":"09:00","until":"15:00","frequencies_mhz":[14.06],"mode":"cw"},
		"bag":[{"kind":"wire","name":"reel","texts":{"conductor":"0.8","outer":"1.6","left":"60 m"}},
			{"kind":"transformer","name":"49:1","texts":{"primary":"2","secondary":"14"}}]}`
	var a struct {
		Candidates []struct {
			Family    string
			Fits      bool
			Score     float64
			Reasons   []string
			Placement struct{ Support string }
			Bands     []struct {
				MHz      float64 `json:"mhz"`
				Relative float64 `json:"relative_db"`
			}
		}
		Unfit   []struct{ Cause string }
		Hazards []struct {
			Code  string
			Stops bool
		}
		Hours   []struct{ Says string }
		Packing []struct{ When string }
	}
	asked(t, "scout", fmt.Sprintf(site, ""), &a)
	if len(a.Candidates) == 0 || a.Candidates[0].Placement.Support != "tree" || len(a.Candidates[0].Bands) != 1 || len(a.Packing) == 0 {
		t.Errorf("without a pole something else than the tree holds it: %+v", a.Candidates)
	}
	asked(t, "scout", fmt.Sprintf(site, `,"power line, 14 m at 270 to 14 m at 45"`), &a)
	if len(a.Candidates) > 0 || len(a.Hazards) == 0 || a.Hazards[0].Code != "power-line" || !a.Hazards[0].Stops {
		t.Errorf("beside an overhead line it is not refused: %+v %+v", a.Candidates, a.Hazards)
	}
}
