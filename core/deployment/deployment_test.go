package deployment

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/entry"
	"reed/core/kit"
	"reed/core/quantity"
)

func sound() Built {
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper", FrequencyHz: 7.1e6}})
	return Built{Shape: p.Shape, Coax: Coax{Type: "RG-58", Length: quantity.Metres(10)}, Choke: Choke{Place: "radio"}, PowerW: 10}
}

func TestChecksPointAtTheirField(t *testing.T) {
	if f := Check(sound(), sound().Shape); len(f) != 0 {
		t.Fatalf("a sound set-up is faulted: %v", f)
	}
	for _, c := range []struct {
		name, path, severity string
		change               func(*Built)
	}{
		{"no radiator", "radiator", "error", func(b *Built) { b.Put(antenna.Radiator, quantity.Length{}) }},
		{"three times the plan is asked about", "radiator", "ask", func(b *Built) { b.Put(antenna.Radiator, quantity.Metres(60)) }},
		{"unknown coax", "coax.type", "error", func(b *Built) { b.Coax.Type = "rope" }},
		{"two kilometres of coax", "coax.length", "ask", func(b *Built) { b.Coax.Length = quantity.Metres(2000) }},
		{"choke beyond the coax", "choke.distance", "error", func(b *Built) { b.Choke = Choke{"along", quantity.Metres(12)} }},
		{"choke in the air", "choke.place", "error", func(b *Built) { b.Choke.Place = "sky" }},
		{"nameless metal", "metal.0.kind", "error", func(b *Built) { b.Metal = []Metal{{}} }},
		{"negative power", "power_w", "error", func(b *Built) { b.PowerW = -5 }},
		{"a week of set-up", "setup_minutes", "error", func(b *Built) { b.SetupMinutes = 9000 }},
		{"far end out of reach", "far_height", "error", func(b *Built) { b.Put(antenna.FarHeight, quantity.Metres(35)) }},
	} {
		b := sound()
		c.change(&b)
		found := false
		for _, f := range Check(b, sound().Shape) {
			found = found || f.Path == c.path && f.Severity == c.severity
		}
		if !found {
			t.Errorf("%s: want %s at %s, got %v", c.name, c.severity, c.path, Check(b, sound().Shape))
		}
	}
}

func TestUnreadableTypedLengthIsAFaultAtItsPath(t *testing.T) {
	var b Built
	text := `{"family":"end-fed","variant":"sloper","frequency_hz":7.1e6,"radiator":{"typed":"20,3 m"},` +
		`"counterpoise":{"count":1,"length":{"typed":"-2 m"}}}`
	if err := json.Unmarshal([]byte(text), &b); err != nil {
		t.Fatal(err)
	}
	f := Check(b, antenna.Shape{})
	if len(f) != 1 || f[0].Path != "counterpoise_length" || !strings.Contains(f[0].Text, "negative") {
		t.Errorf("faults: %v", f)
	}
}

func TestDifferencesNameOnlyWhatDiffers(t *testing.T) {
	a, b := sound(), sound()
	if d := Differences(a, b, false); len(d) != 0 {
		t.Errorf("equal set-ups differ: %v", d)
	}
	b.Put(antenna.Radiator, quantity.Metres(a.Radiator().M-0.12))
	b.Choke.Place = "feed"
	b.PutNumber(antenna.PrimaryTurns, 3)
	b.PutNumber(antenna.SecondaryTurns, 24)
	d := Differences(a, b, false)
	if len(d) != 3 || d[0].Field != "radiator" || d[1].B != "1:64" || d[2].A != "at the radio" {
		t.Errorf("differences: %v", d)
	}
	if imp := Differences(a, b, true); !strings.Contains(imp[0].A, "'") {
		t.Errorf("in feet: %v", imp[0])
	}
}

