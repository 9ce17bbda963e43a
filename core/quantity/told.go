package quantity

// Told is a length in metres in a sentence that is not bound to a reader yet: it prints in metres, and In his units when
// he is known.
type Told struct {
	M     float64
	print func(System, float64) string
}

// Long, Fine, Exact, Rough and Whole tell a length as the System's methods of these names print it.
func Long(m float64) Told  { return Told{m, System.Long} }
func Fine(m float64) Told  { return Told{m, System.Fine} }
func Exact(m float64) Told { return Told{m, System.Exact} }
func Rough(m float64) Told { return Told{m, System.Rough} }
func Whole(m float64) Told { return Told{m, System.Whole} }

// In prints it in somebody's units.
func (t Told) In(units System) string { return t.print(units, t.M) }

// String prints it in metres.
func (t Told) String() string { return t.In(SI) }
