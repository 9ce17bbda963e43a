package antenna

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"reed/core/entry"
	"reed/core/quantity"
)

// Fault is something to be said about one field.
type Fault = entry.Fault

func fault(path, severity, text string) Fault {
	return Fault{Path: path, Severity: severity, Text: text}
}

// WireSet is a set of equal wires: radials or counterpoise. Height is that of their far ends.
type WireSet struct {
	Count  int             `json:"count"`
	Length quantity.Length `json:"length,omitzero"`
	Height quantity.Length `json:"height,omitzero"`
}

// Shape is what the antenna is and how it hangs. Angles in degrees, frequency in hertz. What only some
// families have is among the Values, named as in the family's fields. Parts says by role which things of
// the bag it is made of.
type Shape struct {
	Family       string            `json:"family"`
	Variant      string            `json:"variant"`
	FrequencyHz  float64           `json:"frequency_hz"`
	More         []float64         `json:"more_hz,omitempty"` // further frequencies that it is for
	Wire         string            `json:"wire,omitempty"`
	WireData     *Wire             `json:"wire_data,omitempty"` // of a wire from the bag, as it was then
	Parts        map[string]string `json:"parts,omitempty"`
	Radiator     quantity.Length   `json:"radiator,omitzero"` // a dipole's first leg, otherwise the whole radiator
	LegB         quantity.Length   `json:"leg_b,omitzero"`    // a dipole's second leg
	FeedHeight   quantity.Length   `json:"feed_height,omitzero"`
	FarHeight    quantity.Length   `json:"far_height,omitzero"` // of the low or far end
	PoleHeight   quantity.Length   `json:"pole_height,omitzero"`
	ApexAngle    float64           `json:"apex_angle,omitempty"`
	Bearing      float64           `json:"bearing,omitempty"`
	Counterpoise WireSet           `json:"counterpoise,omitzero"`
	Radials      WireSet           `json:"radials,omitzero"`
	Primary      int               `json:"primary_turns,omitempty"`
	Secondary    int               `json:"secondary_turns,omitempty"`
	entry.Values
}

// Total is the length in metres of the whole radiator.
func (s Shape) Total() float64 { return s.Radiator.M + s.LegB.M }

// Ratio is the transformer's impedance ratio as people write it, "1:49", or empty without one.
func (s Shape) Ratio() string {
	if s.Primary <= 0 || s.Secondary <= 0 {
		return ""
	}
	return fmt.Sprintf("1:%.3g", s.ratio())
}

func (s Shape) ratio() float64 {
	if s.Primary <= 0 || s.Secondary <= 0 {
		return 1
	}
	return math.Pow(float64(s.Secondary)/float64(s.Primary), 2)
}

// All lists every frequency in hertz that it is for, the highest first.
func (s Shape) All() []float64 {
	out := append([]float64{s.FrequencyHz}, s.More...)
	sort.Sort(sort.Reverse(sort.Float64Slice(out)))
	return out
}

// Wanted is the frequency it is for that lies nearest to one.
func (s Shape) Wanted(hz float64) float64 {
	out := s.FrequencyHz
	for _, f := range s.All() {
		if math.Abs(f-hz) < math.Abs(out-hz) {
			out = f
		}
	}
	return out
}

func (s Shape) lowest() float64 { all := s.All(); return all[len(all)-1] }

// kind is the wire that it is made of.
func (s Shape) kind() (Wire, bool) {
	if s.WireData != nil {
		return *s.WireData, true
	}
	return WireNamed(s.Wire)
}

// length is the place of a length by its field, nil when it is among the Values.
func (s *Shape) length(id string) *quantity.Length {
	switch id {
	case "radiator":
		return &s.Radiator
	case "leg_b":
		return &s.LegB
	case "feed_height":
		return &s.FeedHeight
	case "far_height":
		return &s.FarHeight
	case "pole_height":
		return &s.PoleHeight
	case "counterpoise_length":
		return &s.Counterpoise.Length
	case "counterpoise_height":
		return &s.Counterpoise.Height
	case "radials_length":
		return &s.Radials.Length
	case "radials_height":
		return &s.Radials.Height
	}
	return nil
}

// count is the place of a whole number by its field, nil when it is among the Values.
func (s *Shape) count(id string) *int {
	switch id {
	case "counterpoise_count":
		return &s.Counterpoise.Count
	case "radials_count":
		return &s.Radials.Count
	case "primary_turns":
		return &s.Primary
	case "secondary_turns":
		return &s.Secondary
	}
	return nil
}

func (s *Shape) angle(id string) *float64 {
	switch id {
	case "apex_angle":
		return &s.ApexAngle
	case "bearing":
		return &s.Bearing
	}
	return nil
}

// clear takes a value away: its field was emptied.
func (s *Shape) clear(id string) {
	if p := s.length(id); p != nil {
		*p = quantity.Length{}
	} else if p := s.count(id); p != nil {
		*p = 0
	} else if p := s.angle(id); p != nil {
		*p = 0
	}
	delete(s.Sizes, id)
	delete(s.Numbers, id)
	delete(s.Words, id)
}

