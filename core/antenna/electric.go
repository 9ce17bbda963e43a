package antenna

import (
	"math"

	"reed/core/circuit"
	"reed/core/quantity"
)

// Electric is what the lines of a layout do not show and a solver needs at one frequency. Coil and capacitor
// sit At metres along each radiator from the feed; Spread is what a winding over the whole radiator adds to a
// metre of it.
type Electric struct {
	At             float64
	Henries, Ohms  float64 // of the coil
	Across         float64 // farads between its turns
	Farads         float64 // of the capacitor; Ohms are then its own
	SpreadHenries  float64 // per metre
	SpreadOhms     float64
	Diameter       float64 // of the radiator when it is no wire, in metres
	Knob           string  // what is set to bring it to a frequency: "coil", "capacitor", "length", none when it is cut
	Longest        float64 // that a length may be set to
	Open           []float64
	Gap            float64 // of an open link
	Line           *circuit.Coax
	LineLength     float64
	Matching       Matching
	TransformsFrom float64 // turns ratio squared between radio and feed, 1 without a transformer
}

// Electrics is what a shape is at f hertz, with the settings that closed forms give for it.
func (s Shape) Electrics(f float64) Electric {
	s = s.copied()
	e := Electric{TransformsFrom: s.ratio()}
	switch s.Family {
	case "linked-dipole":
		// The links of the wanted band and further in are closed.
		all := s.All()
		band := 0
		for i := range all {
			if math.Abs(all[i]-f) < math.Abs(all[band]-f) {
				band = i
			}
		}
		e.Gap = math.Max(0.01, s.M("link_gap"))
		for i := band; i < len(all)-1; i++ {
			if at := s.M(LinkID(i)); at > 0 && at < s.Radiator.M {
				e.Open = append(e.Open, at)
			}
		}
	case "doublet":
		line := s.balanced("window-450")
		e.Line, e.LineLength, e.TransformsFrom = &line, s.M("line_length"), 4
	case "j-pole":
		line := s.balanced("twin-300")
		e.Line, e.Matching = &line, Matching{Stub: s.M("stub"), Tap: s.M("tap")}
	case "end-fed-loaded":
		coil := circuit.Coil{Former: s.size("coil_former", 0.04), Wire: s.size("coil_wire", 0.001)}
		coil.Pitch = coil.Wire * 1.15
		e.At, e.Henries = s.M("coil_at"), s.N("coil_uh", 0)*1e-6
		if n, ok := coil.TurnsFor(e.Henries); ok && e.Henries > 0 {
			// With the capacitance between its turns beside it the coil goes on working at and above its own resonance.
			coil.Turns = n
			e.Ohms, e.Across = coil.Resistance(f)/realQ, coil.SelfCapacitance()
		}
	case "loaded-whip", "whip-pair":
		x, coil := s.loadedParts(&Plan{})
		e.At, e.Diameter, e.Knob = x.lower, 2*x.uppers, "coil"
		e.Henries = math.Max(x.reactance(f), 0) / (2 * math.Pi * f)
		e.Ohms = 2 * math.Pi * f * e.Henries / 150
		if n, ok := tapFor(coil, f, e.Henries); ok {
			part := coil
			part.Turns, part.Length = n, coil.Winding()*n/coil.Turns
			e.Ohms, _ = coilLoss(part, f)
		}
	case "helix":
		d, turns := s.M("helix_diameter"), s.N("helix_turns", 0)
		w, _ := s.kind()
		if l := s.Radiator.M; l > 0 && d > 0 && turns > 0 {
			// The wave on it is that of the slow-wave factor: the wire's own inductance is raised to match.
			v := HelixFactor(turns/l, d, Light/f)
			own := Average(l, d/2) / Light
			e.SpreadHenries, e.Diameter = own*(1/(v*v)-1), d
			wound := math.Hypot(turns*math.Pi*(d+2*w.Outer), l)
			e.SpreadOhms = circuit.SkinResistance(f, wound, w.Radius, circuit.CopperResistivity) / l
		}
	case "whip":
		e.Diameter, e.Knob, e.Longest = s.M("whip_radius"), "length", s.M("whip_full")
		if e.Diameter == 0 {
			e.Diameter = 0.008
		}
	case "small-loop":
		l := s.ring()
		e.Diameter, e.Knob = 2*l.Tube, "capacitor"
		e.At, e.Farads, e.Ohms = s.Radiator.M/2, l.Capacitance(f), l.ESR
	}
	return e
}

// TapImpedance is the impedance in ohms at the tap of a matching section whose open end carries a load.
func TapImpedance(line circuit.Coax, f float64, load complex128, m Matching) complex128 {
	below, _ := line.InputZ(1e-6, f, m.Tap)
	above, _ := line.InputZ(load, f, m.Stub-m.Tap)
	return 1 / (1/below + 1/above)
}

// Kind is the wire that it is made of.
func (s Shape) Kind() Wire { w, _ := s.kind(); return w }

// With is the shape with one of its lengths set, by the field's ID.
func (s Shape) With(id string, l quantity.Length) Shape {
	s = s.copied()
	if p := s.length(id); p != nil {
		*p = l
	} else {
		s.Put(id, l)
	}
	return s
}

// Size is a length in metres by its field's ID.
func (s Shape) Size(id string) float64 {
	if p := s.length(id); p != nil {
		return p.M
	}
	return s.M(id)
}
