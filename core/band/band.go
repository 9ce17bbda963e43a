// Package band holds the amateur bands from 160 to 6 m by region, and the segments that count for an
// operator. The tables are defaults to start from: verify with your licence.
package band

import (
	"fmt"
	"math"
	"sort"
	"strings"

	"reed/core/quantity"
)

// Region is an ITU region: 1, 2 or 3.
type Region int

// Band is one amateur band; edges in hertz.
type Band struct {
	Name string  `json:"name"` // "40m", as ADIF writes it
	Lo   float64 `json:"lo"`
	Hi   float64 `json:"hi"`
}

// Label is the name as people read it, "40 m".
func (b Band) Label() string { return strings.TrimSuffix(b.Name, "m") + " m" }

// Centre is the arithmetic middle in hertz.
func (b Band) Centre() float64 { return (b.Lo + b.Hi) / 2 }

// Contains reports whether hz lies in the band, edges included.
func (b Band) Contains(hz float64) bool { return hz >= b.Lo && hz <= b.Hi }

// Segment is a part of a band in which the operator may and wants to transmit.
type Segment struct {
	Band string  `json:"band"`
	Lo   float64 `json:"lo"`
	Hi   float64 `json:"hi"`
	Use  string  `json:"use"` // cw, digital or phone
	On   bool    `json:"on"`  // counts in judgements
}

// edges in kHz for regions 1, 2, 3 (ITU Radio Regulations article 5 as commonly licensed; 60 m as WRC-15).
var edges = []struct {
	name   string
	region [3][2]float64
}{
	{"160m", [3][2]float64{{1810, 2000}, {1800, 2000}, {1800, 2000}}},
	{"80m", [3][2]float64{{3500, 3800}, {3500, 4000}, {3500, 3900}}},
	{"60m", [3][2]float64{{5351.5, 5366.5}, {5351.5, 5366.5}, {5351.5, 5366.5}}},
	{"40m", [3][2]float64{{7000, 7200}, {7000, 7300}, {7000, 7200}}},
	{"30m", [3][2]float64{{10100, 10150}, {10100, 10150}, {10100, 10150}}},
	{"20m", [3][2]float64{{14000, 14350}, {14000, 14350}, {14000, 14350}}},
	{"17m", [3][2]float64{{18068, 18168}, {18068, 18168}, {18068, 18168}}},
	{"15m", [3][2]float64{{21000, 21450}, {21000, 21450}, {21000, 21450}}},
	{"12m", [3][2]float64{{24890, 24990}, {24890, 24990}, {24890, 24990}}},
	{"10m", [3][2]float64{{28000, 29700}, {28000, 29700}, {28000, 29700}}},
	{"6m", [3][2]float64{{50000, 52000}, {50000, 54000}, {50000, 54000}}},
}

// splits are the upper ends in kHz of the usual CW and digital parts; phone is the rest. A zero digital
// end means that no phone is customary. These are customs, not law.
var splits = map[string][2]float64{
	"160m": {1838, 1843}, "80m": {3570, 3600}, "60m": {5354, 5366.5}, "40m": {7040, 7060}, "30m": {10130, 10150},
	"20m": {14070, 14112}, "17m": {18095, 18120}, "15m": {21070, 21151}, "12m": {24915, 24940}, "10m": {28070, 28225},
	"6m": {50100, 50350},
}

func (r Region) index() int {
	if r < 1 || r > 3 {
		return 0
	}
	return int(r) - 1
}

// All lists the bands of a region from long to short waves. An unknown region is read as 1.
func All(r Region) []Band {
	out := make([]Band, len(edges))
	for i, e := range edges {
		k := e.region[r.index()]
		out[i] = Band{Name: e.name, Lo: k[0] * 1e3, Hi: k[1] * 1e3}
	}
	return out
}

// Named finds a band by name in any case, with or without a space: "40m", "40 M".
func Named(r Region, name string) (Band, bool) {
	name = strings.ToLower(strings.ReplaceAll(strings.TrimSpace(name), " ", ""))
	for _, b := range All(r) {
		if b.Name == name {
			return b, true
		}
	}
	return Band{}, false
}

