package band

import "testing"

func TestBandOfAFrequencyDiffersByRegion(t *testing.T) {
	if b, ok := At(1, 7.25e6); ok {
		t.Errorf("7.25 MHz is outside 40 m in region 1, got %s", b.Name)
	}
	if b, ok := At(2, 7.25e6); !ok || b.Name != "40m" {
		t.Errorf("7.25 MHz is 40 m in region 2, got %v", b)
	}
	for hz, want := range map[float64]bool{5.332e6: true, 5.2e6: false, 5.5e6: false} {
		if b, ok := Anywhere(hz); ok != want || ok && b.Name != "60m" {
			t.Errorf("%v Hz: %v %s", hz, ok, b.Name)
		}
	}
	if b := Nearest(1, 6.9e6); b.Name != "40m" {
		t.Errorf("nearest to 6.9 MHz is %s", b.Name)
	}
	if b, ok := Named(3, "40 M"); !ok || b.Label() != "40 m" {
		t.Errorf("40 M not found: %v", b)
	}
}

func TestDefaultSegmentsTileEachBandWithoutGapOrOverlap(t *testing.T) {
	for r := Region(1); r <= 3; r++ {
		segs := DefaultSegments(r)
		if bad := CheckSegments(r, segs); len(bad) != 0 {
			t.Errorf("region %d: %v", r, bad)
		}
		for _, b := range All(r) {
			own := Own(segs, b.Name)
			if len(own) != 1 || own[0].Lo != b.Lo || own[0].Hi != b.Hi {
				t.Errorf("region %d %s: own %v, want the whole band", r, b.Name, own)
			}
		}
	}
}

func TestOwnSegmentsKeepGaps(t *testing.T) {
	own := Own([]Segment{
		{Band: "40m", Lo: 7.06e6, Hi: 7.2e6, Use: "phone", On: true},
		{Band: "40m", Lo: 7e6, Hi: 7.04e6, Use: "cw", On: true},
		{Band: "40m", Lo: 7.04e6, Hi: 7.06e6, Use: "digital"},
		{Band: "20m", Lo: 14e6, Hi: 14.1e6, On: true},
	}, "40m")
	if len(own) != 2 || own[0].Hi != 7.04e6 || own[1].Lo != 7.06e6 {
		t.Errorf("own = %v", own)
	}
}

func TestCheckSegmentsNamesEachFault(t *testing.T) {
	bad := CheckSegments(1, []Segment{{Band: "41m", Lo: 1, Hi: 2}, {Band: "40m", Lo: 7.1e6, Hi: 7e6}, {Band: "40m", Lo: 7e6, Hi: 7.3e6},
		{Band: "40m", Lo: 7e6, Hi: 7.2e6}})
	if len(bad) != 3 || bad[3] != "" {
		t.Errorf("faults: %v", bad)
	}
}

func TestWhereOneIsFoundOnABand(t *testing.T) {
	b, _ := Named(1, "40m")
	own := []Segment{{"40m", 7.0e6, 7.04e6, "cw", true}, {"40m", 7.06e6, 7.2e6, "phone", true}, {"20m", 14e6, 14.07e6, "cw", true}}
	for use, want := range map[string]float64{"cw": 7.02e6, "phone": 7.13e6, "digital": 7.02e6} {
		if got := Usual(own, b, use); got != want {
			t.Errorf("%s: %v, want %v", use, got, want)
		}
	}
	if got := Usual(nil, b, "cw"); got != b.Centre() {
		t.Errorf("%v", got)
	}
}
