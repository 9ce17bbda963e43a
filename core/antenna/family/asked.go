package family

import (
	"fmt"

	"reed/core/antenna"
	"reed/core/entry"
)

// What families ask for in common.

func askFor(help string) entry.Field {
	return entry.Field{ID: "for", Label: "Frequencies", Kind: entry.Frequencies, Unit: "MHz", Help: help, Must: true, Only: "plan",
		Sends: true}
}

// leastWire is the shortest radiator in metres, thinnest the least diameter of anything: nothing computes with none.
const (
	leastWire = 0.05
	thinnest  = 1e-4
	highest   = 150 // metres: kites and cliffs
)

func askLength(id, label string, most float64) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Length, Max: most}
}

// askRadiator is a radiating length that is not asked for by everyone.
func askRadiator(id, label string, most float64) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Length, Min: leastWire, Max: most}
}

func askBuilt(id, label string) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Length, Min: leastWire, Max: antenna.LongestWire, Only: "built", Must: true}
}

func askSize(id, label, help string, most float64) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Size, Unit: "mm", Help: help, Min: thinnest, Max: most}
}

func askAmount(id, label, unit string, lo, hi float64) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Amount, Unit: unit, Min: lo, Max: hi}
}

func askCount(id, label string, most float64) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Count, Max: most}
}

func planOnly(f entry.Field) entry.Field { f.Only = "plan"; return f }

func withHelp(f entry.Field, help string) entry.Field { f.Help = help; return f }

var (
	askFeed    = askLength("feed_height", "Feed height", highest)
	askFar     = askLength("far_height", "Far end height", highest)
	askPole    = askLength("pole_height", "Pole", highest)
	askRod     = withHelp(askLength(antenna.Rod, "Earth rod in the soil", 3), "how deep; none if left empty")
	askBearing = entry.Field{ID: "bearing", Label: "Bearing", Kind: entry.Amount, Unit: "degrees", Max: 360}
	askApex    = entry.Field{ID: "apex_angle", Label: "Angle between legs", Kind: entry.Amount, Unit: "degrees", Min: 30, Max: 180}
)

func askTurns() []entry.Field {
	return []entry.Field{askCount("primary_turns", "Transformer turns", 240), askCount("secondary_turns", "to turns", 240)}
}

func askCounterpoise() []entry.Field {
	return []entry.Field{askCount("counterpoise_count", "Counterpoise wires", 24), askLength("counterpoise_length", "Counterpoise", 50),
		func() entry.Field {
			f := askLength("counterpoise_height", "Its far end, height", 20)
			f.Only = "built"
			return f
		}(), askRod}
}

func askRadials(s antenna.Shape) []entry.Field {
	out := []entry.Field{
		askCount("radials_count", "Radials", 240), askLength("radials_length", "Radial length", 50),
		{ID: "directions", Label: "Radials towards", Kind: entry.Words, Unit: "degrees", Help: "all round if left empty; like 0 90 200"},
	}
	if s.Raised() {
		out = append(out, askLength("radials_height", "Radial ends, height", 20))
	} else {
		out = append(out, entry.Field{ID: "radials_lie", Label: "They lie", Kind: entry.Choice,
			Options: []entry.Option{{ID: "spread", Name: "spread out"}, {ID: heap, Name: "in a heap at the foot"}}}, askRod)
	}
	// Further sets, each of a length of its own, as many as there are and one more.
	for i := 2; i <= mostSets; i++ {
		count, length := setID(i)
		label := "Further radials"
		if i > 2 {
			label = fmt.Sprintf("Further radials, set %d", i)
		}
		out = append(out, withHelp(askCount(count, label, 60), "of another length, as for another band"),
			askLength(length, "Their length", 50))
		if s.N(count, 0) == 0 {
			break
		}
	}
	return out
}

const (
	heap     = "heap" // radials that were not spread out
	mostSets = 5
)

// setID are the fields of a further set of radials.
func setID(i int) (count, length string) {
	return fmt.Sprintf("radials_count_%d", i), fmt.Sprintf("radials_length_%d", i)
}

// radialSets are all sets of radials that have any.
func radialSets(s antenna.Shape) []antenna.WireSet {
	var out []antenna.WireSet
	if s.Radials().Count > 0 {
		out = append(out, s.Radials())
	}
	for i := 2; i <= mostSets; i++ {
		count, length := setID(i)
		if n := int(s.N(count, 0)); n > 0 && s.M(length) > 0 {
			out = append(out, antenna.WireSet{Count: n, Length: s.Sizes[length], Height: s.Radials().Height})
		}
	}
	return out
}

// radialPieces are the radials of a cut list.
func radialPieces(r antenna.Request, s antenna.Shape) (out []antenna.Piece) {
	for i, x := range radialSets(s) {
		name := "radial"
		if i > 0 {
			name = fmt.Sprintf("radial, set %d", i+1)
		}
		out = append(out, piece(r, name, x.Count, x.Length.M, 1))
	}
	return out
}
