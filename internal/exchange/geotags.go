package exchange

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/paulmach/orb/geojson"

	"reed/core/quantity"
	"reed/core/site"
)

// mapTag says what a tag of open maps means on the ground, for a point, a line and an area; an empty kind does not occur or is not known.
// A value of "*" is any other.
type mapTag struct{ key, value, spot, along, within string }

// mapTags are looked at in this order: what is dangerous comes first.
var mapTags = []mapTag{
	{"power", "*", site.PowerLine, site.PowerLine, site.PowerLine},
	{"aerialway", "*", site.PowerLine, site.PowerLine, ""},
	{"telecom", "line", "", site.PowerLine, ""},
	{"communication", "line", "", site.PowerLine, ""},
	{"electrified", "contact_line", "", site.PowerLine, ""},
	{"building", "*", site.Mast, site.Wall, site.Building},
	{"natural", "water", "", site.Water, site.Lake},
	{"natural", "wetland", "", site.Water, site.Lake},
	{"natural", "bay", "", site.Water, site.Lake},
	{"natural", "coastline", "", site.Water, ""},
	{"natural", "tree", site.Tree, "", ""},
	{"natural", "tree_row", "", site.Wall, site.Wood},
	{"natural", "wood", "", "", site.Wood},
	{"natural", "scrub", "", "", site.Wood},
	{"natural", "cliff", "", site.Wall, ""},
	{"natural", "beach", "", "", site.Area},
	{"natural", "sand", "", "", site.Area},
	{"natural", "grassland", "", "", site.Area},
	{"water", "*", "", site.Water, site.Lake},
	{"waterway", "*", "", site.Water, site.Lake},
	{"landuse", "reservoir", "", "", site.Lake},
	{"landuse", "basin", "", "", site.Lake},
	{"landuse", "forest", "", "", site.Wood},
	{"landuse", "orchard", "", "", site.Wood},
	{"landuse", "grass", "", "", site.Area},
	{"landuse", "meadow", "", "", site.Area},
	{"landuse", "recreation_ground", "", "", site.Area},
	{"landuse", "village_green", "", "", site.Area},
	{"leisure", "park", "", "", site.Area},
	{"leisure", "common", "", "", site.Area},
	{"leisure", "pitch", "", "", site.Area},
	{"leisure", "swimming_pool", "", "", site.Lake},
	{"leisure", "marina", "", "", site.Lake},
	{"leisure", "picnic_table", site.Table, "", ""},
	{"amenity", "parking", "", "", site.Parking},
	{"amenity", "bench", site.Bench, "", ""},
	{"amenity", "shelter", "", "", site.Building},
	{"barrier", "wall", "", site.Wall, site.Wall},
	{"barrier", "retaining_wall", "", site.Wall, site.Wall},
	{"barrier", "hedge", "", site.Wall, site.Wood},
	{"barrier", "*", "", site.Fence, site.Fence},
	{"highway", "*", "", site.Path, site.Parking},
	{"railway", "*", "", site.Path, ""},
	{"man_made", "flagpole", site.Post, "", ""},
	{"man_made", "mast", site.Mast, "", ""},
	{"man_made", "tower", site.Mast, "", site.Building},
	{"man_made", "chimney", site.Mast, "", site.Building},
}

// overhead matches names of overhead lines, in whatever tag they stand.
var overhead = regexp.MustCompile(`(?i)\b(power ?-?(line|lines|pole|tower)|overhead|high[- ]?voltage|pylons?|\d+ ?kv|catenary|` +
	`telephone (line|wire)s?)\b`)

// feature is one thing of a map file: its tags by key, its name, and its height in metres above the ground.
type feature struct {
	name   string
	tags   map[string]string
	height *float64
}

// featureOf reads the properties of a GeoJSON feature. A height above the sea (ele) is not one above the ground.
func featureOf(p geojson.Properties) feature {
	out := feature{tags: map[string]string{}}
	for k, v := range p {
		switch v := v.(type) {
		case string:
			out.tags[strings.ToLower(k)] = v
		case float64:
			out.tags[strings.ToLower(k)] = fmt.Sprint(v)
		}
	}
	out.name = out.tags["name"]
	for _, key := range []string{"height_m", "height"} {
		if l, err := quantity.ParseLength(out.tags[key], "m"); err == nil && out.height == nil {
			out.height = &l.Value
		}
	}
	return out
}

// kind returns what a feature is when it is drawn in a shape; known is false where nothing says so.
func (f feature) kind(shape string) (kind string, known bool) {
	fits := func(id string) bool {
		k, ok := site.KindNamed(id)
		return ok && (k.Shape == shape || k.ID == site.PowerLine)
	}
	if own := f.tags["kind"]; fits(own) {
		return own, true
	}
	texts := []string{f.tags["kind"], f.tags["type"], f.tags["sym"], f.name, f.tags["desc"]}
	if slices.ContainsFunc(texts, overhead.MatchString) {
		return site.PowerLine, true // whatever else it is: a track that is named after the line above it
	}
	for _, t := range mapTags {
		v, ok := f.tags[t.key]
		if !ok || v == "no" || t.value != "*" && v != t.value {
			continue
		}
		if id := map[string]string{site.AtSpot: t.spot, site.Along: t.along, site.Within: t.within}[shape]; id != "" {
			return id, true
		}
	}
	return wordKind(shape, texts...)
}

// wordKind finds the kind that a text names by one of its words.
func wordKind(shape string, texts ...string) (string, bool) {
	for _, t := range texts {
		words := " " + strings.Join(strings.FieldsFunc(strings.ToLower(t), func(r rune) bool { return r < 'a' || r > 'z' }), " ") + " "
		best, n := "", 0
		for _, k := range site.Kinds() {
			for _, w := range k.Words {
				if k.Shape == shape && len(w) > n && strings.Contains(words, " "+w+" ") {
					best, n = k.ID, len(w)
				}
			}
		}
		if best != "" {
			return best, true
		}
	}
	return "", false
}

// says are the tags in a line, for a note.
func (f feature) says() string {
	var out []string
	for k, v := range f.tags {
		if k != "name" && v != "" {
			out = append(out, k+"="+v)
		}
	}
	slices.Sort(out)
	if len(out) > 4 {
		out = out[:4]
	}
	return strings.Join(out, ", ")
}
