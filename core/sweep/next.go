package sweep

// Swept is how far an antenna is on one band: whether it was swept, and how many per cent of the own
// segments are good by the newest sweep.
type Swept struct {
	Band     string
	Wanted   bool
	Measured bool
	Coverage float64
}

// Next is the wanted band that is looked at when the present one is left as it is: the first that was not swept, or else
// the first that is not good throughout; none when all are.
func Next(now string, bands []Swept) string {
	for _, open := range []func(Swept) bool{
		func(b Swept) bool { return !b.Measured },
		func(b Swept) bool { return b.Coverage < whole },
	} {
		for _, b := range bands {
			if b.Wanted && b.Band != now && open(b) {
				return b.Band
			}
		}
	}
	return ""
}
