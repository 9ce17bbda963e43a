package weigh

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"reed/core/band"
	"reed/core/onair"
	"reed/core/phrase"
)

// Readings of noise on two antennas are compared when they were taken so near in time: noise comes and goes with the hour.
const noiseWithin = 30 * time.Minute

// perSUnit is the variance of an S-unit of 6 dB that was read to the next whole one.
const perSUnit = 36.0 / 12

// noises pairs the noise floors that were read on two antennas, band by band: by how much more A brought. Each reading counts once.
func noises(notes []onair.Note, a, b []string) map[string]Verdict {
	var of [2]map[string][]onair.Note
	of[0], of[1] = map[string][]onair.Note{}, map[string][]onair.Note{}
	for _, n := range notes {
		for i, ids := range [][]string{a, b} {
			if n.Kind == onair.Noise && n.Value != nil && n.Band != "" && slices.Contains(ids, n.DeploymentID) {
				of[i][n.Band] = append(of[i][n.Band], n)
			}
		}
	}
	out := map[string]Verdict{}
	for name, list := range of[0] {
		others := slices.Clone(of[1][name])
		slices.SortStableFunc(list, func(x, y onair.Note) int { return x.At.Compare(y.At) })
		var diff []float64
		rounded := 0.0
		for _, n := range list {
			best, at := noiseWithin+1, -1
			for i, o := range others {
				if apart := n.At.Sub(o.At).Abs(); apart < best {
					best, at = apart, i
				}
			}
			if at < 0 || best > noiseWithin {
				continue
			}
			diff = append(diff, *n.Value-*others[at].Value)
			for _, x := range []onair.Note{n, others[at]} {
				if strings.HasPrefix(strings.ToLower(strings.TrimSpace(x.Text)), "s") {
					rounded += perSUnit
				}
			}
			others = slices.Delete(others, at, at+1)
		}
		if len(diff) == 0 {
			continue
		}
		v := Verdict{Band: name}
		v.byMeans(diff)
		if n := float64(len(diff)); v.Lo != nil { // what reading to whole S-units hides is not seen in how they differ
			mean := *v.DB
			half := math.Max((*v.Hi-*v.Lo)/2, quantile(n-1)*math.Sqrt(rounded)/n)
			lo, hi := mean-half, mean+half
			v.Lo, v.Hi = &lo, &hi
		}
		out[name] = v
	}
	return out
}

// Hearing is by how many decibels more over its noise A hears than B: by what it was heard stronger, since a path is as good both ways,
// less what it brought more of noise. Where nothing was sent with both, only the noise is given.
func Hearing(sent []Evidence, notes []onair.Note, a, b []string, one, other string) (e Evidence, ok bool) {
	floor := noises(notes, a, b)
	if len(floor) == 0 {
		return e, false
	}
	names := sortedKeys(floor)
	slices.SortFunc(names, longest)
	e = Evidence{Strength: "some", Hearing: true, Kind: "hearing, by the noise floor that was read on each"}
	var said []string
	for _, name := range names {
		n := floor[name]
		louder, by := one, *n.DB
		if by < 0 {
			louder, by = other, -by
		}
		said = append(said, fmt.Sprintf("On %s %s brings %.0f dB more noise, by %s.", band.Said(name), louder, by,
			phrase.Count(n.Receivers, "pair of readings")))
		for _, s := range sent {
			if s.Hearing {
				continue
			}
			i := slices.IndexFunc(s.Parts, func(v Verdict) bool { return v.Band == name && v.Lo != nil && v.InTurn })
			if i < 0 {
				continue
			}
			v := s.Parts[i]
			db := *v.DB - *n.DB
			heard := Verdict{Band: name, A: one, B: other, DB: &db, Receivers: n.Receivers, InTurn: true}
			if n.Lo != nil {
				lo, hi := db-math.Hypot(*v.DB-*v.Lo, *n.Hi-*n.DB), db+math.Hypot(*v.Hi-*v.DB, *n.DB-*n.Lo)
				heard.Lo, heard.Hi = &lo, &hi
			}
			heard.hears = true
			heard.Says = heard.sentence(one, other, "pair of readings", false)
			e.Parts = append(e.Parts, heard)
			said = append(said, heard.Says)
			if s.Simulated {
				e.Simulated = true
			}
			break
		}
	}
	if len(e.Parts) > 0 {
		e.Kind = "hearing, by what each sends, since a path is as good both ways, less the noise floor that was read on each"
		if e.Simulated {
			e.Kind += "; what was sent is simulated"
		}
	}
	e.Says = strings.Join(said, " ")
	return e, true
}
