package earth

import (
	"cmp"
	"context"
	"maps"
	"math"
	"math/cmplx"
	"slices"
	"sync"

	"gonum.org/v1/gonum/floats"

	"reed/core/numeric"
)

// Table holds the kernels of a ground at one or several frequencies near each other, as smooth coefficients of
// exp(-jkR)/R over the distance R from the image and the angle above the horizon. What they are at rest is known and
// stands apart; the rest vanishes with R, nearer than the first row in step with it, and stays farther than the last as
// it is there. It is read by cubic interpolation, within 0.1 % of the image.
type Table struct {
	k     []float64 // of the air, 1/m, evenly apart
	soil  float64
	still []complex128
	// By R times the first k, then by angle, then by frequency: XX and Charge, of which two level currents need no more, and
	// ZZ and ZX.
	level, upright []float64
}

// sheet is the table of one frequency, by kR and then by angle.
type sheet []node

// node is the real and imaginary parts of the rest of XX and Charge, and of ZZ and ZX over the cosine of the angle.
type node [8]float64

const (
	angles  = 16 // crowded towards the horizon
	rows    = 75
	nearest = 0.001 // of kR
	farther = 50.0
)

// place is the coordinate of a kR: its logarithm while near, and steps that grow with its root where
// the ground's own wave beats against that in the air.
func place(kr float64) float64 {
	return 0.5*math.Log(kr/nearest) + 1.9*(math.Sqrt(kr)-math.Sqrt(nearest))
}

var rowStep = place(farther) / (rows - 1)

// reach is the kR of a row: place turned round by Newton's method.
func reach(row int) float64 {
	kr := 1.0
	for range 60 {
		kr = math.Max(kr-(place(kr)-rowStep*float64(row))/(0.5/kr+0.95/math.Sqrt(kr)), kr/4)
	}
	return kr
}

// rise is the sine of a column's angle above the horizon.
func rise(i int) float64 {
	t := float64(i) / (angles - 1)
	return t * t
}

// sheets are those of several grounds or frequencies, worked out together.
func sheets(ctx context.Context, all []Wave) ([]sheet, error) {
	unit, out := make(grounds, len(all)), make([]sheet, len(all))
	for i, w := range all {
		unit[i], out[i] = Wave{K: 1, N2: w.N2}, make(sheet, rows*angles)
	}
	return out, numeric.Share(ctx, rows, func(row int) {
		row = rows - 1 - row // the longest first
		r := reach(row)
		for a := range angles {
			s := rise(a)
			switch a {
			case 0:
				s = 3e-4 // the horizon itself is no place of a wire above ground
			case angles - 1:
				s = 1 - 1e-7 // straight up ZX vanishes: kept is what it is over the cosine
			}
			c := math.Sqrt(1 - s*s)
			for i, k := range unit.reflect(r*c, r*s) {
				still := unit[i].still()
				k = Kernel{}.plus(k, r).turned(cmplx.Exp(complex(0, r)))
				k.ZZ -= 2 * still
				k.Charge += still
				k.ZX = k.ZX*complex(1/c, 0) + still*complex(1/(1+s), 0)
				out[i][row*angles+a] = node{real(k.XX), imag(k.XX), real(k.Charge), imag(k.Charge), real(k.ZZ), imag(k.ZZ), real(k.ZX), imag(k.ZX)}
			}
		}
	})
}

// gathered lays the sheets of frequencies evenly apart over the distances of the first one's rows.
func gathered(waves []Wave, sheets []sheet) *Table {
	n := len(waves)
	t := &Table{level: make([]float64, rows*angles*4*n), upright: make([]float64, rows*angles*4*n)}
	for j, w := range waves {
		t.k, t.still, t.soil = append(t.k, w.K), append(t.still, w.still()), math.Max(t.soil, w.soil())
		for i := range rows {
			row, weights, near := rowAt(reach(i) * w.K / waves[0].K)
			for a := range angles {
				at := (i*angles+a)*4*n + 4*j
				for p, weight := range weights {
					from := &sheets[j][(row+p)*angles+a]
					floats.AddScaled(t.level[at:at+4], near*weight, from[:4])
					floats.AddScaled(t.upright[at:at+4], near*weight, from[4:])
				}
			}
		}
	}
	return t
}

