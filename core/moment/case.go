package moment

import (
	"context"
	"fmt"
	"math"
	"math/cmplx"

	"reed/core/circuit"
	"reed/core/moment/earth"
	"reed/core/numeric"
)

// Case is a model as it is written in a file: metres, z up, ground at z = 0, wires joined where their ends
// coincide, places along a wire from 0 to 1.
type Case struct {
	Frequencies []float64    `json:"frequencies_mhz"`
	Ground      CaseGround   `json:"ground"`
	Wires       []CaseWire   `json:"wires"`
	Feed        CaseSpot     `json:"feed"`
	Loads       []CaseLoad   `json:"loads"`
	Density     float64      `json:"segments_per_wavelength"`
	NearField   [][3]float64 `json:"near_field"`
	PowerW      float64      `json:"power_w"`
}

// CaseGround is free, perfect or real; only a real one has properties.
type CaseGround struct {
	Kind         string  `json:"kind"`
	Permittivity float64 `json:"permittivity"`
	Conductivity float64 `json:"conductivity"`
}

// CaseWire is a straight wire; its metal is copper or perfect.
type CaseWire struct {
	From       [3]float64 `json:"from"`
	To         [3]float64 `json:"to"`
	RadiusMM   float64    `json:"radius_mm"`
	Conductor  string     `json:"conductor"`
	Insulation *struct {
		Permittivity float64 `json:"permittivity"`
		OuterMM      float64 `json:"outer_mm"` // radius
	} `json:"insulation"`
}

// CaseSpot is a place on a wire. At its end it sits in the junction there.
type CaseSpot struct {
	Wire int     `json:"wire"`
	At   float64 `json:"at"`
}

// CaseLoad is a lumped load, its parts in series or in parallel.
type CaseLoad struct {
	CaseSpot
	R    float64 `json:"r_ohm"`
	L    float64 `json:"l_uh"`
	C    float64 `json:"c_pf"`
	Kind string  `json:"kind"`
}

// Prediction is the answer at one frequency. Efficiency is the share of the input that reaches the sky:
// what is not lost in metal and loads, and over a real ground the power in the far field.
type Prediction struct {
	MHz         float64 `json:"frequency_mhz"`
	R           float64 `json:"r_ohm"`
	X           float64 `json:"x_ohm"`
	SWR         float64 `json:"swr_50"`
	Efficiency  float64 `json:"efficiency"`
	GainMax     float64 `json:"gain_max_dbi"`
	Elevation   float64 `json:"gain_max_elevation_deg"`
	Azimuth     float64 `json:"gain_max_azimuth_deg"`
	AverageGain float64 `json:"average_gain"`
	Unknowns    int     `json:"unknowns"`
	Seconds     float64 `json:"seconds"`
	Near        []Field `json:"near_field,omitempty"`
}

// Field is the field at a point: the root of the sum of the squares of its three components' effective
// values, in V/m and A/m, at the case's power.
type Field struct {
	At [3]float64 `json:"at"`
	E  float64    `json:"e_v_per_m"`
	H  float64    `json:"h_a_per_m"`
}

// Model is the case for the solver. Errors name what cannot be read.
func (c Case) Model() (Model, error) {
	m := Model{Ground: c.Ground.Kind, Density: c.Density, Earth: earth.Ground{Permittivity: c.Ground.Permittivity,
		Conductivity: c.Ground.Conductivity}}
	if m.Ground == "" {
		m.Ground = Free
	}
	if c.Density < 0 || c.Density > 2000 {
		return m, fmt.Errorf("segments_per_wavelength: %g found; expected up to 2000", c.Density)
	}
	for i, w := range c.Wires {
		out := Wire{From: w.From, To: w.To, Radius: w.RadiusMM / 1000}
		switch w.Conductor {
		case "copper":
			out.Resistivity = circuit.CopperResistivity
		case "perfect", "":
		default:
			return m, wireError(i, "its conductor is %q; expected copper or perfect", w.Conductor)
		}
		if w.Insulation != nil {
			out.Permittivity, out.Outer = w.Insulation.Permittivity, w.Insulation.OuterMM/1000
			if out.Permittivity < 1 || out.Outer < out.Radius {
				return m, wireError(i, "its insulation of permittivity %g and outer radius %g mm does not enclose it", out.Permittivity,
					w.Insulation.OuterMM)
			}
		}
		m.Wires = append(m.Wires, out)
	}
	m.Sources = []Source{{Spot: Spot(c.Feed), Volts: 1}}
	for i, l := range c.Loads {
		if l.Kind != "series" && l.Kind != "parallel" && l.Kind != "" {
			return m, fmt.Errorf("load %d: %q found; expected series or parallel", i, l.Kind)
		}
		m.Loads = append(m.Loads, Load{Spot: Spot(l.CaseSpot), R: l.R, L: l.L * 1e-6, C: l.C * 1e-12, Shunt: l.Kind == "parallel"})
	}
	return m, nil
}

