package exchange

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"github.com/paulmach/orb"
	"github.com/paulmach/orb/geojson"
	"github.com/paulmach/orb/simplify"
	"github.com/tkrajina/gpxgo/gpx"

	"reed/core/place"
	"reed/core/quantity"
	"reed/core/site"
)

// Place is a point of a map file. HeightM is nil where the file tells none: that is not nought. Kind is one of a site's, or
// "place".
type Place struct {
	Name    string   `json:"name"`
	Kind    string   `json:"kind"`
	Lat     float64  `json:"lat"`
	Lon     float64  `json:"lon"`
	HeightM *float64 `json:"height_m"`
}

// Way is a line of a map file, or the edge of an area, as longitude and latitude in degrees.
type Way struct {
	Name   string       `json:"name"`
	Kind   string       `json:"kind"`
	Points [][2]float64 `json:"points"`
	// HeightM is its height above the ground in metres, nil where the file has none.
	HeightM *float64 `json:"height_m,omitempty"`
}

// Limits of a map file that becomes a site.
const (
	mostFeatures = 20000
	mostWay      = 400  // points of one line that are kept
	thinBy       = 1e-5 // degrees, about a metre
	onSite       = 5000 // metres from its middle
)

// geo gathers what a map file holds.
type geo struct {
	p       *Preview
	swapped bool
	n       int // features so far
	beyond  int
}

// swap asks for the order of latitude and longitude: both look legal when exchanged.
func (g *geo) swap(o Options, firstLat, firstLon float64) {
	as, other := fmt.Sprintf("%.4f, %.4f", firstLat, firstLon), fmt.Sprintf("%.4f, %.4f", firstLon, firstLat)
	choice := "as written"
	switch {
	case o.choice("order") != "":
		choice = o.choice("order")
	case math.Abs(firstLat) > 90 && math.Abs(firstLon) <= 90:
		choice = "exchanged"
	}
	g.swapped = choice == "exchanged"
	g.p.guess("order", choice, fmt.Sprintf("the first point is at latitude and longitude %s; exchanged it would be at %s", as,
		other), "as written",
		"exchanged")
}

// spot is a point in order; ok is false where there is no such place on earth.
func (g *geo) spot(lat, lon float64, what string) (orb.Point, bool) {
	if g.swapped {
		lat, lon = lon, lat
	}
	if math.IsNaN(lat) || math.IsNaN(lon) || math.Abs(lat) > 90 || math.Abs(lon) > 180 {
		g.p.note("error", 0, g.n, what, "there is no latitude %.6g with longitude %.6g", lat, lon)
		return orb.Point{}, false
	}
	if math.Abs(lat) > 89.9 {
		g.p.note("warning", 0, g.n, what, "it lies at a pole: bearings mean little there")
	}
	return orb.Point{lon, lat}, true
}

// place adds a point. One of unknown kind is listed and not used: nothing may be tied to it.
func (g *geo) place(f feature, lat, lon float64) {
	kind, known := f.kind(site.AtSpot)
	if !known {
		kind = "place"
		g.p.note("warning", 0, g.n, f.name, "unknown (%s): look at it on site; it is not used", or(f.says(), "no tags"))
	}
	if pt, ok := g.spot(lat, lon, f.name); ok {
		g.p.Places = append(g.p.Places, Place{f.name, kind, pt[1], pt[0], f.height})
	}
}

func or(s, otherwise string) string {
	if s == "" {
		return otherwise
	}
	return s
}

// line adds a line; one of unknown kind is an obstacle like a path.
func (g *geo) line(f feature, points []orb.Point) {
	kind, known := f.kind(site.Along)
	if !known {
		kind = site.Path
		if f.says() != "" {
			g.p.note("warning", 0, g.n, f.name, "unknown (%s): look at it on site; it is taken as a path", f.says())
		}
	}
	g.way(false, f, kind, points)
}

// area adds an area. One without any tag was drawn as the usable area; one of unknown kind is never usable ground.
func (g *geo) area(f feature, points []orb.Point) {
	kind, known := f.kind(site.Within)
	switch {
	case !known && f.says() == "":
		kind = site.Area
		g.p.note("note", 0, g.n, f.name, "it has no tags: taken as the usable area")
	case !known:
		kind = site.Unknown
		g.p.note("warning", 0, g.n, f.name, "unknown (%s): look at it on site; it is not taken as usable ground", f.says())
	}
	if k, _ := site.KindNamed(kind); k.Shape == site.Along {
		g.way(false, f, kind, points)
		return
	}
	g.way(true, f, kind, points)
}

