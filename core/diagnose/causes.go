package diagnose

import (
	"fmt"
	"math"
	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/moment/earth"
	"reed/core/quantity"
	"reed/core/twin"
	"slices"
	"strconv"
	"strings"
)

// causes lists what may be the matter with a set-up.
func (x Subject) causes() []cause {
	out := []cause{{id: "recorded", title: "It is as recorded", check: "nothing to check",
		apply: func(s twin.Setup, _ float64) twin.Setup { return s }, say: plain("the model explains the sweep as it is")}}
	return slices.Concat(out, x.lengths(), x.windings(), x.wires(), x.heights(), x.counterpoises(), x.radials(), x.transformers(),
		x.soils(), x.surroundings(), x.feeds())
}

// scaled is a set-up with some of its lengths changed by a factor.
func scaled(s twin.Setup, by float64, fields ...string) twin.Setup {
	for _, id := range fields {
		if l := s.Built.M(id); l > 0 {
			s.Built.Put(id, quantity.Metres(l*by))
		}
	}
	return s
}

// wanted is the frequency in hertz that what is explained was made for.
func (x Subject) wanted() float64 { return x.Setup.Built.Wanted(math.Sqrt(x.Lo * x.Hi)) }

// lengths are causes by the tape. What is set by coil or capacitor is set for its frequency by the model, whatever its
// lengths: what differs is the setting, and where the dip is says which.
func (x Subject) lengths() (out []cause) {
	b := x.Setup.Built
	if set := family.Of(b.Shape).Electrics(x.wanted()).Knob; set == "coil" || set == "capacitor" {
		out = x.settings(x.wanted())
	} else {
		out = append(out, cause{id: "lengths", title: "All lengths are off", check: "measure every wire again with another tape",
			from: -0.09, to: 0.09,
			apply: func(s twin.Setup, v float64) twin.Setup {
				s = scaled(s, 1+v, family.Of(s.Built.Shape).Wires()...)
				if s.Built.FarHeight().Typed == "" && s.Built.Variant == "inverted-v" {
					s.Built.Put(antenna.FarHeight, quantity.Metres(math.Max(0.1,
						s.Built.FeedHeight().M-s.Built.Radiator().M*math.Cos(s.Built.ApexAngle()*math.Pi/360))))
				}
				return s
			},
			say: func(v float64) string {
				return fmt.Sprintf("every wire %.1f %% %s than recorded", 100*math.Abs(v), more(v))
			}})
	}
	if b.LegB().M > 0 {
		out = append(out, cause{id: "one-wire", title: "One leg is off", check: "lay both legs beside each other", from: -0.2, to: 0.2,
			apply: func(s twin.Setup, v float64) twin.Setup { return scaled(s, 1+v, "leg_b") },
			say: func(v float64) string {
				return fmt.Sprintf("one leg %s %s than the other", x.Units.Long(b.LegB().M*math.Abs(v)), more(v))
			}})
	}
	return out
}

// windings is the cause that a fixed coil or helix has another inductance than its recorded winding.
func (x Subject) windings() []cause {
	if !x.Setup.Wound() {
		return nil
	}
	return []cause{{id: "winding", title: "The winding is other than recorded", check: "count its turns, or measure its inductance",
		from: 0.7, to: 1.4,
		apply: func(s twin.Setup, v float64) twin.Setup { s.Winding = v; return s },
		say: func(v float64) string {
			return fmt.Sprintf("%.0f %% %s inductance", 100*math.Abs(v-1), moreOrLess(v-1))
		}}}
}

func moreOrLess(v float64) string {
	if v > 0 {
		return "more"
	}
	return "less"
}

// soils is the cause that the ground is of another kind than entered.
func (x Subject) soils() []cause {
	now, ok := earth.Kind(x.Setup.Ground)
	if !ok || x.Setup.Soil != nil {
		return nil
	}
	kinds := earth.Kinds()
	var others []float64
	for i, g := range kinds {
		if math.Abs(math.Log(g.Conductivity/now.Conductivity)) > 1.5 {
			others = append(others, float64(i))
		}
	}
	return []cause{{id: "soil", title: "The ground is another kind", check: "dig a hand's depth: is it wet, sandy, rock?", values: others,
		apply: func(s twin.Setup, v float64) twin.Setup { s.Ground = kinds[int(v)].ID; return s },
		say:   func(v float64) string { return "like " + lower(kinds[int(v)].Name) }}}
}

