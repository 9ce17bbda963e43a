package antenna

import (
	"fmt"
	"math"

	"reed/core/quantity"
)

// Onsite is what to measure on the spot, so that the record is that of what stands there: the feed point, and how far
// from under it and how high wires, strings and poles end. Ends that are alike are counted.
func (d Drawing) Onsite(imperial bool) []string {
	say := func(m float64) string {
		if imperial {
			return quantity.Imperial(m, 4)
		}
		return quantity.Metric(m, 10)
	}
	out := []string{"feed point " + say(d.Feed[2]) + " up"}
	names := map[string]string{"radiator": "wire's end", "counterpoise": "counterpoise's end", "radial": "radial's end", "string": "string tied"}
	count := map[string]int{}
	var order []string
	add := func(text string) {
		if count[text] == 0 {
			order = append(order, text)
		}
		count[text]++
	}
	for i, l := range d.Lines {
		away := math.Hypot(l.To[0]-d.Feed[0], l.To[1]-d.Feed[1])
		if l.Role == "pole" && away > 0.3 {
			add("pole's foot " + say(away) + " from under the feed point")
		}
		name, ok := names[l.Role]
		if !ok || d.goesOn(i) {
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

// goesOn reports whether another line of the same role begins where one ends, as at a bend.
func (d Drawing) goesOn(i int) bool {
	for k, l := range d.Lines {
		if k != i && l.Role == d.Lines[i].Role && distance(l.From, d.Lines[i].To) < 0.01 {
			return true
		}
	}
	return false
}