// rowAt is the first of the four rows around a kR, their weights, and what nearer than the first the rest has left.
func rowAt(kr float64) (row int, weights [4]float64, near float64) {
	x := math.Min(math.Max(place(kr)/rowStep, 0), rows-1)
	row = min(max(int(x)-1, 0), rows-4)
	return row, cubic(x - float64(row) - 1), math.Min(1, kr/nearest)
}

// cubic gives the four weights of Lagrange's cubic at u between the second and third of four even points.
func cubic(u float64) [4]float64 {
	return [4]float64{-u * (u - 1) * (u - 2) / 6, (u + 1) * (u - 1) * (u - 2) / 2, -(u + 1) * u * (u - 2) / 2, (u + 1) * u * (u - 1) / 6}
}

// Still is how a charge at rest is reflected, by frequency: the images near are -Still of a charge, 2 Still of an upright current and
// none of a level one, and -Still cos/(1+sin) is ZX, each times exp(-jkR)/R.
func (t *Table) Still() []complex128 { return t.still }

// Soil is the size of the wave number in the soil, in 1/m.
func (t *Table) Soil() float64 { return t.soil }

// At reads the kernel of the first frequency at a horizontal distance and a sum of heights in metres.
func (t *Table) At(rho, height float64) Kernel {
	var out Kernels
	t.All(rho, height, false, &out)
	return out.At[0]
}

// Kernels are those at as many frequencies as a table may have, with room to read them in: it is made once for many.
type Kernels struct {
	At             [Most]Kernel
	rows           [4 * 4 * Most]float64
	level, upright [4 * Most]float64
}

// Most is at how many frequencies a table can be.
const Most = 3

// All reads the kernels of all frequencies. Of two level currents XX and Charge are all that counts: ZZ and ZX stay 0.
func (t *Table) All(rho, height float64, level bool, out *Kernels) {
	r := math.Sqrt(rho*rho + height*height)
	e, step := t.turns(r)
	t.rest(rho, height, r, level, e, step, out)
	tilt := complex(rho/(r+height), 0)
	for j, still := range t.still {
		image := still * e
		e *= step
		out.At[j].Charge -= image
		if !level {
			out.At[j].ZZ += 2 * image
			out.At[j].ZX -= image * tilt
		}
	}
}

// turns is exp(-jkR)/R of the first frequency, and by what it turns from each to the next.
func (t *Table) turns(r float64) (first, step complex128) {
	s, c := math.Sincos(-t.k[0] * r)
	first = complex(c/r, s/r)
	if len(t.k) > 1 {
		s, c = math.Sincos((t.k[0] - t.k[1]) * r)
		step = complex(c, s)
	}
	return first, step
}

// Rest is All without what the kernels are at rest.
func (t *Table) Rest(rho, height float64, level bool, out *Kernels) {
	r := math.Sqrt(rho*rho + height*height)
	e, step := t.turns(r)
	t.rest(rho, height, r, level, e, step, out)
}

// rest is that with what turns to each frequency at a distance.
func (t *Table) rest(rho, height, r float64, level bool, e, step complex128, out *Kernels) {
	i, wx, near := rowAt(r * t.k[0])
	y := math.Sqrt(height/r) * (angles - 1)
	j := min(max(int(y)-1, 0), angles-4)
	wy := cubic(y - float64(j) - 1)
	out.between(t.level, 4*len(t.k), i, j, wx, wy, &out.level)
	if !level {
		out.between(t.upright, 4*len(t.k), i, j, wx, wy, &out.upright)
	}
	e *= complex(near, 0)
	for m := range t.k {
		a, b := out.level[4*m:4*m+4], out.upright[4*m:4*m+4]
		out.At[m] = Kernel{XX: complex(a[0], a[1]) * e, Charge: complex(a[2], a[3]) * e}
		if !level {
			out.At[m].ZZ, out.At[m].ZX = complex(b[0], b[1])*e, complex(b[2]*rho/r, b[3]*rho/r)*e
		}
		e *= step
	}
}

