package antenna

import (
	"math"

	"reed/core/circuit"
	"reed/core/numeric"
)

// Electric holds the parts that a solver needs at one frequency beside the lines of a layout. Coil and capacitor
// sit At metres along each radiator from the feed; Spread is what a winding over the whole radiator adds to a
// metre of it.
type Electric struct {
	At            float64
	Henries, Ohms float64 // of the coil
	Across        float64 // farads between its turns
	Farads        float64 // of the capacitor; Ohms are then its own
	SpreadHenries float64 // per metre, from SpreadFrom metres on
	SpreadFrom    float64
	SpreadOhms    float64
	Diameter      float64    // of the radiator when it is no wire, in metres
	Wire          *Wire      // that the radiator is made of, where it is not the wire that was chosen
	Rods          []Rodding  // of a radiator whose diameter changes, from the feed outwards; Diameter is then its thickest
	Uncertain     [2]float64 // shares of Ohms between which the coil's loss lies, zero where nothing is known of it
	Knob          string     // what is set to bring it to a frequency: "coil", "capacitor", "length", none when it is cut
	Longest       float64    // that a length may be set to
	Open          []float64
	Gap           float64 // of an open link
	Line          *circuit.Coax
	LineLength    float64
	Matching      Matching
	// Together says that every wire which starts at the feed is fed there, Coupled that it is fed by a coupling loop.
	Together, Coupled bool
	Link              Link
	Span              float64 // share of the frequency to either side within which it works, 0 for a whole band
	Near              []Line  // metal that it hangs along
	NearSays          string
	TransformsFrom    float64 // turns ratio squared between radio and feed, 1 without a transformer
}

// Link is a coupling loop: the henries that it shares with the loop, and its own. Of one that is not recorded nothing is
// known but that it was squeezed until the radio saw 50 ohm.
type Link struct{ Mutual, Own float64 }

// Seen returns the impedance that the radio sees through it of a loop of so many ohms, at f hertz. The loop's capacitor is
// taken to be turned to the lowest SWR: where the link's own reactance shows, that is a little beside the loop's resonance, where it has
// resistance ohms.
func (l Link) Seen(f float64, z complex128, resistance float64) complex128 {
	if l.Mutual == 0 {
		return complex(50*resistance, 0) / z
	}
	omega := 2 * math.Pi * f
	seen := func(z complex128) complex128 {
		return complex(math.Pow(omega*l.Mutual, 2), 0)/z + complex(0, omega*l.Own)
	}
	beside, _ := numeric.Golden(func(x float64) (float64, error) {
		return SWR50(seen(complex(resistance, x))), nil
	}, 0, 3*resistance, 0.01*resistance)
	return seen(z + complex(0, beside))
}

// Rodding is a part of a radiator of one diameter in metres, up to so many metres from the feed.
type Rodding struct{ To, Diameter float64 }

// Tapered are the parts of a rod from one length to another from the feed, of sections alike in length whose diameter
// falls evenly from the lowest to the top.
func Tapered(from, to, bottom, top float64, sections int) []Rodding {
	out := make([]Rodding, 0, sections)
	for i := range sections {
		share := 0.5
		if sections > 1 {
			share = float64(i) / float64(sections-1)
		}
		out = append(out, Rodding{from + (to-from)*float64(i+1)/float64(sections), bottom + (top-bottom)*share})
	}
	return out
}

// TapImpedance is the impedance in ohms at the tap of a matching section whose open end carries a load.
func TapImpedance(line circuit.Coax, f float64, load complex128, m Matching) complex128 {
	below, _ := line.InputZ(1e-6, f, m.Tap)
	above, _ := line.InputZ(load, f, m.Stub-m.Tap)
	return 1 / (1/below + 1/above)
}

// Conductor is the wire that it is made of.
func (s Shape) Conductor() Wire { w, _ := s.WireKind(); return w }

// Matching is a shorted section of line that feeds a high resistance at its open end: length of the
// section and height of the 50 ohm tap above the short, in metres.
type Matching struct{ Stub, Tap float64 }

// OpenLine puts an open line of a length in metres between the wires and the feed.
func (e *Electric) OpenLine(c circuit.Coax, length float64) { e.Line, e.LineLength = &c, length }
