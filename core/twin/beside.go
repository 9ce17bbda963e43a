package twin

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"reed/core/antenna"
	"reed/core/band"
	"reed/core/quantity"
)

// Named is a set-up with the name that it goes by.
type Named struct {
	Name string
	Setup
}

// angles are elevations in degrees with what lies there: paths to far places, to those at a middling distance, and near
// ones by way of overhead.
var angles = []struct {
	degrees int
	says    string
}{{10, "far"}, {30, "medium distance"}, {70, "near"}}

// plain is by how many decibels two antennas have to differ for anybody to hear it through what the band does.
const plain = 1.0

// mostBands is on how many bands two antennas are laid beside each other.
const mostBands = 4

// Beside predicts two antennas on the bands that both have and compares them: how much of the radio's power
// reaches the sky, how steeply, and what goes towards far and near places.
func (e *Engine) Beside(ctx context.Context, a, b Named, o Options, done func(step, of int)) (Answer, error) {
	bands := shared(o, a.Setup, b.Setup)
	out := Answer{Tables: []antenna.Table{}}
	if len(bands) == 0 {
		out.Sentence = fmt.Sprintf("%s and %s share no band: the model has nothing to compare.", a.Name, b.Name)
		return out, nil
	}
	for i, name := range bands {
		one := o
		one.Band = name
		var at [2]Band
		for k, x := range []Named{a, b} {
			f, err := e.Forecast(ctx, x.Setup, one, nil)
			if err != nil {
				return Answer{}, fmt.Errorf("%s: %w", x.Name, err)
			}
			at[k] = f.Bands[0]
			out.Losses = append(out.Losses, Losses{name, x.Name, f.PowerW, at[k].Budget})
			if done != nil {
				done(2*i+k+1, 2*len(bands))
			}
		}
		if i == 0 {
			out.Sentence = strongerSays(a.Name, b.Name, at)
		}
		out.Tables = append(out.Tables, table(a.Name, b.Name, at))
	}
	return out, nil
}

// shared are the bands that both are for; one that was asked for comes first, whether they are for it or not.
func shared(o Options, a, b Setup) []string {
	in := func(s Setup) (out []string) {
		for _, f := range s.Built.All() {
			if name := band.Nearest(o.Region, f).Name; !slices.Contains(out, name) {
				out = append(out, name)
			}
		}
		return out
	}
	theirs := in(b)
	var out []string
	if o.Band != "" {
		out = append(out, o.Band)
	}
	for _, name := range in(a) {
		if slices.Contains(theirs, name) && name != o.Band {
			out = append(out, name)
		}
	}
	return out[:min(len(out), mostBands)]
}

// Toward is the gain in dBi at an elevation in degrees, in the direction in which most goes, with all that is lost on
// the way from the radio's socket.
func (b Band) Toward(degrees int) float64 {
	el := b.Pattern.Elevation
	i := degrees / 2
	if len(el) == 0 || i < 0 || i >= len(el) {
		return math.Inf(-1)
	}
	return math.Max(el[i], el[len(el)-1-i]) - b.lost()
}

// System returns the share of the power at the radio's socket that is radiated, as shown everywhere.
func (b Band) System() float64 { return b.Sky * b.through() }

// through is the share of the power at the socket that gets as far as the wires.
func (b Band) through() float64 { return math.Pow(10, -b.lost()/10) }

// lost returns the loss before the wires in dB.
func (b Band) lost() float64 {
	if len(b.Budget) == 0 {
		return 0
	}
	into := 1.0
	for _, s := range b.Budget {
		into *= math.Pow(10, -s.DB/10)
	}
	return 10 * math.Log10(math.Max(b.Sky, 1e-6)/math.Max(into, 1e-6))
}

// strongerSays says which of two antennas is plainly stronger, and in which direction.
func strongerSays(a, b string, at [2]Band) string {
	var says []string
	for k, name := range []string{a, b} {
		var more []string
		for _, x := range angles {
			if d := at[k].Toward(x.degrees) - at[1-k].Toward(x.degrees); d >= plain {
				more = append(more, fmt.Sprintf("%.0f dB more towards %s places", d, x.says))
			}
		}
		if len(more) > 0 {
			says = append(says, name+" sends "+strings.Join(more, " and "))
		}
	}
	if len(says) == 0 {
		return fmt.Sprintf("The model predicts no audible difference between %s and %s on %s: under %.0f dB at every angle.", a, b,
			band.Said(at[0].Name), plain)
	}
	return fmt.Sprintf("By the model, on %s: %s.", band.Said(at[0].Name), strings.Join(says, "; "))
}

func table(a, b string, at [2]Band) antenna.Table {
	t := antenna.Table{Title: "By the model on " + band.Said(at[0].Name), Columns: []string{"", a, b},
		Note: "Computed from what is recorded of both, in the strongest direction of each, with all losses from the radio on. " +
			"An estimate, not a measurement: 1 dB is not audible."}
	row := func(what string, of func(Band) string) {
		t.Rows = append(t.Rows, []string{what, of(at[0]), of(at[1])})
	}
	row("SWR at "+quantity.ToKHz(at[0].F)+" MHz", func(x Band) string { return x.Says })
	row("of the power radiated", func(x Band) string { return fmt.Sprintf("%.0f %%", 100*x.System()) })
	row("take-off", func(x Band) string { return fmt.Sprintf("%.0f°", math.Min(x.Pattern.TakeOff, 180-x.Pattern.TakeOff)) })
	for _, y := range angles {
		row(fmt.Sprintf("at %d°, %s", y.degrees, y.says), func(x Band) string { return fmt.Sprintf("%+.1f dBi", x.Toward(y.degrees)) })
	}
	return t
}
