package antenna

import "math"

// Law is how a setting answers to a frequency: Of(setting, hz) = a + b Against(hz), where a and b are known
// beforehand to be about Mean with the standard deviations Spread. Settings are in metres or in the dial's own
// counts and lie between Lo and Hi; Of rises or falls all the way. Read is how well a setting is read off, Rough
// by how much Of scatters beyond that. A Local law holds within one band only. In a Joint law Against depends on the other lengths of
// the shape, so that marks with other lengths count too.
type Law struct {
	Of           func(setting, hz float64) float64
	Against      func(hz float64) float64
	Mean, Spread [2]float64
	Lo, Hi       float64
	// Top is the most at a frequency up to which Of rises or falls, where that is less than Hi; nil where it does all the way.
	Top         func(hz float64) float64
	Read, Rough float64
	Local       bool
	Joint       bool
}

// Most is the largest setting that is asked for at a frequency.
func (l Law) Most(hz float64) float64 {
	if l.Top == nil {
		return l.Hi
	}
	return math.Max(math.Min(l.Hi, l.Top(hz)), l.Lo)
}
