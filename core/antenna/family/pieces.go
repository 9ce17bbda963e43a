package family

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"reed/core/antenna"
	"reed/core/phrase"
	"reed/core/quantity"
)

func ohms(z complex128) string {
	x := imag(z)
	if math.Abs(x) < 0.5 {
		x = 0
	}
	sign := "+"
	if x < 0 {
		sign = "-"
	}
	plain := func(v float64) string { return strconv.FormatFloat(two(v), 'f', -1, 64) }
	return fmt.Sprintf("%s %sj%s ohm", plain(real(z)), sign, plain(math.Abs(x)))
}

// two rounds to two significant digits, which is all that closed forms are worth.
func two(v float64) float64 { return quantity.Digits(v, 2) }

// title is how many of what a piece is.
func title(name string, n int) string {
	if n == 1 {
		return "1 " + name
	}
	name, which, of := strings.Cut(name, ", ")
	switch {
	case of:
		return title(name, n) + ", " + which
	case strings.Contains(name, " "):
		return fmt.Sprintf("%d × %s", n, name)
	}
	return fmt.Sprintf("%d %ss", n, name)
}

// say prints a length in the reader's system, to the centimetre or sixteenth.
func say(r antenna.Request, m float64) string { return r.Units.Long(m) }

// fine prints a short length to the millimetre or thirty-second.
func fine(r antenna.Request, m float64) string { return r.Units.Fine(m) }

// piece adds up one line of the cut list; knots is the number of tied ends.
func piece(r antenna.Request, name string, count int, electrical float64, knots int) antenna.Piece {
	knot := r.Knot.M
	if r.Knot.IsZero() {
		knot = 0.08
	}
	p := antenna.Piece{Name: name, Title: title(name, count), Of: "wire", Count: count, Electrical: quantity.Metres(electrical),
		Trim: quantity.Metres(electrical * r.TrimPercent / 100), Allowances: []antenna.Allowance{}}
	cut := electrical + p.Trim.M
	if knots > 0 {
		p.Allowances = append(p.Allowances, allow(fmt.Sprintf("knot or loop, %d", knots), quantity.Metres(knot*float64(knots))))
		cut += knot * float64(knots)
	}
	p.Allowances = append(p.Allowances, allow("solder at the feed", quantity.Metres(0.02)))
	p.Cut = quantity.Metres(cut + 0.02)
	return p
}

// exact is a piece that is cut as it is, with what is lost at its ends.
func exact(name, of string, count int, length float64, allowances ...antenna.Allowance) antenna.Piece {
	p := antenna.Piece{Name: name, Title: title(name, count), Of: of, Count: count, Electrical: quantity.Metres(length),
		Allowances: []antenna.Allowance{}}
	cut := length
	for _, a := range allowances {
		p.Allowances = append(p.Allowances, a)
		cut += a.Length.M
	}
	p.Cut = quantity.Metres(cut)
	return p
}

// school is one answer to a question on which practitioners disagree.
func school(question, way, figures, says string) antenna.School {
	return antenna.School{Question: question, Way: way, Figures: figures, Says: says}
}

// figure is one computed number with what it came from.
func figure(label, value, why string) phrase.Figure {
	return phrase.Figure{Label: label, Value: value, Why: why}
}

// estimate is a figure by a closed form that the forecast replaces once it is there.
func estimate(label, value, why string) phrase.Figure {
	return phrase.Figure{Label: label, Value: value, Why: why, Estimate: true}
}

// allow is wire that is cut but does not radiate as length.
func allow(name string, length quantity.Length) antenna.Allowance {
	return antenna.Allowance{Name: name, Length: length}
}

// aLittle is a length in metres by which one tells how sensitive something is, and its name for the reader.
func aLittle(r antenna.Request) (metres float64, name string) {
	if r.Units == quantity.FeetInches {
		return quantity.Inch, "1 in"
	}
	return 0.01, "1 cm"
}