// between reads n numbers a place of a grid between four rows from i on and four angles from j on.
func (k *Kernels) between(grid []float64, n, i, j int, wx, wy [4]float64, out *[4 * Most]float64) {
	rows, sum := k.rows[:4*n], out[:n]
	for p, w := range wx {
		at := ((i+p)*angles + j) * n
		if from := grid[at : at+4*n]; p == 0 {
			floats.ScaleTo(rows, w, from)
		} else {
			floats.AddScaled(rows, w, from)
		}
	}
	for q, w := range wy {
		if from := rows[q*n : (q+1)*n]; q == 0 {
			floats.ScaleTo(sum, w, from)
		} else {
			floats.AddScaled(sum, w, from)
		}
	}
}

// Tables keeps what was computed of grounds, for every frequency: between steps of three fifths in frequency
// the coefficients, over kR, are interpolated by a cubic in its logarithm. The zero value is ready; it may be
// used by many at once. A ground's table takes about 75 kB a step.
type Tables struct {
	mu    sync.Mutex
	steps map[step]*kept
}

type step struct {
	permittivity, conductivity float64
	n                          int
}

type kept struct {
	mu    sync.Mutex
	sheet sheet
}

const (
	octave   = 1.6
	tableMHz = 1e6
)

// At is the table of a ground at frequencies in hertz evenly apart, at most so many as a table can have.
func (t *Tables) At(ctx context.Context, g Ground, all ...float64) (*Table, error) {
	if err := t.Ready(ctx, []Ground{g}, all...); err != nil {
		return nil, err
	}
	waves, sheets := make([]Wave, len(all)), make([]sheet, len(all))
	for j, f := range all {
		waves[j], sheets[j] = g.At(f), make(sheet, rows*angles)
		n, weights := around(g, f)
		for p, weight := range weights {
			if weight == 0 {
				continue
			}
			for i, from := range t.step(stepOf(g, n+p)).sheet {
				for m, v := range from {
					sheets[j][i][m] += weight * v
				}
			}
		}
	}
	return gathered(waves, sheets), nil
}

// around is the first of the four steps around a frequency, and their weights.
func around(g Ground, f float64) (n int, weights [4]float64) {
	if g.Conductivity == 0 {
		return 0, [4]float64{1} // the same at every frequency
	}
	x := math.Log(f/tableMHz) / math.Log(octave)
	n = int(math.Floor(x)) - 1
	return n, cubic(x - float64(n) - 1)
}

func stepOf(g Ground, n int) step { return step{g.Permittivity, g.Conductivity, n} }

// step is the stored form of one.
func (t *Tables) step(key step) *kept {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.steps == nil {
		t.steps = map[step]*kept{}
	}
	k := t.steps[key]
	if k == nil {
		k = &kept{}
		t.steps[key] = k
	}
	return k
}

// Ready computes what is missing for frequencies of grounds in hertz: together it is several times quicker than one by one.
func (t *Tables) Ready(ctx context.Context, grounds []Ground, all ...float64) error {
	wanted := map[step]Ground{}
	for _, g := range grounds {
		for _, f := range all {
			n, weights := around(g, f)
			for p, weight := range weights {
				if weight != 0 {
					wanted[stepOf(g, n+p)] = g
				}
			}
		}
	}
	var missing []*kept
	var waves []Wave
	inOrder := func(a, b step) int { // one for all, so that no two wait for each other
		return cmp.Or(cmp.Compare(a.permittivity, b.permittivity), cmp.Compare(a.conductivity, b.conductivity), cmp.Compare(a.n, b.n))
	}
	for _, key := range slices.SortedFunc(maps.Keys(wanted), inOrder) {
		k := t.step(key)
		k.mu.Lock()
		if k.sheet != nil {
			k.mu.Unlock()
			continue
		}
		defer k.mu.Unlock()
		missing, waves = append(missing, k), append(waves, wanted[key].At(tableMHz*math.Pow(octave, float64(key.n))))
	}
	if len(missing) == 0 {
		return nil
	}
	done, err := sheets(ctx, waves)
	if err != nil {
		return err
	}
	for i, k := range missing {
		k.sheet = done[i]
	}
	return nil
}

// Table computes a table of frequencies in hertz evenly apart. It stops when asked.
func (g Ground) Table(ctx context.Context, all ...float64) (*Table, error) {
	waves := make([]Wave, len(all))
	for j, f := range all {
		waves[j] = g.At(f)
	}
	done, err := sheets(ctx, waves)
	if err != nil {
		return nil, err
	}
	return gathered(waves, done), nil
}