// put stores values at their places.
func (s *Shape) put(v entry.Values) {
	for id, l := range v.Sizes {
		if p := s.length(id); p != nil {
			*p = l
		} else {
			s.Put(id, l)
		}
	}
	for id, n := range v.Numbers {
		if strings.HasPrefix(id, "for") {
			continue
		}
		if p := s.count(id); p != nil {
			*p = int(n)
		} else if p := s.angle(id); p != nil {
			*p = n
		} else {
			s.PutNumber(id, n)
		}
	}
	for id, w := range v.Words {
		s.PutWord(id, w)
	}
	if f, ok := v.Numbers["for"]; ok {
		s.FrequencyHz, s.More = f, nil
		for i := 1; ; i++ {
			f, ok := v.Numbers[entry.Nth("for", i)]
			if !ok {
				break
			}
			s.More = append(s.More, f)
		}
	}
}

// values reads the values of fields back.
func (s Shape) values(fields []entry.Field) entry.Values {
	var v entry.Values
	for _, f := range fields {
		switch f.Kind {
		case entry.Length, entry.Size:
			l := s.Sizes[f.ID]
			if p := s.length(f.ID); p != nil {
				l = *p
			}
			if !l.IsZero() {
				v.Put(f.ID, l)
			}
		case entry.Frequencies:
			for i, hz := range append([]float64{s.FrequencyHz}, s.More...) {
				if hz > 0 {
					v.PutNumber(entry.Nth(f.ID, i), hz)
				}
			}
		case entry.Count, entry.Amount:
			n, ok := s.Numbers[f.ID]
			if p := s.count(f.ID); p != nil {
				n, ok = float64(*p), *p != 0
			} else if p := s.angle(f.ID); p != nil {
				n, ok = *p, *p != 0
			}
			if ok {
				v.PutNumber(f.ID, n)
			}
		default:
			if w := s.Words[f.ID]; w != "" {
				v.PutWord(f.ID, w)
			}
		}
	}
	return v
}

// Filled is a shape with the typed texts of its family's fields read into it, and what was not
// understood. stage is "plan" or "built"; unit is what a bare length takes.
func (s Shape) Filled(stage string, texts map[string]string, unit string) (Shape, []Fault) {
	if _, ok := Named(s.Family); !ok {
		return s, nil
	}
	s = s.copied()
	// The frequencies and choices say which further fields there are.
	first, _ := entry.Read(s.Fields(stage), texts, unit)
	s.put(first)
	for _, f := range s.Fields(stage) {
		if text, given := texts[f.ID]; given && strings.TrimSpace(text) == "" {
			s.clear(f.ID)
		}
	}
	v, faults := entry.Read(s.Fields(stage), texts, unit)
	s.put(v)
	return s, faults
}

// Fields lists what is asked of this shape when it is planned or recorded as built.
func (s Shape) Fields(stage string) []entry.Field {
	fam, ok := Named(s.Family)
	if !ok {
		return nil
	}
	var out []entry.Field
	for _, f := range fam.fields(s) {
		if f.Only == "" || f.Only == stage {
			out = append(out, f)
		}
	}
	return out
}

// Texts writes a shape as the texts of its fields.
func (s Shape) Texts(stage string, imperial bool) map[string]string {
	fields := s.Fields(stage)
	return entry.Texts(fields, s.values(fields), imperial)
}

// Bounds of a shape beyond which nothing is laid out or computed: what nobody carries, and what would make a
// computation without end. The contract states them too.
const (
	MostWires       = 240    // radials, counterpoises and turns
	LongestWire     = 2000.0 // metres
	MostFrequencies = 16
	LeastHz, MostHz = 1.8e6, 54e6
)