// fine is the density in segments to a wavelength at which a case that is small enough is solved if it does not say one.
const fine = 120

// Predict solves a case at one frequency in MHz.
func (c Case) Predict(ctx context.Context, mhz float64) (Prediction, error) {
	m, err := c.Model()
	if err != nil {
		return Prediction{}, err
	}
	if c.Density == 0 && m.about(mhz*1e6, fine) < 300 {
		m.Density = fine
	}
	s, err := Solve(ctx, m, mhz*1e6)
	if err != nil {
		return Prediction{}, err
	}
	p := Prediction{MHz: mhz, R: real(s.Z), X: imag(s.Z), Unknowns: s.Unknowns, AverageGain: s.Average(), Efficiency: s.Radiated()}
	p.SWR = circuit.SWR(cmplx.Abs(circuit.Gamma(s.Z, 50)))
	if m.Ground == Real {
		p.Efficiency = p.AverageGain
	}
	el, az, gain := s.Strongest()
	p.GainMax, p.Elevation, p.Azimuth = 10*math.Log10(gain), el*180/math.Pi, math.Mod(az*180/math.Pi+360, 360)
	if len(c.NearField) > 0 {
		points := make([]Vec, len(c.NearField))
		for i, at := range c.NearField {
			points[i] = at
		}
		power := c.PowerW
		if power == 0 {
			power = 1
		}
		if p.Near, err = s.Near(ctx, points, power); err != nil {
			return Prediction{}, err
		}
	}
	return p, nil
}

// Strongest is the direction of the highest gain, in radians, and that gain as a ratio: a grid of three and
// six degrees, closed in on.
func (s *Solution) Strongest() (elevation, azimuth, gain float64) {
	lo := -90
	if s.model.mirror() {
		lo = 0
	}
	type found struct{ e, a, gain float64 }
	best := make([]found, (90-lo)/3+1)
	_ = numeric.Share(s.ctx, len(best), func(i int) {
		e := float64(lo+3*i) * math.Pi / 180
		ring := s.ring(s.points, e)
		for d := 0; d < 360 && s.ctx.Err() == nil; d += 6 {
			a := float64(d) * math.Pi / 180
			if g := ring.gain(a); g > best[i].gain*(1+1e-9) {
				best[i] = found{e, a, g}
			}
		}
	})
	for _, b := range best {
		if b.gain > gain*(1+1e-9) {
			elevation, azimuth, gain = b.e, b.a, b.gain
		}
	}
	for step := 0.03; step > 0.0005 && s.ctx.Err() == nil; step /= 2 {
		e0, a0 := elevation, azimuth
		for _, d := range [][2]float64{{step, 0}, {-step, 0}, {0, step}, {0, -step}} {
			e := math.Min(math.Max(e0+d[0], float64(lo)*math.Pi/180), math.Pi/2)
			if g := s.Gain(e, a0+d[1]); g > gain {
				elevation, azimuth, gain = e, a0+d[1], g
			}
		}
	}
	return elevation, azimuth, gain
}

// Near is the field at points when the sources give a power in watts, from the potentials and their
// differences over a hundredth of the distance to the nearest wire.
func (s *Solution) Near(ctx context.Context, points []Vec, powerW float64) ([]Field, error) {
	near := nearby{s: s, k: 2 * math.Pi * s.F / numeric.Light, scale: complex(math.Sqrt(powerW/s.Input), 0)}
	if s.model.Ground == Real {
		for _, p := range points {
			if p[2] <= 0 {
				return nil, fmt.Errorf("a point at %g m is not above the ground", p[2])
			}
		}
		var err error
		if near.table, err = s.model.table(ctx, s.F); err != nil {
			return nil, err
		}
	}
	out := make([]Field, len(points))
	failed := make([]error, len(points))
	err := numeric.Share(ctx, len(points), func(i int) {
		p, distance := points[i], math.Inf(1)
		for n := range s.mesh.segs {
			for _, sg := range s.mesh.segs[n].each() {
				t := math.Max(0, math.Min(1, p.sub(sg.from).dot(sg.u)/sg.h))
				distance = math.Min(distance, p.sub(sg.from.to(sg.to, t)).length())
			}
		}
		if distance < 1e-6 {
			failed[i] = fmt.Errorf("a point at %v m lies on a wire", p)
			return
		}
		out[i] = near.field(p, math.Min(distance/100, 0.002*numeric.Light/s.F))
	})
	for _, err := range append(failed, err) {
		if err != nil {
			return nil, err
		}
	}
	return out, nil
}

