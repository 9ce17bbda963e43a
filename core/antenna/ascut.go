package antenna

import (
	"math"

	"reed/core/entry"
	"reed/core/quantity"
)

// AsCut is the plan's shape with the lengths that were told to be cut, as they hang before anything is trimmed: the
// electrical length and the trim margin, knots and solder not counted. It is what a record begins with.
func (p Plan) AsCut() Shape {
	s := p.Shape.copied()
	for _, f := range s.Fields("built") {
		if f.Kind != entry.Length {
			continue
		}
		if margin := p.margin(s.Size(f.ID)); margin > 0 {
			s = s.With(f.ID, quantity.Metres(math.Round((s.Size(f.ID)+margin)*1000)/1000))
		}
	}
	return s
}

// margin is the trim margin in metres of a length: that of the piece, or of the two pieces, that it is.
func (p Plan) margin(m float64) float64 {
	const same = 1e-4
	if m <= 0 {
		return 0
	}
	for _, a := range p.Pieces {
		if math.Abs(a.Electrical.M-m) < same {
			return a.Trim.M
		}
		if n := float64(a.Count); math.Abs(n*a.Electrical.M-m) < same {
			return n * a.Trim.M // as an element of two halves
		}
	}
	for i, a := range p.Pieces {
		for _, b := range p.Pieces[:i] {
			if math.Abs(a.Electrical.M+b.Electrical.M-m) < same {
				return a.Trim.M + b.Trim.M
			}
		}
	}
	return 0
}
