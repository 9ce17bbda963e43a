package twin

import (
	"math"
	"math/cmplx"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/circuit"
	"reed/core/kit"
)

// Socket holds what is between the wires and the radio at one frequency: Z at the radio's socket in ohms,
// and the losses in dB on the way, the last ones nearest to the wires. Tuned says that a tuner makes the match.
type Socket struct {
	Z      complex128
	Stages []circuit.Stage
}

// chain carries an impedance at the wires to the radio's socket.
type chain struct {
	setup    Setup
	electric antenna.Electric
	couple   float64 // ohms that the loop shows at resonance, which its coupling is set for
}

// unit is the tuner that is taken when none is described.
var unit = circuit.Unit{Kind: "T", LMin: 0.05e-6, LMax: 25e-6, CMin: 15e-12, CMax: 500e-12, QL: 100, QC: 1000}

// feed is the impedance that the coax, or the tuner, sees, and the loss in dB up to the wires.
func (c chain) feed(f float64, z complex128) (complex128, []circuit.Stage) {
	e := c.electric
	switch {
	case e.Line != nil && e.Matching.Stub == 0:
		in, through := e.Line.InputZ(z, f, e.LineLength)
		return in / complex(e.TransformsFrom, 0), []circuit.Stage{{Name: "open line", DB: -10 * math.Log10(through), Why: e.Line.Name}}
	case e.Line != nil:
		_, through := e.Line.InputZ(z, f, e.Matching.Stub-e.Matching.Tap)
		return antenna.TapImpedance(*e.Line, f, z, e.Matching), []circuit.Stage{{Name: "matching section", DB: -10 * math.Log10(through)}}
	case e.Coupled:
		return e.Link.Seen(f, z, c.couple), nil
	case e.TransformsFrom != 1:
		t, own := c.transformer()
		s := circuit.Stage{Name: "transformer", DB: t.Loss(f, z), Why: c.setup.Built.Ratio() + " on a " + t.Core.Name}
		if own != nil {
			s.Why = own.Name
			if db, how := own.Loss(f, z); how != "" {
				s.DB, s.Why = db, own.Name+", "+how
			}
		}
		return t.Input(f, z), []circuit.Stage{s}
	}
	return z, nil
}

// transformer is the recorded one, where its core is described and its turns are still those of the set-up,
// and otherwise the one that is taken for turns whose core is not recorded; own is nil then.
func (c chain) transformer() (t circuit.Transformer, own *kit.Part) {
	core, _ := circuit.CoreNamed("nizn850-36")
	b := c.setup.Built
	if x := c.setup.Inside; x != nil {
		return *x, nil
	}
	if p, ok := b.Own["transformer"]; ok {
		if t, described := p.Transformer(); described && int(t.Primary) == b.Primary() && int(t.Secondary) == b.Secondary() {
			return t, &p
		}
	}
	// Of a transformer that nobody described the ratio is known, and about what it loses; not what it adds in reactance.
	return circuit.Transformer{Core: core, Primary: float64(b.Primary()), Secondary: float64(b.Secondary()), Stack: 1, Compensated: true}, nil
}

// tuner is the recorded one, or the usual.
func (c chain) tuner() (circuit.Unit, string) {
	if p, ok := c.setup.Built.Own["tuner"]; ok {
		if u, described := p.Unit(); described {
			return u, p.Name
		}
	}
	return unit, "T of 25 uH and 500 pF, coil Q 100"
}

// tuned reports whether the set-up works through a tuner: its family is meant to, or one is recorded.
func tuned(s Setup) bool {
	_, own := s.Built.Own["tuner"]
	return own || family.Of(s.Built.Shape).Trims() == family.NoTrim
}

// Socket carries an impedance at the wires up to the radio. With budget it also counts the losses, for which
// a tuner is set where the family wants one.
func (c chain) Socket(f float64, z complex128, budget bool) Socket {
	at, stages := c.feed(f, z)
	out := Socket{Z: at}
	cable, known := c.setup.Built.Coax.Cable()
	length := c.setup.Built.Coax.Length.M
	if known && length > 0 {
		in, through := cable.InputZ(at, f, length)
		out.Z = in
		stages = append([]circuit.Stage{{Name: "coax", DB: -10 * math.Log10(through), Why: cable.Name}}, stages...)
	}
	if !budget {
		return out
	}
	gamma := cmplx.Abs(circuit.Gamma(out.Z, 50))
	if tuned(c.setup) {
		u, name := c.tuner()
		set, ok, why := u.Match(out.Z, f)
		s := circuit.Stage{Name: "tuner", DB: set.Loss, Why: name}
		if !ok {
			s.DB, s.Why = -10*math.Log10(math.Max(1-sq(circuit.Magnitude(set.SWR)), 1e-3)), name+", not matched: "+why
		}
		stages = append([]circuit.Stage{s}, stages...)
	} else {
		stages = append([]circuit.Stage{{Name: "mismatch", DB: -10 * math.Log10(math.Max(1-gamma*gamma, 1e-3)),
			Why: "power that the radio gets back"}}, stages...)
	}
	out.Stages = stages
	return out
}
