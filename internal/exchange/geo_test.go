package exchange

import (
	"context"
	"errors"
	"fmt"
	"math"
	"reflect"
	"strings"
	"testing"

	"reed/core/site"
	"reed/internal/testsize"
)

func geoRead(t *testing.T, name, text string, choices map[string]string) *Preview {
	t.Helper()
	p, err := Read(context.Background(), strings.NewReader(text), name, Options{Choices: choices})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

const isleGPX = `<?xml version="1.0"?><gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1">
<wpt lat="46.52081" lon="-12.20833"><ele>0</ele><name>old oak</name><sym>tree</sym></wpt>
<wpt lat="46.52090" lon="-12.20840"><name>bench by the dune</name></wpt>
<rte><name>shore</name><type>water</type><rtept lat="46.5210" lon="-12.2090"></rtept>
<rtept lat="46.5211" lon="-12.2080"></rtept></rte>
<trk><name>power line</name><trkseg>
<trkpt lat="46.5205" lon="-12.2090"></trkpt><trkpt lat="46.5206" lon="-12.2070"></trkpt></trkseg></trk></gpx>`

func TestAGPXOfASiteIsRead(t *testing.T) {
	p := geoRead(t, "spit.gpx", isleGPX, nil)
	if p.Kind != "site" || len(p.Places) != 2 || len(p.Ways) != 2 {
		t.Fatalf("%+v", p)
	}
	if oak := p.Places[0]; oak.Kind != site.Tree || oak.HeightM != nil { // its elevation is above the sea
		t.Errorf("%+v", oak)
	}
	if bench := p.Places[1]; bench.Kind != site.Bench || bench.HeightM != nil {
		t.Errorf("an absent height is not nought: %+v", bench)
	}
	if p.Ways[0].Kind != site.Water || p.Ways[1].Kind != site.PowerLine {
		t.Errorf("%+v", p.Ways)
	}
	if len(p.Guesses) != 1 || p.Guesses[0].Code != "order" || !strings.Contains(p.Guesses[0].Text, "46.5208, -12.2083") {
		t.Errorf("the place is not shown before it is kept: %+v", p.Guesses)
	}
	m, faults := site.Read(p.Site.Lines, "m")
	if len(m.Things) != 4 {
		t.Errorf("as a site: %v %v", p.Site.Lines, faults)
	}
	if d := m.Of(site.Bench)[0].Apart(site.Spot{}); math.Abs(d-11.3) > 0.3 { // 0.00009 degrees north, 0.00007 west
		t.Errorf("the bench stands %.1f m from the oak", d)
	}
}

func TestMapFilesComeBackAsTheyWent(t *testing.T) {
	p := geoRead(t, "spit.gpx", isleGPX, nil)
	high := 9.5
	p.Places[0].HeightM, p.Ways[1].HeightM = &high, &high
	p.Areas = []Way{{Name: "spit", Kind: site.Area, Points: [][2]float64{{-12.2085, 46.5207}, {-12.2080, 46.5207}, {-12.2080, 46.5211}}}}
	for name, write := range map[string]func(*Preview) ([]byte, error){"a.gpx": WriteGPX, "a.geojson": WriteGeoJSON} {
		text, err := write(p)
		if err != nil {
			t.Fatal(err)
		}
		again := geoRead(t, name, string(text), nil)
		if !reflect.DeepEqual(again.Places, p.Places) || !reflect.DeepEqual(again.Ways, p.Ways) || !reflect.DeepEqual(again.Areas, p.Areas) {
			t.Errorf("%s: %+v\n%+v\n%+v", name, again.Places, again.Ways, again.Areas)
		}
	}
}

// Maps are read for danger first: what is overhead, water or built is never ground to stand on, and what is not known is said.
func TestMapTagsAreReadForDangerFirst(t *testing.T) {
	for properties, want := range map[string]string{
		`"power":"line","name":"path"`: site.PowerLine, `"power":"minor_line"`: site.PowerLine,
		`"railway":"rail","electrified":"contact_line"`:   site.PowerLine,
		`"highway":"track","name":"below the power line"`: site.PowerLine,
		`"name":"33 kV feeder"`:                           site.PowerLine, `"aerialway":"chair_lift"`: site.PowerLine,
		`"telecom":"line"`:    site.PowerLine,
		`"waterway":"stream"`: site.Water, `"barrier":"fence"`: site.Fence, `"barrier":"wall"`: site.Wall, `"highway":"residential"`: site.Path,
		`"railway":"rail"`: site.Path,
	} {
		text := `{"type":"Feature","properties":{` + properties +
			`},"geometry":{"type":"LineString","coordinates":[[-12.2,46.5],[-12.199,46.5]]}}`
		if p := geoRead(t, "x.geojson", text, nil); len(p.Ways) != 1 || p.Ways[0].Kind != want {
			t.Errorf("line %s: %+v", properties, p.Ways)
		}
	}
	for properties, want := range map[string]string{
		`"natural":"water"`: site.Lake, `"landuse":"forest"`: site.Wood, `"building":"yes"`: site.Building, `"natural":"wetland"`: site.Lake,
		`"amenity":"parking"`: site.Parking, `"leisure":"park"`: site.Area, `"landuse":"quarry"`: site.Unknown, `"kind":"area"`: site.Area,
		`"military":"range","name":"lawn of the fort"`: site.Area, ``: site.Area, `"landuse":"industrial"`: site.Unknown,
	} {
		text := `{"type":"Feature","properties":{` + properties +
			`},"geometry":{"type":"Polygon","coordinates":[[[-12.2,46.5],[-12.199,46.5],[-12.199,46.501],[-12.2,46.5]]]}}`
		p := geoRead(t, "x.geojson", text, nil)
		if len(p.Areas) != 1 || p.Areas[0].Kind != want {
			t.Errorf("area %s: %+v", properties, p.Areas)
		}
		if want == site.Unknown && (len(p.Notes) != 1 || !strings.Contains(p.Notes[0].Text, "look at it on site")) {
			t.Errorf("%s: %+v", properties, p.Notes)
		}
	}
	p := geoRead(t, "x.geojson", `{"type":"FeatureCollection","features":[
		{"type":"Feature","properties":{"power":"tower","height":"22 m"},"geometry":{"type":"Point","coordinates":[-12.2,46.5]}},
		{"type":"Feature","properties":{"natural":"tree","ele":410},"geometry":{"type":"Point","coordinates":[-12.2001,46.5]}},
		{"type":"Feature","properties":{"name":"camp"},"geometry":{"type":"Point","coordinates":[-12.2002,46.5]}}]}`, nil)
	m, faults := site.Read(p.Site.Lines, "m")
	if line := m.Of(site.PowerLine); len(line) != 1 || line[0].High != 22 {
		t.Errorf("%v %v", p.Site.Lines, faults)
	}
	if tree := m.Of(site.Tree); len(tree) != 1 || tree[0].High != 0 || len(m.Of(site.Post)) != 0 {
		t.Errorf("a height above the sea, or an unknown place that holds: %v", p.Site.Lines)
	}
}

func TestExchangedLatitudeAndLongitudeAreSaid(t *testing.T) {
	const text = `{"type":"Feature","properties":{"name":"oak","natural":"tree"},"geometry":{"type":"Point","coordinates":[%s]}}`
	p := geoRead(t, "x.geojson", fmt.Sprintf(text, "46.5, 112.2"), nil)
	if p.Guesses[0].Choice != "exchanged" || p.Places[0].Lat != 46.5 || p.Places[0].Lon != 112.2 {
		t.Errorf("no latitude is 112: %+v %+v", p.Guesses, p.Places)
	}
	p = geoRead(t, "x.geojson", fmt.Sprintf(text, "46.5, -12.2"), map[string]string{"order": "exchanged"})
	if p.Places[0].Lat != 46.5 || p.Places[0].Lon != -12.2 {
		t.Errorf("%+v", p.Places)
	}
	p = geoRead(t, "x.geojson", fmt.Sprintf(text, "460, -120"), nil)
	if len(p.Places) != 0 || len(p.Notes) != 1 || p.Notes[0].Severity != "error" || p.Notes[0].Record != 1 {
		t.Errorf("%+v %+v", p.Places, p.Notes)
	}
}

func TestALongTrackIsThinned(t *testing.T) {
	testsize.SkipIfShort(t, "reads large files")
	var b strings.Builder
	b.WriteString(`<gpx version="1.1"><trk><name>footpath</name><trkseg>`)
	for i := range 50000 {
		fmt.Fprintf(&b, `<trkpt lat="%.7f" lon="%.7f"></trkpt>`, 46.5+0.001*math.Sin(float64(i)/3000), -12.2+float64(i)*2e-8)
	}
	b.WriteString(`</trkseg></trk></gpx>`)
	p := geoRead(t, "walk.gpx", b.String(), nil)
	if n := len(p.Ways[0].Points); n > mostWay || n < 10 || len(p.Notes) == 0 || !strings.Contains(p.Notes[0].Text,
		"50000 points are thinned") {
		t.Errorf("%d points, %+v", n, p.Notes)
	}
}

func TestHostileMapFilesAreRefused(t *testing.T) {
	for name, text := range map[string]string{
		"cut.gpx": isleGPX[:200], "none.gpx": `<gpx version="1.1"></gpx>`, "cut.geojson": `{"type":"FeatureCollection","features":[{`,
		"odd.geojson": `{"type":"Whatever"}`, "empty.geojson": `{"type":"FeatureCollection","features":[]}`,
		"bomb.gpx": `<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]>` +
			`<gpx version="1.1"><wpt lat="1" lon="2"><name>&b;</name></wpt></gpx>`,
	} {
		_, err := Read(context.Background(), strings.NewReader(text), name, Options{})
		var fe *FileError
		if !errors.As(err, &fe) {
			t.Errorf("%s: %v", name, err)
		}
	}
	p := geoRead(t, "line.geojson", `{"type":"LineString","coordinates":[[179.9999,10],[-179.9999,10.0001]]}`, nil)
	if len(p.Notes) == 0 || !strings.Contains(p.Notes[0].Text, "date line") {
		t.Errorf("%+v", p.Notes)
	}
}

func FuzzGeo(f *testing.F) {
	f.Add(isleGPX)
	f.Add(`{"type":"Feature","properties":{},"geometry":{"type":"Polygon","coordinates":[[[0,0],[1,0],[1,1],[0,0]]]}}`)
	f.Fuzz(func(t *testing.T, text string) {
		for _, name := range []string{"a.gpx", "a.geojson"} {
			p, err := Read(context.Background(), strings.NewReader(text), name, Options{})
			if err == nil && p.Kind == "site" {
				for _, x := range p.Places {
					if math.Abs(x.Lat) > 90 || math.IsNaN(x.Lon) {
						t.Fatalf("%+v", x)
					}
				}
			}
		}
	})
}
