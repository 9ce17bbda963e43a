// Package phrase puts what core advises into words: actions, verdicts and what to expect, in the reader's units and in
// one grammar. Whoever judges returns the values that are defined here, and no text.
package phrase

import (
	"fmt"
	"math"
	"strings"

	"reed/core/quantity"
)

// Words are a judgement as it is read: a headline that says what to do, and what it follows from.
type Words struct {
	Headline string `json:"headline"`
	Detail   string `json:"detail"`
}

// Figure is one number as it is shown: what it is, its value, and a word on where it comes from.
type Figure struct {
	Label string `json:"label"`
	Value string `json:"value"`
	Why   string `json:"why,omitempty"`
	// Estimate says that it is a closed form's, and steps back once the forecast is there.
	Estimate bool `json:"estimate,omitempty"`
}

// Count prints how many there are of a thing: "1 turn", "2 turns", "2.5 turns", "3 pairs of days".
func Count[N int | float64](n N, thing string) string {
	if n == 1 {
		return "1 " + thing
	}
	if one, of, found := strings.Cut(thing, " of "); found {
		return fmt.Sprintf("%v %ss of %s", n, one, of)
	}
	return fmt.Sprintf("%v %ss", n, thing)
}

// Sentence begins with a capital.
func Sentence(text string) string {
	if text == "" {
		return ""
	}
	return strings.ToUpper(text[:1]) + text[1:]
}

// mhz prints hertz in megahertz to a step in hertz.
func mhz(hz, step float64) string { return quantity.MHz(math.Round(hz/step) * step) }