// nearby holds the inputs of the near-field sums: its wave number, the currents' scale, the ground's table.
type nearby struct {
	s     *Solution
	k     float64
	scale complex128
	table *earth.Table
	read  *earth.Kernels // room to read the table in
}

// potential is the vector potential over mu0 and the scalar one times eps0, both times 4 pi.
type potential struct {
	a   [3]complex128
	phi complex128
}

// field is that at a point, from the potentials' differences over a step in metres.
func (n nearby) field(p Vec, step float64) Field {
	omega := 2 * math.Pi * n.s.F
	n.read = new(earth.Kernels)
	here := n.at(p)
	var grad [3]complex128
	var da [3][3]complex128 // derivative of component j along axis i
	for axis := range 3 {
		var d Vec
		d[axis] = step
		ahead, behind := n.at(p.add(d)), n.at(p.sub(d))
		grad[axis] = (ahead.phi - behind.phi) / complex(2*step, 0)
		for j := range 3 {
			da[axis][j] = (ahead.a[j] - behind.a[j]) / complex(2*step, 0)
		}
	}
	e2, h2 := 0.0, 0.0
	for j := range 3 {
		e := -complex(0, omega*numeric.Mu0/(4*math.Pi))*here.a[j] - grad[j]/complex(4*math.Pi*numeric.Eps0, 0)
		e2 += real(e*cmplx.Conj(e)) / 2
		n, l := (j+1)%3, (j+2)%3
		h := (da[n][l] - da[l][n]) / complex(4*math.Pi, 0)
		h2 += real(h*cmplx.Conj(h)) / 2
	}
	return Field{At: p, E: math.Sqrt(e2), H: math.Sqrt(h2)}
}

// at sums the potentials of all wires at a point.
func (n nearby) at(r Vec) (out potential) {
	omega := 2 * math.Pi * n.s.F
	for i := range n.s.mesh.segs {
		sg := &n.s.mesh.segs[i]
		share := n.scale * complex(sg.share(), 0)
		from, to := n.s.ends[i][0]*share, n.s.ends[i][1]*share
		charge := -(to - from) / complex(sg.h, 0) / complex(0, omega)
		for _, one := range sg.each() {
			n.along(&out, r, &one, from, to, charge)
		}
	}
	return out
}

// along adds what a segment does at r, its current going from one value to another.
func (n nearby) along(out *potential, r Vec, sg *segment, from, to, charge complex128) {
	nearest := math.Max(r.sub(sg.from.to(sg.to, 0.5)).length()-sg.h/2, sg.h/40)
	pieces, rule := min(40, max(1, int(math.Ceil(1.5*sg.h/nearest)))), gauss3
	switch {
	case nearest > 8*sg.h:
		rule = gauss1
	case nearest > 2*sg.h:
		rule = gauss2
	}
	for i := range pieces {
		for j, x0 := range rule.X {
			x := (float64(i) + x0) / float64(pieces)
			weight := complex(rule.W[j]*sg.h/float64(pieces), 0)
			n.add(out, r, sg, sg.from.to(sg.to, x), (from+(to-from)*complex(x, 0))*weight, charge*weight)
		}
	}
}

// add adds what a current c and a charge rho at q on a segment do at r, with their mirror images or by the ground's
// table.
func (n nearby) add(out *potential, r Vec, sg *segment, q Vec, c, rho complex128) {
	kernel := func(at Vec) complex128 {
		away := r.sub(at)
		d := math.Sqrt(away.dot(away) + sg.a*sg.a)
		sin, cos := math.Sincos(-n.k * d)
		return complex(cos/d, sin/d)
	}
	g := kernel(q)
	for axis := range 3 {
		out.a[axis] += c * g * complex(sg.u[axis], 0)
	}
	out.phi += rho * g
	switch n.s.model.Ground {
	case Perfect:
		g, u := kernel(q.mirrored()), sg.u.mirrored()
		for axis := range 3 {
			out.a[axis] -= c * g * complex(u[axis], 0)
		}
		out.phi -= rho * g
	case Real:
		dx, dy := r[0]-q[0], r[1]-q[1]
		flat := math.Hypot(dx, dy)
		n.table.All(flat, r[2]+q[2], false, n.read)
		kern := &n.read.At[0]
		out.a[0] += c * kern.XX * complex(sg.u[0], 0)
		out.a[1] += c * kern.XX * complex(sg.u[1], 0)
		out.a[2] += c * kern.ZZ * complex(sg.u[2], 0)
		if flat > 0 {
			out.a[2] += c * kern.ZX * complex((sg.u[0]*dx+sg.u[1]*dy)/flat, 0)
			out.a[0] -= c * kern.ZX * complex(sg.u[2]*dx/flat, 0)
			out.a[1] -= c * kern.ZX * complex(sg.u[2]*dy/flat, 0)
		}
		out.phi += rho * kern.Charge
	}
}