// way adds a line or an area's edge, thinned where it has more points than a site needs.
func (g *geo) way(area bool, f feature, kind string, points []orb.Point) {
	name := f.name
	line := make(orb.LineString, 0, len(points))
	for _, q := range points {
		if pt, ok := g.spot(q[1], q[0], name); ok {
			line = append(line, pt)
		}
	}
	if area && len(line) > 3 && line[0] == line[len(line)-1] {
		line = line[:len(line)-1]
	}
	for i := 1; i < len(line); i++ {
		if math.Abs(line[i][0]-line[i-1][0]) > 180 {
			g.p.note("warning", 0, g.n, name, "it crosses the date line; its parts are read as they are written")
			break
		}
	}
	if had := len(line); had > mostWay {
		for by := thinBy; len(line) > mostWay; by *= 2 {
			line = simplify.DouglasPeucker(by).LineString(line.Clone())
		}
		g.p.note("note", 0, g.n, name, "%d points are thinned to %d: none lies more than a few metres off", had, len(line))
	}
	if len(line) < 2 {
		return
	}
	w := Way{Name: name, Kind: kind, HeightM: f.height}
	for _, q := range line {
		w.Points = append(w.Points, [2]float64(q))
	}
	if area {
		g.p.Areas = append(g.p.Areas, w)
	} else {
		g.p.Ways = append(g.p.Ways, w)
	}
}

// more counts a feature; false beyond what is read.
func (g *geo) more() bool {
	if g.n++; g.n > mostFeatures {
		g.beyond++
	}
	return g.n <= mostFeatures
}

func (g *geo) done() error {
	p := g.p
	if g.beyond > 0 {
		p.note("warning", 0, 0, "", "%d more points and lines are not read", g.beyond)
	}
	if len(p.Places)+len(p.Ways)+len(p.Areas) == 0 && len(p.Notes) == 0 {
		return &FileError{"the file holds no point, line or area", "GPX waypoints, tracks or routes, or GeoJSON features"}
	}
	p.Site = p.siteLines()
	return nil
}

// readGPX reads waypoints, tracks and routes.
func readGPX(ctx context.Context, p *Preview, text string, o Options) error {
	p.Kind = "site"
	file, err := gpx.ParseString(text)
	if err != nil {
		return &FileError{"the file is no GPX that can be read: " + firstLine(err.Error()), "GPX 1.0 or 1.1"}
	}
	g := &geo{p: p}
	ordered := false
	first := func(lat, lon float64) {
		if !ordered {
			g.swap(o, lat, lon)
			ordered = true
		}
	}
	for i := range file.Waypoints {
		w := &file.Waypoints[i]
		if first(w.Latitude, w.Longitude); !g.more() {
			continue
		}
		g.place(gpxFeature(w.Name, w.Type, w.Symbol, w.Description, w.Comment), w.Latitude, w.Longitude)
	}
	line := func(name, kind, comment string, points []gpx.GPXPoint) {
		if len(points) == 0 || !g.more() {
			return
		}
		first(points[0].Latitude, points[0].Longitude)
		list := make([]orb.Point, len(points))
		for i := range points {
			list[i] = orb.Point{points[i].Longitude, points[i].Latitude}
		}
		f := gpxFeature(name, kind, "", "", comment)
		if k, ok := site.KindNamed(kind); ok && k.Shape == site.Within {
			g.way(true, f, kind, list) // as it is written here: GPX itself knows no areas
			return
		}
		g.line(f, list)
	}
	for i := range file.Routes {
		line(file.Routes[i].Name, file.Routes[i].Type, file.Routes[i].Comment, file.Routes[i].Points)
	}
	for i := range file.Tracks {
		if err := ctx.Err(); err != nil {
			return err
		}
		for k := range file.Tracks[i].Segments {
			line(file.Tracks[i].Name, file.Tracks[i].Type, file.Tracks[i].Comment, file.Tracks[i].Segments[k].Points)
		}
	}
	return g.done()
}

// highComment reads the height above the ground out of a comment as it is written here; the elevation of GPX is above the sea.
var highComment = regexp.MustCompile(`(?i)([\d.]+) ?m high`)

// gpxFeature is a thing of a GPX file. A type names a kind of this program, or is one of many words.
func gpxFeature(name, kind, symbol, description, comment string) feature {
	f := feature{name: name, tags: map[string]string{"type": kind, "sym": symbol, "desc": description}}
	if _, ok := site.KindNamed(kind); ok {
		f.tags["kind"] = kind
	}
	if m := highComment.FindStringSubmatch(comment); m != nil {
		if v, err := strconv.ParseFloat(m[1], 64); err == nil {
			f.height = &v
		}
	}
	return f
}

