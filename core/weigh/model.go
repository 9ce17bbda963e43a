package weigh

import (
	"fmt"
	"math"
	"strings"

	"reed/core/band"
	"reed/core/sky"
)

// Foretold is the model's prediction on the paths on which two antennas were compared, beside the on-air evidence.
type Foretold struct {
	Bands []ForetoldBand `json:"bands"`
	Says  string         `json:"says"`
}

// ForetoldBand is the mean over the receivers that heard on a band of by how many decibels the models' patterns send more with A
// towards them, at the angle of the fewest hops, all losses counted.
type ForetoldBand struct {
	Band      string   `json:"band"`
	ModelDB   float64  `json:"model_db"`
	LeastDB   float64  `json:"least_db"` // of one receiver
	MostDB    float64  `json:"most_db"`
	Receivers int      `json:"receivers"`
	AirDB     *float64 `json:"air_db"`
	Lo        *float64 `json:"lo_db"`
	Hi        *float64 `json:"hi_db"`
	Agrees    bool     `json:"agrees"`
	Says      string   `json:"says"`
	Causes    []string `json:"causes"`
	Paths     []Path   `json:"paths"`
	// Rose is the difference of the models all round, at Elevation, that of the middle path; Sectors are the on-air evidence by direction.
	Elevation float64   `json:"elevation"`
	Rose      []Point   `json:"rose"`
	Sectors   []Segment `json:"sectors"`
}

// Point is a difference of two models towards a bearing.
type Point struct {
	Bearing float64 `json:"bearing"`
	DB      float64 `json:"db"`
}

// Segment is the on-air evidence of the receivers within SegmentWithin to each side of a bearing.
type Segment struct {
	Bearing   float64  `json:"bearing"`
	Receivers int      `json:"receivers"`
	DB        *float64 `json:"difference_db"`
	Lo        *float64 `json:"lo_db"`
	Hi        *float64 `json:"hi_db"`
}

// Segments of the compass in which a difference is shown by itself, and the step of a rose, in degrees.
const (
	SegmentWithin = 22.5
	roseStep      = 5
	leastSegment  = 2 // receivers
)

// SegmentBearings are the middles of the segments.
func SegmentBearings() (out []float64) {
	for b := 0.0; b < 360; b += 2 * SegmentWithin {
		out = append(out, b)
	}
	return out
}

// Segmented says what the air says towards a bearing; ok is false where too few are there.
func Segmented(bearing float64, v Verdict) (s Segment, ok bool) {
	if v.DB == nil || v.Receivers < leastSegment {
		return s, false
	}
	return Segment{bearing, v.Receivers, v.DB, v.Lo, v.Hi}, true
}

// Path is one receiver: what the model predicts of it and what it heard.
type Path struct {
	Receiver  string   `json:"receiver"`
	DistanceM float64  `json:"distance_m"`
	Bearing   float64  `json:"bearing"`
	ModelDB   float64  `json:"model_db"`
	AirDB     *float64 `json:"air_db"`
}

// modelWithin is how far the model may be off on a path that it knows well: the soil, the height over it and what stands around.
const modelWithin = 2.0

// Gain returns an antenna's gain towards an elevation and a bearing in degrees, in dBi, all losses counted.
type Gain func(elevation, bearing float64) float64

// Foretell lays the model of a band beside the verdict of the air on it.
func Foretell(v Verdict, of []ReceiverVerdict, a, b Gain, sideA, sideB Side) ForetoldBand {
	out := ForetoldBand{Band: v.Band, AirDB: v.DB, Lo: v.Lo, Hi: v.Hi, Causes: []string{}, Paths: []Path{},
		Rose: []Point{}, Sectors: []Segment{},
		LeastDB: math.Inf(1), MostDB: math.Inf(-1)}
	var angles []float64
	for _, r := range of {
		if r.DistanceM == nil || r.Bearing == nil {
			continue
		}
		up := sky.HopsOver(*r.DistanceM / 1000).TakeOff
		angles = append(angles, up)
		d := a(up, *r.Bearing) - b(up, *r.Bearing)
		out.Paths = append(out.Paths, Path{r.Receiver, *r.DistanceM, *r.Bearing, d, r.DB})
		out.ModelDB += d
		out.LeastDB, out.MostDB = math.Min(out.LeastDB, d), math.Max(out.MostDB, d)
	}
	if out.Receivers = len(out.Paths); out.Receivers == 0 {
		out.LeastDB, out.MostDB = 0, 0
		out.Says = fmt.Sprintf("The positions of the receivers on %s are not known, so the model cannot predict them.", band.Said(v.Band))
		return out
	}
	out.ModelDB /= float64(out.Receivers)
	out.Elevation = median(angles)
	for bearing := 0; bearing < 360; bearing += roseStep {
		at := float64(bearing)
		out.Rose = append(out.Rose, Point{at, a(out.Elevation, at) - b(out.Elevation, at)})
	}
	predicted := fmt.Sprintf("On %s the model predicts %s on these paths", band.Said(v.Band),
		strongerSays(out.ModelDB, sideA.Name, sideB.Name))
	if v.Lo == nil {
		out.Says = predicted + "; there are no on-air reports yet."
		return out
	}
	out.Agrees = *v.Lo-modelWithin <= out.ModelDB && out.ModelDB <= *v.Hi+modelWithin
	heard := strongerSays(*v.DB, sideA.Name, sideB.Name)
	if out.Agrees {
		out.Says = fmt.Sprintf("%s; on-air reports show %s: they agree within the accuracy of the model.", predicted, heard)
		return out
	}
	off := *v.DB - out.ModelDB
	weak, strong := sideB, sideA
	if off < 0 {
		weak, strong = sideA, sideB
	}
	out.Says = fmt.Sprintf("%s; on-air reports show %s: %s is %.1f dB weaker against %s than predicted.", predicted, heard, weak.Name,
		math.Abs(off),
		strong.Name)
	out.Causes = causes(weak, strong, sideA.Centre[v.Band])
	return out
}

// strongerSays words a difference by who is stronger.
func strongerSays(db float64, a, b string) string {
	if db < 0 {
		db, a = -db, b
	}
	if db < 0.05 {
		return "no difference"
	}
	return fmt.Sprintf("%.1f dB for %s", db, a)
}

// causes lists possible reasons why one antenna does worse than its model beside another, from the records of both.
func causes(weak, strong Side, f float64) (out []string) {
	if weak.Built.Choke.Place == "" {
		out = append(out, fmt.Sprintf("%s has no choke recorded: its coax sends too, and loses in the soil", weak.Name))
	}
	if loss, _, ok := CableLoss(weak.Built, f, 0); ok && loss > 0.05 {
		out = append(out, fmt.Sprintf("its coax is taken to lose %.1f dB; water in it or a bad plug loses more", loss))
	} else if !ok {
		out = append(out, "no coax is recorded of "+weak.Name+", and none of its loss is counted")
	}
	if weak.Built.Earthed() || weak.Built.Counterpoise().Count > 0 {
		out = append(out, fmt.Sprintf("it works against the ground, which is taken as %s: drier soil takes more",
			strings.ReplaceAll(weak.Ground, "-", " ")))
	}
	if weak.Built.Primary() > 0 {
		out = append(out, "its transformer may lose more than its data say")
	}
	if len(weak.Built.Metal) == 0 {
		out = append(out, "nothing of metal is recorded beside it")
	}
	return append(out, "what disturbs reception at the other end is the same for both and explains nothing; "+strong.Name+
		" may also do better than its model")
}