func TestTagShowsTheNewestState(t *testing.T) {
	d := Deployment{Name: "Heron", Letter: "A", Plan: antenna.Request{Shape: sound().Shape}}
	if tag := MakeTag(d, nil, 0, false, false); tag.State != "planned" || tag.Detail != "1:49" {
		t.Errorf("planned: %+v", tag)
	}
	built := sound()
	built.Put(antenna.Radiator, quantity.Metres(19.5))
	if tag := MakeTag(d, []Revision{{Built: built}}, 1, false, false); tag.State != "swept" || tag.Radiator != "19.50 m" {
		t.Errorf("swept: %+v", tag)
	}
}

func TestStagesFollowTheRecord(t *testing.T) {
	states := func(f Facts) string {
		var out []string
		for _, s := range Stages(f) {
			out = append(out, s.State)
		}
		return strings.Join(out, " ")
	}
	for _, c := range []struct {
		want string
		of   Facts
	}{
		{"attend open open open open open", Facts{}},
		{"done done open open open open", Facts{HasPlace: true, Deployments: 1, Built: 1, Unconfirmed: 1}},
		{"done done done attend open open", Facts{HasPlace: true, Deployments: 2, Built: 2, Swept: 1, Contacts: 3, Missing: 7}},
		{"done done done done done done", Facts{HasPlace: true, Deployments: 2, Built: 2, Swept: 2, Contacts: 12, Comparable: 2}},
		{"done done open open open open", Facts{HasPlace: true, Deployments: 2, Built: 1, Contacts: 3, Missing: 1}},
		{"attend done done done done open", Facts{Deployments: 1, Built: 1, Swept: 1, Contacts: 10, Comparable: 1}},
	} {
		if got := states(c.of); got != c.want {
			t.Errorf("%+v: %s, want %s", c.of, got, c.want)
		}
	}
	// What is left to do is no alarm, and is told.
	if s := Stages(Facts{HasPlace: true, Contacts: 3, Missing: 1})[4]; s.Note != "1 to go" || s.State != "open" {
		t.Errorf("%+v", s)
	}
}

func TestWhatOneFamilyHasMoreIsComparedToo(t *testing.T) {
	shape := func(coil string) Built {
		p := family.Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "end-fed-loaded", Variant: "flat"}},
			Typed: entry.Typed{Texts: map[string]string{"for": "7.1 14.1", "coil_uh": coil}}})
		return Built{Shape: p.Shape}
	}
	found := map[string]Difference{}
	for _, d := range Differences(shape("34"), shape("50"), false) {
		found[d.Field] = d
	}
	if d := found["coil_uh"]; d.A != "34 uH" || d.B != "50 uH" {
		t.Errorf("coils: %+v", d)
	}
	if _, ok := found["tail"]; !ok {
		t.Errorf("the tail: %v", found)
	}
	other := Built{Shape: family.Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 7.1e6}}).Shape}
	for _, d := range Differences(other, shape("34"), false) {
		if d.A == d.B || d.A == "" || d.B == "" {
			t.Errorf("between families: %+v", d)
		}
	}
}

func TestRecordedTextsReplaceAndEmptyTheValues(t *testing.T) {
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "loaded-whip", Variant: "ground-radials", FrequencyHz: 7.1e6}})
	b := Form{Record: Built{Shape: p.Shape}, Typed: entry.Typed{Texts: map[string]string{"radiator": "3,2 m", "whip": "3.2 m", "mast": "",
		"radials_count": "6"}}}
	read, faults := Read(b)
	if len(faults) > 0 || read.Radiator().M != 3.2 || read.M("whip") != 3.2 || read.Radials().Count != 6 {
		t.Errorf("%+v %v", read.Shape, faults)
	}
	if _, there := read.Sizes["mast"]; there {
		t.Error("an emptied field keeps its value")
	}
	if p.Shape.M("whip") == 3.2 {
		t.Error("reading a record changed the plan it began with")
	}
	if _, faults := Read(Form{Record: Built{Shape: p.Shape},
		Typed: entry.Typed{Texts: map[string]string{"radiator": "long"}}}); len(faults) != 1 || faults[0].Path != "radiator" {
		t.Errorf("%v", faults)
	}
}