// wires are that it is made of another kind of wire, whose jacket slows the wave more or less.
func (x Subject) wires() []cause {
	b := x.Setup.Built
	if e := family.Of(b.Shape).Electrics(x.wanted()); e.Diameter > 0 {
		return nil
	}
	kinds, now := antenna.Wires(), b.Conductor()
	var others []float64
	for i, w := range kinds {
		if math.Abs(w.JacketFactor(5)/now.JacketFactor(5)-1) > 0.008 || math.Abs(math.Log(w.Radius/now.Radius)) > 0.7 {
			others = append(others, float64(i))
		}
	}
	if len(others) == 0 {
		return nil
	}
	return []cause{{id: "wire", title: "It is another kind of wire", check: "look at the jacket: how thick it is against the metal",
		values: others,
		apply: func(s twin.Setup, v float64) twin.Setup {
			s.Built.Wire, s.Built.WireData = kinds[int(v)].ID, nil
			return s
		},
		say: func(v float64) string { return "like " + kinds[int(v)].Name }}}
}

// radials are that one of them is not like the others.
func (x Subject) radials() []cause {
	b := x.Setup.Built
	n, length := b.Radials().Count, b.Radials().Length.M
	if n < 2 || n > 8 || length <= 0 || b.N("radials_count_2", 0) > 0 {
		return nil
	}
	return []cause{{id: "one-radial", title: "One radial is off", check: "lay the radials beside each other", from: -0.45, to: 0.45,
		apply: func(s twin.Setup, v float64) twin.Setup {
			if s.Built.W("directions", "") == "" { // each stays where it lies
				ways := make([]string, n)
				for i := range ways {
					ways[i] = strconv.FormatFloat(360*float64(i)/float64(n), 'f', 3, 64)
				}
				s.Built.PutWord("directions", strings.Join(ways, " "))
			}
			s.Built.PutNumber(antenna.RadialsCount, float64(n-1))
			s.Built.PutNumber("radials_count_2", 1)
			s.Built.Put("radials_length_2", quantity.Metres(length*(1+v)))
			return s
		},
		say: func(v float64) string {
			return fmt.Sprintf("one radial %s %s than the others", x.Units.Long(length*math.Abs(v)), more(v))
		}}}
}

// heights are that it hangs elsewhere.
func (x Subject) heights() (out []cause) {
	b, length := x.Setup.Built, x.Units.Long
	if !b.Earthed() && !family.Of(b.Shape).Electrics(x.wanted()).Coupled {
		out = append(out, cause{id: "height", title: "It hangs at another height", check: "measure how high the ends are", from: 0.35, to: 1.9,
			apply: func(s twin.Setup, v float64) twin.Setup {
				shift := s.Built.FeedHeight().M * (v - 1)
				if s.Built.FeedHeight().M < 2 && s.Built.FarHeight().M > 2 { // fed near the ground: the far end is what hangs
					return scaled(s, v, "far_height", "pole_height")
				}
				s.Built.Put(antenna.FeedHeight, quantity.Metres(s.Built.FeedHeight().M+shift))
				if s.Built.FarHeight().M > 0 {
					s.Built.Put(antenna.FarHeight, quantity.Metres(math.Max(0.1, s.Built.FarHeight().M+shift)))
				}
				if s.Built.Radials().Height.M > 0 {
					s.Built.Put(antenna.RadialsHeight, quantity.Metres(math.Max(0.1, s.Built.Radials().Height.M+shift)))
				}
				return s
			},
			say: func(v float64) string {
				h := math.Max(b.FeedHeight().M, b.FarHeight().M)
				return fmt.Sprintf("about %s up instead of %s", length(math.Round(h*v*10)/10), length(h))
			}})
	}
	return out
}