// Said is a band's name as it is read: 40 m.
func Said(name string) string {
	unit := strings.TrimLeft(name, "0123456789.")
	return strings.TrimSuffix(name, unit) + " " + unit
}

// At finds the band that holds hz.
func At(r Region, hz float64) (Band, bool) {
	for _, b := range All(r) {
		if b.Contains(hz) {
			return b, true
		}
	}
	if hz >= channelsLo && hz <= channelsHi {
		return Named(r, "60m") // some licences have channels about it
	}
	return Band{}, false
}

// channels lie about the band of 60 m, where many licences permit single ones: from 5.25 to 5.45 MHz in hertz.
const channelsLo, channelsHi = 5.25e6, 5.45e6

// Anywhere finds the band that holds hz in some region.
func Anywhere(hz float64) (Band, bool) {
	for _, r := range []Region{1, 2, 3} {
		if b, ok := At(r, hz); ok {
			return b, true
		}
	}
	return Band{}, false
}

// Nearest is the band whose edge is nearest to hz as a ratio; for a frequency in a band, that band.
func Nearest(r Region, hz float64) Band {
	best, dist := Band{}, math.Inf(1)
	for _, b := range All(r) {
		d := 0.0
		if hz < b.Lo {
			d = b.Lo / hz
		} else if hz > b.Hi {
			d = hz / b.Hi
		}
		if d < dist {
			best, dist = b, d
		}
	}
	return best
}

// DefaultSegments lists the customary CW, digital and phone segments of a region, all counting.
func DefaultSegments(r Region) []Segment {
	var out []Segment
	for _, b := range All(r) {
		s := splits[b.Name]
		from := b.Lo
		for i, use := range []string{"cw", "digital", "phone"} {
			to := b.Hi
			if i < 2 {
				to = s[i] * 1e3
			}
			if to > from {
				out = append(out, Segment{Band: b.Name, Lo: from, Hi: to, Use: use, On: true})
				from = to
			}
		}
	}
	return out
}

// Own merges the counting segments of one band into spans that do not touch, in rising order.
func Own(segments []Segment, band string) []Segment {
	var in []Segment
	for _, s := range segments {
		if s.On && s.Band == band && s.Hi > s.Lo {
			in = append(in, s)
		}
	}
	sort.Slice(in, func(i, j int) bool { return in[i].Lo < in[j].Lo })
	var out []Segment
	for _, s := range in {
		if n := len(out); n > 0 && s.Lo <= out[n-1].Hi {
			out[n-1].Hi = math.Max(out[n-1].Hi, s.Hi)
			if out[n-1].Use != s.Use {
				out[n-1].Use = "mixed"
			}
			continue
		}
		out = append(out, s)
	}
	return out
}

// CheckSegments returns one message per segment that cannot be: keyed by its index. A segment must lie
// in a known band of the region and have its ends in order.
func CheckSegments(r Region, segments []Segment) map[int]string {
	bad := map[int]string{}
	for i, s := range segments {
		b, ok := Named(r, s.Band)
		switch {
		case !ok:
			bad[i] = fmt.Sprintf("%q is not a band from 160 m to 6 m; write it like 40m", s.Band)
		case s.Hi <= s.Lo:
			bad[i] = fmt.Sprintf("the segment ends at %s MHz, at or below its start %s MHz", quantity.MHz(s.Hi), quantity.MHz(s.Lo))
		case s.Lo < b.Lo-0.5 || s.Hi > b.Hi+0.5:
			bad[i] = fmt.Sprintf("%s to %s MHz reaches outside %s in region %d (%s to %s MHz)", quantity.MHz(s.Lo), quantity.MHz(s.Hi),
				b.Label(), r.index()+1, quantity.MHz(b.Lo), quantity.MHz(b.Hi))
		}
	}
	return bad
}

// Usual is where on a band one is found for a use (cw, digital or phone): the middle of one's own segment for it, of one's first
// segment there where there is none, of the band where one has none.
func Usual(segments []Segment, b Band, use string) float64 {
	out := b.Centre()
	for i := len(segments) - 1; i >= 0; i-- {
		if s := segments[i]; s.On && s.Band == b.Name && s.Hi > s.Lo {
			if out = (s.Lo + s.Hi) / 2; s.Use == use {
				return out
			}
		}
	}
	return out
}