// gpxHeight is the comment that a height is written as.
func gpxHeight(m *float64) string {
	if m == nil {
		return ""
	}
	return strconv.FormatFloat(*m, 'g', -1, 64) + " m high"
}

func firstLine(s string) string {
	s, _, _ = strings.Cut(s, "\n")
	return s
}

// readGeoJSON reads a feature collection, a feature or a bare geometry.
func readGeoJSON(ctx context.Context, p *Preview, text string, o Options) error {
	p.Kind = "site"
	list, err := geojson.UnmarshalFeatureCollection([]byte(text))
	if err != nil {
		if f, err2 := geojson.UnmarshalFeature([]byte(text)); err2 == nil {
			list, err = geojson.NewFeatureCollection().Append(f), nil
		} else if x, err3 := geojson.UnmarshalGeometry([]byte(text)); err3 == nil && x.Geometry() != nil {
			list, err = geojson.NewFeatureCollection().Append(geojson.NewFeature(x.Geometry())), nil
		}
	}
	if err != nil {
		return &FileError{"the file is no GeoJSON that can be read: " + firstLine(err.Error()), "a feature collection, a feature or a geometry"}
	}
	g := &geo{p: p}
	for _, f := range list.Features {
		if err := ctx.Err(); err != nil {
			return err
		}
		if f.Geometry == nil {
			g.n++
			p.note("warning", 0, g.n, "geometry", "it has no place")
			continue
		}
		if g.n == 0 {
			if pt, ok := firstPoint(f.Geometry); ok {
				g.swap(o, pt[1], pt[0])
			}
		}
		g.shape(f.Geometry, featureOf(f.Properties))
	}
	return g.done()
}

func firstPoint(x orb.Geometry) (orb.Point, bool) {
	if x == nil || x.Bound().IsEmpty() {
		return orb.Point{}, false
	}
	switch v := x.(type) {
	case orb.Point:
		return v, true
	case orb.LineString:
		return v[0], true
	case orb.Polygon:
		return v[0][0], true
	}
	return x.Bound().Min, true
}

// shape adds a geometry, whatever it is made of.
func (g *geo) shape(x orb.Geometry, f feature) {
	if !g.more() {
		return
	}
	switch v := x.(type) {
	case orb.Point:
		g.place(f, v[1], v[0])
	case orb.MultiPoint:
		for _, pt := range v {
			g.place(f, pt[1], pt[0])
		}
	case orb.LineString:
		g.line(f, v)
	case orb.MultiLineString:
		for _, l := range v {
			g.line(f, l)
		}
	case orb.Polygon:
		g.polygon(v, f)
	case orb.MultiPolygon:
		for _, l := range v {
			g.polygon(l, f)
		}
	case orb.Collection:
		for _, l := range v {
			g.shape(l, f)
		}
	default:
		g.p.note("warning", 0, g.n, "geometry", "a %s is not read", x.GeoJSONType())
	}
}

func (g *geo) polygon(v orb.Polygon, f feature) {
	if len(v) == 0 {
		return
	}
	if len(v) > 1 {
		g.p.note("warning", 0, g.n, f.name, "the %d holes in it are not read", len(v)-1)
	}
	g.area(f, orb.LineString(v[0]))
}

// middleOf is where a site is paced from: the middle of its first area, or its first point.
func (p *Preview) middleOf() (place.Point, bool) {
	switch {
	case len(p.Areas) > 0:
		lat, lon := 0.0, 0.0
		for _, q := range p.Areas[0].Points {
			lon, lat = lon+q[0]/float64(len(p.Areas[0].Points)), lat+q[1]/float64(len(p.Areas[0].Points))
		}
		return place.Point{Lat: lat, Lon: lon}, true
	case len(p.Places) > 0:
		return place.Point{Lat: p.Places[0].Lat, Lon: p.Places[0].Lon}, true
	case len(p.Ways) > 0:
		return place.Point{Lat: p.Ways[0].Points[0][1], Lon: p.Ways[0].Points[0][0]}, true
	}
	return place.Point{}, false
}

// Described is a map file as a site: where it was paced from, and its lines.
type Described struct {
	Place string   `json:"place"`
	Lines []string `json:"lines"`
}

