package phrase

import "fmt"

// Raising says what stands between a set-up and its record: figures that cannot be, figures that are unlikely, dangers
// that were not looked at, and how many revisions there are.
type Raising struct{ Wrong, Asked, Open, Revisions int }

// Headline says the first of them.
func (r Raising) Headline() string {
	switch {
	case r.Wrong > 0:
		return "One of these values is impossible."
	case r.Asked > 0:
		return "One value is unlikely: check it again."
	case r.Open > 0:
		return Count(float64(r.Open), "safety check") + " before you raise it."
	case r.Revisions == 0:
		return "The dimensions are consistent. Save, then measure SWR."
	}
	return fmt.Sprintf("Recorded as r%d. Update what changed, and say why.", r.Revisions)
}