// Check says what in a shape cannot be or is unlikely, by field. Limits of "unlikely" are a few times
// what portable people carry; they ask, they do not refuse.
func (s Shape) Check() []Fault {
	var out []Fault
	fam, ok := Named(s.Family)
	switch {
	case !ok:
		out = append(out, fault("family", "error", fmt.Sprintf("%q is not a family of antenna known here; choose one of %s", s.Family, familyIDs())))
	case !fam.variant(s.Variant):
		out = append(out, fault("variant", "error", fmt.Sprintf("%q is not a way to hang a %s", s.Variant, strings.ToLower(fam.Name))))
	}
	if n := len(s.More) + 1; n > MostFrequencies {
		out = append(out, fault("frequency_hz", "error", fmt.Sprintf("%d frequencies found; at most %d are taken", n, MostFrequencies)))
	}
	for _, f := range append([]float64{s.FrequencyHz}, s.More...) {
		if !(f >= LeastHz && f <= MostHz) {
			out = append(out, fault("frequency_hz", "error", fmt.Sprintf("%s MHz found; expected a frequency from 1.8 to 54 MHz", quantity.MHz(f))))
			break
		}
	}
	if ok && !fam.Multi && len(s.More) > 0 {
		out = append(out, fault("frequency_hz", "ask", fmt.Sprintf("this antenna works on one frequency: %s MHz is taken", quantity.MHz(s.FrequencyHz))))
	}
	if _, ok := s.kind(); !ok {
		out = append(out, fault("wire", "error", fmt.Sprintf("%q is not a known kind of wire", s.Wire)))
	}
	type limited struct {
		path string
		l    quantity.Length
		max  float64
	}
	lengths := []limited{
		{"radiator", s.Radiator, 100}, {"leg_b", s.LegB, 100}, {"feed_height", s.FeedHeight, 20}, {"far_height", s.FarHeight, 20},
		{"pole_height", s.PoleHeight, 20}, {"counterpoise.length", s.Counterpoise.Length, 50}, {"counterpoise.height", s.Counterpoise.Height, 20},
		{"radials.length", s.Radials.Length, 50}, {"radials.height", s.Radials.Height, 20},
	}
	for _, id := range sortedKeys(s.Sizes) {
		lengths = append(lengths, limited{id, s.Sizes[id], 100})
	}
	for _, l := range lengths {
		switch {
		case l.l.Problem() != nil:
			out = append(out, fault(l.path, "error", l.l.Problem().Error()))
		case !(l.l.M >= 0 && l.l.M <= LongestWire):
			out = append(out, fault(l.path, "error", fmt.Sprintf("%s found; expected at most %.0f m", quantity.Metric(l.l.M, 10), LongestWire)))
		case l.l.M > l.max:
			out = append(out, fault(l.path, "ask", fmt.Sprintf("%s found; more than %.0f m is rare in the field. Is the unit right?", quantity.Metric(l.l.M, 10), l.max)))
		}
	}
	for _, c := range []struct {
		path string
		n    int
	}{{"counterpoise.count", s.Counterpoise.Count}, {"radials.count", s.Radials.Count}, {"primary_turns", s.Primary}, {"secondary_turns", s.Secondary}} {
		if c.n < 0 || c.n > MostWires {
			out = append(out, fault(c.path, "error", fmt.Sprintf("%d found; expected 0 to %d", c.n, MostWires)))
		}
	}
	for _, id := range sortedKeys(s.Numbers) {
		if n := s.Numbers[id]; math.IsNaN(n) || math.Abs(n) > 1e9 {
			out = append(out, fault(id, "error", fmt.Sprintf("%g found; that is no number for this", n)))
		}
	}
	if s.ApexAngle != 0 && (s.ApexAngle < 30 || s.ApexAngle > 180) {
		out = append(out, fault("apex_angle", "error", fmt.Sprintf("%.0f degrees found; expected 30 to 180 between the legs", s.ApexAngle)))
	}
	if s.Bearing < 0 || s.Bearing > 360 {
		out = append(out, fault("bearing", "error", fmt.Sprintf("%.0f degrees found; expected 0 to 360", s.Bearing)))
	}
	return append(out, s.outside(out)...)
}

// outside says which values lie outside what their fields take, where that was not said already: they may come
// from elsewhere than from a form.
func (s Shape) outside(said []Fault) (out []Fault) {
	seen := map[string]bool{}
	for _, f := range said {
		seen[strings.ReplaceAll(f.Path, ".", "_")] = true
	}
	for _, stage := range []string{"plan", "built"} {
		fields := s.Fields(stage)
		v := s.values(fields)
		for _, f := range fields {
			if err := f.Outside(v); err != nil && !seen[f.ID] {
				seen[f.ID] = true
				out = append(out, fault(f.ID, "error", err.Error()))
			}
		}
	}
	return out
}

func errorsOf(all []Fault) []Fault {
	return slices.DeleteFunc(all, func(f Fault) bool { return f.Severity != "error" })
}

func sortedKeys[T any](m map[string]T) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}

// Layout places a shape in space, and says where its lengths and heights do not close. What cannot be at all
// (Check) is not laid out.
func (s Shape) Layout() (Drawing, []Fault) {
	f, ok := Named(s.Family)
	if faults := s.Check(); !ok || HasError(faults) {
		return Drawing{}, errorsOf(faults)
	}
	d, faults := f.layout(s)
	if d.View == "" {
		d.View = "side"
	}
	return d, faults
}

// Hot is where the voltage is highest at a power in watts, and its peak in volts; none is zero.
func (s Shape) Hot(powerW float64) (where string, volts float64) {
	f, ok := Named(s.Family)
	if !ok || f.hot == nil || powerW <= 0 {
		return "", 0
	}
	return f.hot(s, powerW)
}

// Dangers lists what this family has to be careful of while sending.
func (s Shape) Dangers() []Danger {
	f, ok := Named(s.Family)
	if !ok || f.dangers == nil {
		return nil
	}
	return f.dangers(s)
}

// Trims is how the family answers to a change of its radiator: "wire" keeps frequency times length
// nearly constant, "loaded" moves further than that for the same cut, "settings" is adjusted and not
// cut, and "none" has no length that makes it resonant.
func (s Shape) Trims() string {
	f, _ := Named(s.Family)
	return f.Trims
}

// Legs is how many wires are changed together when the radiator is.
func (s Shape) Legs() int {
	if s.LegB.M > 0 {
		return 2
	}
	return 1
}

// Slides reports whether its length is slid in and out, so that a change costs nothing and is taken back at once.
func (s Shape) Slides() bool { return s.Family == "whip" }
