package earth

import (
	"context"
	"math"
	"math/cmplx"
	"sync"

	"reed/core/numeric"
)

// Table holds the kernels of a ground at one frequency, as smooth coefficients of exp(-jkR)/R over kR
// and the angle above the horizon, R being the distance from the image. What they are at rest is known and stands
// apart; the rest vanishes with R, nearer than the first row in step with it, and stays farther than the last as it is
// there. It is read by cubic interpolation, within 0.1 % of the image.
type Table struct {
	k     float64
	soil  float64
	still complex128
	grid  []node // by kR, then by angle
}

// node is the real and imaginary parts of the rest of XX, ZZ, Charge, and of ZX over the cosine of the angle.
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

// Table computes a table. It stops when asked.
func (w Wave) Table(ctx context.Context) (*Table, error) {
	unit := Wave{K: 1, N2: w.N2}
	still := w.still()
	t := &Table{k: w.K, soil: w.soil(), still: still, grid: make([]node, rows*angles)}
	err := numeric.Share(ctx, rows, func(i int) {
		r := reach(i)
		for a := range angles {
			s := rise(a)
			switch a {
			case 0:
				s = 3e-4 // the horizon itself is no place of a wire above ground
			case angles - 1:
				s = 1 - 1e-7 // straight up ZX vanishes: kept is what it is over the cosine
			}
			c := math.Sqrt(1 - s*s)
			k := Kernel{}.plus(unit.Reflect(r*c, r*s), r).turned(cmplx.Exp(complex(0, r)))
			k.ZZ -= 2 * still
			k.Charge += still
			k.ZX = k.ZX*complex(1/c, 0) + still*complex(1/(1+s), 0)
			t.grid[i*angles+a] = node{real(k.XX), imag(k.XX), real(k.ZZ), imag(k.ZZ), real(k.Charge), imag(k.Charge), real(k.ZX), imag(k.ZX)}
		}
	})
	return t, err
}

// cubic gives the four weights of Lagrange's cubic at u between the second and third of four even points.
func cubic(u float64) [4]float64 {
	return [4]float64{-u * (u - 1) * (u - 2) / 6, (u + 1) * (u - 1) * (u - 2) / 2, -(u + 1) * u * (u - 2) / 2, (u + 1) * u * (u - 1) / 6}
}

// Still is how a charge at rest is reflected: the images near are -Still of a charge, 2 Still of an upright current and
// none of a level one, and -Still cos/(1+sin) is ZX, each times exp(-jkR)/R.
func (t *Table) Still() complex128 { return t.still }

// Soil is the size of the wave number in the soil, in 1/m.
func (t *Table) Soil() float64 { return t.soil }

// At reads the kernel at a horizontal distance and a sum of heights in metres.
func (t *Table) At(rho, height float64) Kernel {
	out := t.Rest(rho, height)
	r := math.Sqrt(rho*rho + height*height)
	s, c := math.Sincos(-t.k * r)
	image := t.still * complex(c/r, s/r)
	out.ZZ += 2 * image
	out.Charge -= image
	out.ZX -= image * complex(rho/(r+height), 0)
	return out
}

// Rest is the kernel without what it is at rest.
func (t *Table) Rest(rho, height float64) Kernel {
	r := math.Sqrt(rho*rho + height*height)
	x := math.Min(math.Max(place(r*t.k)/rowStep, 0), rows-1)
	near := math.Min(1, r*t.k/nearest)
	y := math.Sqrt(height/r) * (angles - 1)
	i := min(max(int(x)-1, 0), rows-4)
	j := min(max(int(y)-1, 0), angles-4)
	wx, wy := cubic(x-float64(i)-1), cubic(y-float64(j)-1)
	var sum node
	for p := range 4 {
		row := t.grid[(i+p)*angles+j : (i+p)*angles+j+4]
		for q := range 4 {
			w, n := wx[p]*wy[q], &row[q]
			for m := range sum {
				sum[m] += w * n[m]
			}
		}
	}
	s, c := math.Sincos(-t.k * r)
	turn := complex(near*c/r, near*s/r)
	return Kernel{complex(sum[0], sum[1]) * turn, complex(sum[2], sum[3]) * turn, complex(sum[4], sum[5]) * turn,
		complex(sum[6]*rho/r, sum[7]*rho/r) * turn}
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
	table *Table
}

const (
	octave   = 1.6
	tableMHz = 1e6
)

// At is the table of a ground at f hertz.
func (t *Tables) At(ctx context.Context, g Ground, f float64) (*Table, error) {
	x := math.Log(f/tableMHz) / math.Log(octave)
	n := int(math.Floor(x)) - 1
	if g.Conductivity == 0 {
		n, x = 0, 1 // the same at every frequency
	}
	weights := cubic(x - float64(n) - 1)
	w := g.At(f)
	out := &Table{k: w.K, soil: w.soil(), still: w.still(), grid: make([]node, rows*angles)}
	for p := range 4 {
		if weights[p] == 0 {
			continue
		}
		k, err := t.step(ctx, g, n+p)
		if err != nil {
			return nil, err
		}
		for i := range k.grid {
			for m, v := range k.grid[i] {
				out.grid[i][m] += weights[p] * v
			}
		}
	}
	return out, nil
}

func (t *Tables) step(ctx context.Context, g Ground, n int) (*Table, error) {
	key := step{g.Permittivity, g.Conductivity, n}
	t.mu.Lock()
	if t.steps == nil {
		t.steps = map[step]*kept{}
	}
	k := t.steps[key]
	if k == nil {
		k = &kept{}
		t.steps[key] = k
	}
	t.mu.Unlock()
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.table == nil {
		table, err := g.At(tableMHz * math.Pow(octave, float64(n))).Table(ctx)
		if err != nil {
			return nil, err
		}
		k.table = table
	}
	return k.table, nil
}
