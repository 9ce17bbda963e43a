package weigh

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Bridge is an antenna that took turns with each of two others on other occasions, or a station that was heard beside each: what the air
// says of each of the two against it, band by band.
type Bridge struct {
	Reference string
	A, B      []Verdict
	Station   bool // it is no antenna but another station, that the same receivers heard
}

// across is the difference of two by what both differ from a third: differences are taken from each other, and their intervals put
// together side by side (Zou and Donner 2008).
func across(ac, bc Verdict) (v Verdict, ok bool) {
	if ac.DB == nil || bc.DB == nil || ac.Lo == nil || bc.Lo == nil || !ac.InTurn || !bc.InTurn {
		return v, false
	}
	db := *ac.DB - *bc.DB
	lo := db - math.Hypot(*ac.DB-*ac.Lo, *bc.Hi-*bc.DB)
	hi := db + math.Hypot(*ac.Hi-*ac.DB, *bc.DB-*bc.Lo)
	v = Verdict{Band: ac.Band, A: ac.A, B: bc.A, DB: &db, Lo: &lo, Hi: &hi, Receivers: min(ac.Receivers, bc.Receivers),
		SlotsA: ac.SlotsA, SlotsB: bc.SlotsA, Reports: ac.Reports + bc.Reports, InTurn: true, OnlyA: ac.OnlyA, OnlyB: bc.OnlyA}
	return v, true
}

// together weighs estimates of one difference by their variances.
func together(of []Verdict) Verdict {
	v := of[0]
	if len(of) == 1 {
		return v
	}
	sum, weights, receivers := 0.0, 0.0, 0
	for _, x := range of {
		w := 1 / x.variance()
		sum, weights, receivers = sum+w**x.DB, weights+w, receivers+x.Receivers
	}
	db, half := sum/weights, 1.96/math.Sqrt(weights)
	lo, hi := db-half, db+half
	v.DB, v.Lo, v.Hi, v.Receivers = &db, &lo, &hi, receivers
	return v
}

// ByReference compares two antennas that never took turns, through others that took turns with each. Nothing of days and
// hours is in it, but the reference has to have been the same antenna.
func ByReference(a, b string, of []Bridge) (e Evidence, ok bool) {
	byBand := map[string][]Verdict{}
	var by []string
	for _, bridge := range of {
		used := false
		for _, x := range bridge.A {
			for _, y := range bridge.B {
				if x.Band != y.Band {
					continue
				}
				if v, ok := across(x, y); ok {
					byBand[x.Band], used = append(byBand[x.Band], v), true
				}
			}
		}
		if used {
			by = append(by, bridge.Reference)
		}
	}
	names := sortedKeys(byBand)
	slices.SortFunc(names, func(x, y string) int { // all first
		if (x == "") != (y == "") {
			if x == "" {
				return -1
			}
			return 1
		}
		return longest(x, y)
	})
	for _, name := range names {
		v := together(byBand[name])
		v.A, v.B, v.Minutes = a, b, map[string]*float64{"1": nil, "2": nil, "3": nil}
		v.Says = v.sentence(a, b, "receiver", false)
		e.Parts = append(e.Parts, v)
	}
	if len(e.Parts) == 0 {
		return e, false
	}
	slices.Sort(by)
	e.Strength = "some"
	e.Kind = fmt.Sprintf("by a reference, %s, that took turns with each on other occasions", strings.Join(by, " and "))
	holds := " That holds if the reference was the same antenna each time."
	if of[0].Station {
		e.Kind = fmt.Sprintf("by a reference station, %s, that was heard beside each on other occasions", strings.Join(by, " and "))
		holds = " That holds if it sent from the same antenna each time."
	}
	e.Says = sentenceOf(e.Parts[0], e.Parts[1:]) + holds
	return e, true
}