func TestCutListsSayWhatEachTakes(t *testing.T) {
	plan := func(id, kind, variant string) Deployment {
		return Deployment{ID: id, Name: id, Letter: "A", Plan: antenna.Request{Shape: antenna.Shape{Family: kind, Variant: variant,
			FrequencyHz: 14.06e6, Parts: map[string]string{"coax": "c"}}}}
	}
	coax, faults := kit.Read("coax", "ten metres", map[string]string{"type": "RG-58", "length": "10 m", "grams": "400"}, "m")
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	bag := map[string]kit.Part{"c": coax}
	loop, vertical := plan("loop", "small-loop", "upright"), plan("vertical", "vertical", "ground-radials")
	columns, sentence := CutLists([]Deployment{loop, vertical, plan("broken", "kite", "x")}, bag, false)
	if len(columns) != 2 || !strings.HasPrefix(sentence, "loop takes the least wire, 0 cm; and the least height") {
		t.Fatalf("%q, %d columns", sentence, len(columns))
	}
	v := columns[1]
	wire := 0.0
	for _, p := range v.Pieces {
		wire += float64(p.Count) * p.Cut.M
	}
	pvc, _ := antenna.WireNamed("pvc")
	if v.Wire.M != wire || v.Grams != wire*pvc.Grams+400 || v.Parts[0] != "ten metres" {
		t.Errorf("%+v, want %v m and %v g", v, wire, wire*pvc.Grams+400)
	}
	reel, _ := kit.Read("wire", "reel", map[string]string{"conductor": "0.9", "outer": "2", "left": "60 m"}, "m")
	w := reel.Wire()
	vertical.Plan.WireData = &w
	if columns, _ := CutLists([]Deployment{vertical}, nil, false); columns[0].Reel != "the reel keeps "+
		quantity.Metric(60-columns[0].Wire.M, 10) {
		t.Errorf("%q of %v m", columns[0].Reel, columns[0].Wire.M)
	}
	if _, one := CutLists([]Deployment{loop}, bag, true); !strings.Contains(one, "second antenna") {
		t.Errorf("%q", one)
	}
}

func TestTagsAndFoldsOfManyFamilies(t *testing.T) {
	for kind, want := range map[string]string{"linked-dipole": "3 bands", "random-wire": "1:9", "small-loop": "3 bands",
		"vertical": "8 radials", "dipole": "7.100 MHz"} {
		fam, _ := family.Named(kind)
		r := antenna.Request{Shape: antenna.Shape{Family: kind, Variant: fam.Variants[0].ID, FrequencyHz: 7.1e6}}
		if fam.Multi {
			r.More = []float64{10.12e6, 14.06e6}
		}
		if got := MakeTag(Deployment{Plan: r}, nil, 0, false, false).Detail; got != want {
			t.Errorf("%s is tagged %q, want %q", kind, got, want)
		}
	}
}

func TestBoundsOfARecordAtTheirEdges(t *testing.T) {
	for name, c := range map[string]struct {
		change func(*Built)
		path   string
		taken  bool
	}{
		"most power":      {func(b *Built) { b.PowerW = 2000 }, "power_w", true},
		"more power":      {func(b *Built) { b.PowerW = 2000.5 }, "power_w", false},
		"less than none":  {func(b *Built) { b.PowerW = -0.5 }, "power_w", false},
		"a day of set-up": {func(b *Built) { b.SetupMinutes = 1440 }, "setup_minutes", true},
		"more than a day": {func(b *Built) { b.SetupMinutes = 1441 }, "setup_minutes", false},
		"back in time":    {func(b *Built) { b.SetupMinutes = -1 }, "setup_minutes", false},
	} {
		b := Built{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 7.1e6, Wire: "pvc"}.With(antenna.Radiator,
			quantity.Metres(10)).With(antenna.LegB, quantity.Metres(10)).With(antenna.FeedHeight, quantity.Metres(6))}
		c.change(&b)
		refused := false
		for _, f := range Check(b, antenna.Shape{}) {
			refused = refused || f.Path == c.path && f.Severity == "error"
		}
		if refused == c.taken {
			t.Errorf("%s is refused: %v", name, refused)
		}
	}
}