// siteLines are the lines of a site that the file comes to. What is not on it is left out, and said.
func (p *Preview) siteLines() *Described {
	from, ok := p.middleOf()
	if !ok {
		return nil
	}
	out := &Described{Place: fmt.Sprintf("%.6f %.6f", from.Lat, from.Lon), Lines: []string{}}
	spot := func(lon, lat float64) site.Spot {
		to := place.Point{Lat: lat, Lon: lon}
		return site.Spot{}.Toward(place.Bearing(from, to), place.Distance(from, to))
	}
	far := 0
	add := func(t site.Thing) {
		for _, q := range t.Points {
			if m, _ := q.Polar(); m > onSite {
				far++
				return
			}
		}
		t.Name = strings.Map(func(r rune) rune {
			if r == '(' || r == ')' || r == ',' || r == ';' || r < ' ' {
				return -1
			}
			return r
		}, t.Name)
		out.Lines = append(out.Lines, t.Write(quantity.SI))
	}
	high := func(m *float64) float64 {
		if m == nil || math.IsNaN(*m) {
			return 0
		}
		return *m
	}
	for _, w := range p.Areas {
		add(site.Thing{Kind: w.Kind, Name: w.Name, Points: spots(w.Points, spot), High: high(w.HeightM)})
	}
	for _, x := range p.Places {
		at := spot(x.Lon, x.Lat)
		t := site.Thing{Kind: x.Kind, Name: x.Name, Points: []site.Spot{at}, High: high(x.HeightM)}
		if x.Kind == "place" {
			continue // nobody knows what is there
		}
		if k, _ := site.KindNamed(x.Kind); k.Shape == site.Along {
			t.Points = []site.Spot{at.Toward(270, 1), at.Toward(90, 1)} // a pylon of an overhead line
		}
		add(t)
	}
	for _, w := range p.Ways {
		add(site.Thing{Kind: w.Kind, Name: w.Name, Points: spots(w.Points, spot), High: high(w.HeightM)})
	}
	if far > 0 {
		p.note("warning", 0, 0, "", "%d of them lie more than %d m from the middle and are not on the site", far, onSite)
	}
	return out
}

func spots(points [][2]float64, spot func(lon, lat float64) site.Spot) (out []site.Spot) {
	for _, q := range points {
		out = append(out, spot(q[0], q[1]))
	}
	return out
}

// WriteGeoJSON writes places, lines and areas as a feature collection that reads back to them exactly.
func WriteGeoJSON(p *Preview) ([]byte, error) {
	out := geojson.NewFeatureCollection()
	add := func(x orb.Geometry, name, kind string, height *float64) {
		f := geojson.NewFeature(x)
		f.Properties["name"], f.Properties["kind"] = name, kind
		if height != nil {
			f.Properties["height_m"] = *height
		}
		out.Append(f)
	}
	for _, x := range p.Places {
		add(orb.Point{x.Lon, x.Lat}, x.Name, x.Kind, x.HeightM)
	}
	for _, w := range p.Ways {
		add(lineOf(w), w.Name, w.Kind, w.HeightM)
	}
	for _, w := range p.Areas {
		ring := orb.Ring(lineOf(w))
		add(orb.Polygon{append(ring, ring[0])}, w.Name, w.Kind, w.HeightM)
	}
	return json.MarshalIndent(out, "", " ")
}

func lineOf(w Way) orb.LineString {
	out := make(orb.LineString, len(w.Points))
	for i, q := range w.Points {
		out[i] = q
	}
	return out
}

// WriteGPX writes places as waypoints and lines as routes; areas as routes whose type says so, since GPX knows none.
func WriteGPX(p *Preview) ([]byte, error) {
	file := gpx.GPX{Creator: "Itinerant Reed"}
	for _, x := range p.Places {
		w := gpx.GPXPoint{Point: gpx.Point{Latitude: x.Lat, Longitude: x.Lon}, Name: x.Name, Type: x.Kind, Comment: gpxHeight(x.HeightM)}
		file.Waypoints = append(file.Waypoints, w)
	}
	for _, w := range append(append([]Way{}, p.Ways...), p.Areas...) {
		r := gpx.GPXRoute{Name: w.Name, Type: w.Kind, Comment: gpxHeight(w.HeightM)}
		for _, q := range w.Points {
			r.Points = append(r.Points, gpx.GPXPoint{Point: gpx.Point{Latitude: q[1], Longitude: q[0]}})
		}
		file.Routes = append(file.Routes, r)
	}
	return file.ToXml(gpx.ToXmlParams{Version: "1.1", Indent: true})
}