// counterpoises returns causes of another counterpoise than the recorded one.
func (x Subject) counterpoises() (out []cause) {
	b, length := x.Setup.Built, x.Units.Long
	if family.Of(b.Shape).Feeding() == family.Counterpoise && b.Counterpoise().Count > 0 {
		out = append(out, cause{id: "no-counterpoise", title: "The counterpoise is not connected", check: "follow the counterpoise to its clip",
			apply: func(s twin.Setup, _ float64) twin.Setup {
				s.Built.PutNumber(antenna.CounterpoiseCount, 0)
				return s
			}, say: plain("as if it hung loose")})
		out = append(out, cause{id: "long-counterpoise", title: "Something longer acts as counterpoise",
			check: "clip a choke on the coax and sweep again", from: 1.6, to: 8,
			apply: func(s twin.Setup, v float64) twin.Setup { return scaled(s, v, "counterpoise_length") },
			say: func(v float64) string {
				return fmt.Sprintf("about %s of it: the coax, most likely", length(b.Counterpoise().Length.M*v))
			}})
	}
	return out
}

// transformers are all others of the usual ones.
func (x Subject) transformers() (out []cause) {
	b := x.Setup.Built
	if b.Primary() > 0 && b.Secondary() > 0 {
		ratio := math.Pow(float64(b.Secondary())/float64(b.Primary()), 2)
		var others []float64
		for _, r := range []float64{4, 9, 16, 25, 36, 49, 64, 81} {
			if math.Abs(r/ratio-1) > 0.1 {
				others = append(others, r)
			}
		}
		out = append(out, cause{id: "transformer", title: "The transformer ratio differs from the record", check: "read or count its turns",
			values: others, apply: func(s twin.Setup, v float64) twin.Setup {
				s.Built.PutNumber(antenna.SecondaryTurns, float64(int(math.Round(float64(s.Built.Primary())*math.Sqrt(v)))))
				return s
			}, say: func(v float64) string { return fmt.Sprintf("like 1:%.0f", v) }})
	}
	return out
}

// surroundings returns causes beside the antenna: metal near it, and a choke that does not work.
func (x Subject) surroundings() (out []cause) {
	b, length := x.Setup.Built, x.Units.Long
	if b.Choke.Place != "" && b.Coax.Length.M > 0 {
		out = append(out, cause{id: "no-choke", title: "The choke does not choke", check: "hold the coax, or move it: does the dip move?",
			apply: func(s twin.Setup, _ float64) twin.Setup { s.Built.Choke.Place = ""; return s },
			say:   plain("the coax's outside is part of the antenna")})
	}
	if b.Choke.Place == "" && b.Coax.Length.M == 0 && family.Of(b.Shape).Feeding() != family.Aside {
		out = append(out, cause{id: "coax", title: "The coax is part of the antenna",
			check: "clip a choke on the coax at the feed and sweep again", from: 4, to: 22,
			apply: func(s twin.Setup, v float64) twin.Setup {
				s.Built.Coax = deployment.Coax{Length: quantity.Metres(v)}
				return s
			}, say: func(v float64) string { return fmt.Sprintf("as if some %s of it were a wire", length(math.Round(v))) }})
	}
	out = append(out, cause{id: "metal", title: "A metal pole stands beside it",
		check: "look for metal upright within a few metres, or move the feed a step", from: 0.15, to: 2.5,
		apply: func(s twin.Setup, v float64) twin.Setup {
			s.Built.Metal = append(append([]deployment.Metal(nil), s.Built.Metal...), deployment.Metal{What: "mast", Distance: quantity.Metres(v)})
			return s
		}, say: func(v float64) string { return fmt.Sprintf("some %s away", length(math.Round(v*10)/10)) }})
	return out
}

// feeds are faults of plug and cable, which bend the curve whatever the antenna does.
func (x Subject) feeds() (out []cause) {
	if x.AtRadio {
		out = append(out, cause{id: "cable", title: "The cable loses more than its data say",
			check: "short its far end and sweep: the return loss is twice its loss", from: 0.2, to: 6,
			bend: func(g complex128, v float64) complex128 { return g * complex(math.Pow(10, -v/10), 0) },
			say:  func(v float64) string { return fmt.Sprintf("about %.1f dB more", v) }})
	}
	out = append(out,
		cause{id: "open", title: "The feed is open", check: "an ohmmeter across the feed",
			bend: func(complex128, float64) complex128 { return 0.98 }, say: plain("nothing is connected behind the plug")},
		cause{id: "short", title: "The feed is shorted", check: "an ohmmeter across the feed",
			bend: func(complex128, float64) complex128 { return -0.98 }, say: plain("the plug or the feed is shorted")})
	return out
}