func TestPowerAndMinutesAreReadAsTyped(t *testing.T) {
	for _, c := range []struct {
		power, minutes string
		w              float64
		min            int
		fault          string
	}{
		{"10", "25", 10, 25, ""}, {"500 mW", " 8 ", 0.5, 8, ""}, {"", "", 0, 0, ""}, {"2,5 W", "0", 2.5, 0, ""},
		{"ten", "25", 0, 25, "power_w"}, {"10 V", "25", 0, 25, "power_w"},
		{"10", "half an hour", 10, 0, "setup_minutes"}, {"10", "2.5", 10, 0, "setup_minutes"},
	} {
		var f Form
		f.Record = sound()
		f.Texts = map[string]string{"radiator": "20 m", "power_w": c.power, "setup_minutes": c.minutes}
		b, faults := Read(f)
		said := ""
		for _, x := range faults {
			said += x.Path
		}
		if said != c.fault || b.PowerW != c.w || b.SetupMinutes != c.min {
			t.Errorf("%q, %q: %v W, %d min, faults %v", c.power, c.minutes, b.PowerW, b.SetupMinutes, faults)
		}
	}
	kept, faults := Read(Form{Record: Built{PowerW: 5, SetupMinutes: 12}})
	if kept.PowerW != 5 || kept.SetupMinutes != 12 || len(faults) != 0 {
		t.Errorf("without texts: %+v %v", kept, faults)
	}
}

func TestMetalIsOfAKind(t *testing.T) {
	for what, want := range map[string]string{"portable mast": MetalMast, "truck": MetalVehicle, "Steel Table": MetalTable,
		"fence post":   MetalMast,
		"garden fence": MetalFence, "comfortable chair": MetalOther, "": MetalOther, "carpet": MetalOther} {
		if got := (Metal{What: what}).Sort().ID; got != want {
			t.Errorf("%q is %s, not %s", what, got, want)
		}
	}
	m := Metal{What: "old table", Kind: MetalMast, Size: quantity.Metres(4.5)}
	if m.Sort().ID != MetalMast || m.Long() != 4.5 || (Metal{Kind: MetalVehicle}).Long() != 4 {
		t.Errorf("%+v", m.Sort())
	}
}

// What is good enough belongs to the antenna: its own figure, then what its tuner matches, then the setting.
func TestGoodEnoughBelongsToTheAntenna(t *testing.T) {
	dipole := Built{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 14.1e6}}
	behind := dipole
	behind.Own = map[string]kit.Part{"tuner": {ID: "t", Kind: "tuner", Values: entry.Values{Numbers: map[string]float64{"swr_max": 5}}}}
	own := behind
	own.GoodSWR = 3
	for name, c := range map[string]struct {
		b    Built
		want float64
	}{"a dipole": {dipole, 2}, "behind a tuner": {behind, 5}, "with a figure of its own": {own, 3},
		"any wire": {Built{Shape: antenna.Shape{Family: "random-wire", Variant: "sloper", FrequencyHz: 7.1e6}}, usualTuner}} {
		if got := c.b.GoodEnough(2); got != c.want {
			t.Errorf("%s is good up to SWR %v, want %v", name, got, c.want)
		}
	}
	planned := sound()
	for text, want := range map[string]float64{"3": 3, "2,5": 2.5, "": 0, "0.5": -1} {
		b, faults := Read(Form{Record: planned, Typed: entry.Typed{Texts: map[string]string{"good_swr": text}}})
		wrong := slices.ContainsFunc(faults, func(f entry.Fault) bool { return f.Path == "good_swr" })
		if wrong != (want < 0) || !wrong && b.GoodSWR != want {
			t.Errorf("%q: %v %v", text, b.GoodSWR, faults)
		}
	}
}
