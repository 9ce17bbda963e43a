package antenna

import (
	"fmt"
	"math"

	"reed/core/quantity"
)

// Onsite lists what to measure on site, so that the record matches the antenna: the feed point, and how far
// from under it and how high wires, strings and poles end. Ends that are alike are counted.
func (d Drawing) Onsite(units quantity.System) []string {
	say := units.Long
	out := []string{"feed point " + say(d.Feed[2]) + " up"}
	names := map[string]string{"radiator": "wire's end", "counterpoise": "counterpoise's end", "radial": "radial's end",
		"string": "string tied"}
	count := map[string]int{}
	var order []string
	add := func(text string) {
		if count[text] == 0 {
			order = append(order, text)
		}
		count[text]++
	}
	begins := d.begins()
	for _, l := range d.Lines {
		away := math.Hypot(l.To[0]-d.Feed[0], l.To[1]-d.Feed[1])
		if l.Role == "pole" && away > 0.3 {
			add("pole's foot " + say(away) + " from under the feed point")
		}
		name, ok := names[l.Role]
		if !ok || begins[jointAt(l.Role, l.To)] > 0 {
			continue
		}
		text := fmt.Sprintf("%s %s up", name, say(math.Max(0, l.To[2])))
		if away > 0.05 {
			text += fmt.Sprintf(", %s from under the feed point", say(away))
		}
		add(text)
	}
	for _, text := range order {
		if n := count[text]; n > 1 {
			text = fmt.Sprintf("%d times: %s", n, text)
		}
		out = append(out, text)
	}
	return out
}

// joint is a place to the millimetre, for the lines of one role.
type joint struct {
	role    string
	x, y, z int64
}

func jointAt(role string, p Point) joint {
	mm := func(m float64) int64 { return int64(math.Round(m * 1000)) }
	return joint{role, mm(p[0]), mm(p[1]), mm(p[2])}
}

// begins counts the lines that begin at each joint, so that one can ask of every line whether another goes on
// where it ends, as at a bend.
func (d Drawing) begins() map[joint]int {
	out := map[joint]int{}
	for _, l := range d.Lines {
		out[jointAt(l.Role, l.From)]++
	}
	return out
}
