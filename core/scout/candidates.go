package scout

import (
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/entry"
	"reed/core/kit"
	"reed/core/quantity"
	"reed/core/rigging"
	"reed/core/site"
	"reed/core/sky"
	"reed/core/twin"
)

// candidate is an antenna before it is placed: its plan, what it is drawn like, and what it asks of bag and site.
type candidate struct {
	name      string
	family    family.Family
	variant   family.Variant
	recipe    string
	built     deployment.Built
	texts     map[string]string
	parts     map[string]string
	drawing   antenna.Drawing
	hz        []float64 // that it serves
	foot      footprint
	wireM     float64
	kg        float64
	minutes   float64
	clocked   bool // minutes are one's own
	trust     float64
	trustSays string
	cannot    string  // why it cannot be planned at all
	lowered   string  // why its pole stands lower than it could
	spread    float64 // metres that its spreaders must reach, 0 where it hangs otherwise
	lacks     string  // what the bag lacks of it
	tree      float64 // metres that a tree must have to hold it, 0 for a pole
	quick     float64 // first estimate in dB
	sought    sought
	// straight is the antenna before folding, which lacked so many metres of room; folded is the hanging part of each free end, cost
	// what that takes in dB.
	straight            *candidate
	short, folded, cost float64
	solved              map[float64]twin.Beam
}

// bag holds the parts that are in the bag.
type bag struct {
	all   []kit.Part
	empty bool
}

func (b bag) parts(kind string) (out []kit.Part) {
	for _, p := range b.all {
		if p.Kind == kind && !p.Deleted {
			out = append(out, p)
		}
	}
	return out
}

// usable is how much of a pole stands under load, in metres.
func usable(p kit.Part) float64 {
	if u := p.M("usable"); u > 0 {
		return u
	}
	return 0.85 * p.M("length")
}

// best is the part of a kind that is taken: the longest wire, the tallest pole, otherwise the first.
func (b bag) best(kind string) (kit.Part, bool) {
	list := b.parts(kind)
	if len(list) == 0 {
		return kit.Part{}, false
	}
	size := func(p kit.Part) float64 {
		switch kind {
		case "pole":
			return usable(p)
		case "wire":
			return p.M("left")
		}
		return 0
	}
	return slices.MaxFunc(list, func(a, b kit.Part) int {
		switch d := size(a) - size(b); {
		case d > 0:
			return 1
		case d < 0:
			return -1
		}
		return 0
	}), true
}

// spreaders counts what can hold a beam's corners at a distance in metres: spreaders, and poles but for the tallest, which is the mast.
func (b bag) spreaders(reach float64) (n int) {
	for _, p := range b.parts("spreader") {
		if p.M("length") >= reach {
			n += int(p.N("count", 1))
		}
	}
	spare := -1
	for _, p := range b.parts("pole") {
		if p.M("length") >= reach {
			spare++
		}
	}
	return n + max(0, spare)
}

// wire is how much of it is left in metres; known is false where no reel says it.
func (b bag) wire() (m float64, known bool) {
	for _, p := range b.parts("wire") {
		if left := p.M("left"); left > 0 {
			m, known = m+left, true
		}
	}
	return m, known
}

const (
	treeSlack = 1.0 // metres below a tree's top at which a limb still holds
	tallTree  = 12.0
	ownPole   = 7.0  // standing height of a pole in metres where none is known
	carried   = 12.0 // metres up to which people carry poles
	longArm   = 6.0  // and spreaders
)

// candidates lists recipes first, then every family in each of its ways, on a pole and where there are trees in one.
func candidates(c Case, m site.Map) (out []*candidate) {
	b := bag{c.Bag, len(c.Bag) == 0}
	limit := c.stormLimit(b)
	for _, r := range c.Recipes {
		if x, ok := fromRecipe(r, b, c); ok {
			x.inWind(limit, c.Units)
			out = append(out, x)
		}
	}
	tallest := 0.0
	if !m.Rules.NoTrees {
		for _, t := range m.Of(site.Tree) {
			tallest = math.Max(tallest, math.Min(t.Height()-treeSlack, tallTree))
		}
	}
	pole := ownPole
	if !b.empty {
		pole = 0
		if p, ok := b.best("pole"); ok {
			pole = usable(p)
		}
	}
	up := math.Min(antenna.Or(pole, ownPole), limit.up)
	room := math.Inf(1)
	if areas := m.Of(site.Area); len(areas) > 0 {
		lo, hi, _ := site.Map{Things: areas}.Box()
		room = math.Min(hi[0]-lo[0], hi[1]-lo[1]) / 2
	}
	for _, f := range family.Families() {
		for _, v := range f.Variants {
			x := fromFamily(f, v, b, c, up, room, false)
			x.inWind(limit, c.Units)
			x.poleless(b, c.Units)
			if limit.up < pole && x.lacks == "" && x.foot.high() > leastPole {
				x.lowered = fmt.Sprintf("The pole is lowered to %s: guyed, it holds %.0f m/s there.", c.Units.Long(limit.up), limit.blows)
			}
			out = append(out, x)
			if tallest > pole && tallest > 3 {
				if x := fromFamily(f, v, b, c, tallest, room, true); x.cannot == "" && x.foot.high() > pole {
					x.lacks = or(x.lacks, limit.stops)
					out = append(out, x)
				}
			}
		}
	}
	for _, x := range out {
		x.estimate(c)
	}
	return out
}

// storm holds the limits by the wind: the height in metres up to which a guyed pole holds, and why nothing may go up at all.
type storm struct {
	up    float64
	blows float64
	stops string
}

const (
	gale         = 25.0 // m/s from which nothing goes up: nobody holds a pole in it
	usualRating  = 60.0 // N m that a pole of 40 mm at the foot bears, where its own rating is not known; it goes with the third power
	guyedShare   = 0.2  // of the moment at the foot that is left with guys at two thirds of the height
	lowestInWind = 2.0  // metres below which a pole need not come down
)

// stormLimit returns what the strongest wind of the outing allows of the tallest pole.
func (c Case) stormLimit(b bag) storm {
	out := storm{up: math.Inf(1), blows: c.Purpose.wind()}
	if out.blows <= 0 {
		return out
	}
	if out.blows >= gale {
		out.stops = fmt.Sprintf("it blows %.0f m/s: from %.0f m/s on nothing goes up", out.blows, gale)
	}
	p, _ := b.best("pole")
	stands := pole(p, antenna.Or(usable(p), ownPole))
	rating := p.N("rating", usualRating*math.Pow(stands.Foot/0.04, 3)) / guyedShare
	if h := rigging.LowerTo(stands, out.blows, rating); h < stands.Height {
		out.up = math.Max(lowestInWind, math.Floor(h*10)/10)
	}
	return out
}

// inWind says what it lacks where the wind does not allow its height.
func (x *candidate) inWind(limit storm, units quantity.System) {
	high := x.foot.high()
	switch {
	case x.cannot != "" || x.lacks != "" || high <= leastPole:
	case limit.stops != "":
		x.lacks = limit.stops
	case high > limit.up+0.05:
		x.lacks = fmt.Sprintf("in %.0f m/s of wind a guyed pole here holds up to %s, and it stands %s up", limit.blows,
			units.Long(limit.up), units.Long(high))
	}
}

// poleless says what it lacks where nobody listed a bag, and it takes more than people carry.
func (x *candidate) poleless(b bag, units quantity.System) {
	high := x.foot.high()
	switch {
	case x.cannot != "" || x.lacks != "" || !b.empty:
	case x.spread > longArm:
		x.lacks = fmt.Sprintf("it hangs between four spreaders of %s; those that people carry reach %s", units.Long(x.spread),
			units.Long(longArm))
	case high > carried+0.05:
		x.lacks = fmt.Sprintf("it stands %s up; poles that people carry reach %s", units.Long(high), units.Long(carried))
	}
}

// fromRecipe is a recipe laid out again.
func fromRecipe(r deployment.Recipe, b bag, c Case) (*candidate, bool) {
	built := r.Afresh()
	f, ok := family.Named(built.Family)
	if !ok {
		return nil, false
	}
	x := &candidate{name: r.Name, family: f, recipe: r.ID, built: built, trust: 2, trustSays: "it worked at " + or(r.Place, "another outing")}
	for _, v := range f.Variants {
		if v.ID == built.Variant {
			x.variant = v
		}
	}
	x.drawing, _ = family.Of(built.Shape).Layout()
	plan := family.Design(r.Plan)
	x.wireM = plan.WireUsed
	if n := r.Built.SetupMinutes; n > 0 {
		x.minutes, x.clocked = float64(n), true
	}
	x.ask(b, c, plan)
	return x, true
}

// fromFamily plans a family for the wanted frequencies with the best of the bag.
func fromFamily(f family.Family, v family.Variant, b bag, c Case, up, room float64, tree bool) *candidate {
	wanted := c.Purpose.hertz()
	if !f.Multi {
		wanted = wanted[:1]
	}
	texts := make([]string, len(wanted))
	for i, hz := range wanted {
		texts[i] = quantity.ToKHz(hz)
	}
	form := antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: f.ID, Variant: v.ID, FrequencyHz: wanted[0]},
		Ground: c.Site.Ground, PowerW: c.Purpose.power(), Units: c.Units}, Typed: entry.Typed{Texts: map[string]string{
		"for": strings.Join(texts, " ")}}}
	shape, _ := family.Of(form.Record.Shape).Filled("plan", form.Texts, "m")
	fields := family.Of(shape).Fields("plan")
	has := func(id string) bool {
		return slices.ContainsFunc(fields, func(x entry.Field) bool { return x.ID == id })
	}
	parts := map[string]string{}
	index := map[string]kit.Part{}
	for _, k := range kit.Kinds() {
		if k.ID == "pole" || !k.Carried && k.ID != "wire" && !slices.ContainsFunc(k.Fills, has) {
			continue
		}
		if p, ok := b.best(k.ID); ok {
			parts[k.ID], index[p.ID] = p.ID, p
		}
	}
	if has("pole_height") {
		form.Texts["pole_height"] = fmt.Sprintf("%.2f m", up)
	}
	// A tuner matches a wire that is tuned anyway without a transformer too.
	if !b.empty && f.Trims == family.NoTrim && has(antenna.PrimaryTurns) && len(b.parts("transformer")) == 0 && len(b.parts("tuner")) > 0 {
		form.Texts[antenna.PrimaryTurns], form.Texts[antenna.SecondaryTurns] = "1", "1"
	}
	form.Record.Parts = parts
	form, _ = kit.Apply(form, index)
	plan := family.Drawn(form)
	if antenna.HasError(plan.Faults) && has("pole_height") {
		delete(form.Texts, "pole_height")
		plan = family.Drawn(form)
	}
	x := &candidate{name: f.Name, family: f, variant: v}
	if len(f.Variants) > 1 {
		x.name += ", " + v.Name
	}
	if tree {
		x.name += ", in a tree"
	}
	if i := slices.IndexFunc(plan.Faults, func(f antenna.Fault) bool { return f.Severity == "error" }); i >= 0 {
		x.cannot = plan.Faults[i].Text
		return x
	}
	// Radials are cut to the room that there is.
	if r := plan.Shape.Radials(); has(antenna.RadialsLength) && r.Count > 0 && r.Length.M > room && room > 0.6 {
		form.Texts[antenna.RadialsLength] = fmt.Sprintf("%.2f m", room-0.1)
		if shorter := family.Drawn(form); !antenna.HasError(shorter.Faults) {
			plan = shorter
		}
	}
	x.built = deployment.Built{Shape: plan.Shape, PowerW: c.Purpose.power()}.Use(index)
	x.texts, x.parts, x.drawing, x.wireM = form.Texts, parts, plan.Drawing, plan.WireUsed
	x.ask(b, c, plan)
	if tree {
		x.tree = x.foot.high() + treeSlack
	}
	switch high := x.foot.high(); {
	case b.empty || high <= up+0.05 || x.lacks != "":
	case !tree && len(b.parts("pole")) == 0:
		x.lacks = fmt.Sprintf("it needs a %s pole, which is not in the bag", c.Units.Long(high))
	default:
		x.lacks = fmt.Sprintf("it stands %s up, and what there is to hold it reaches %s", c.Units.Long(high), c.Units.Long(up))
	}
	return x
}

func or(s, otherwise string) string {
	if s == "" {
		return otherwise
	}
	return s
}

// ask says what it needs: its footprint, what the bag lacks of it, its weight and the minutes it takes.
func (x *candidate) ask(b bag, c Case, plan antenna.Plan) {
	shape := x.built.Shape
	for _, hz := range c.Purpose.hertz() {
		for _, f := range shape.All() {
			if math.Abs(f/hz-1) < 0.03 {
				x.hz = append(x.hz, hz)
				break
			}
		}
	}
	x.foot = footprintOf(x.drawing)
	x.stands(family.Of(shape).Electrics(shape.FrequencyHz))
	if !b.empty {
		x.lacks = b.lacks(x, plan, c.Units)
	}
	grams := 250.0 // strings, stakes, a bag for them
	for _, id := range x.parts {
		for _, p := range b.all {
			if p.ID == id && p.Kind != "wire" {
				grams += p.Grams()
			}
		}
	}
	grams += x.wireM * shape.Conductor().Grams
	if len(x.foot.supports) > 0 && x.tree == 0 {
		if p, ok := b.best("pole"); ok && p.Grams() > 0 {
			grams += p.Grams()
		} else {
			grams += 200 * x.foot.high()
		}
	}
	for _, p := range b.parts("spreader") {
		if x.spread > 0 && p.M("length") >= x.spread {
			grams += p.Grams() * math.Min(4, p.N("count", 1))
		}
	}
	x.kg = grams / 1000
	if took := c.Clocks[x.family.ID]; !x.clocked && len(took) > 0 {
		x.minutes, x.clocked = median(took), true
	}
	if !x.clocked {
		x.minutes = 5 + 5*float64(len(x.foot.supports)) + 1.5*x.foot.pieces() + x.armMinutes() + 2*float64(len(x.foot.stakes))
	}
	if x.trustSays == "" {
		x.trustSays = "not tried yet"
		for _, r := range c.Recipes {
			if r.Built.Family == shape.Family {
				x.trust, x.trustSays = 1, "one of its kind worked before"
			}
		}
	}
}

// stands takes away the supports that a rod needs none of: it stands by itself, on what holds its feed.
func (x *candidate) stands(e antenna.Electric) {
	if e.Diameter == 0 || e.SpreadHenries > 0 {
		if family.Of(x.built.Shape).Beam() == nil {
			x.foot.holdEnds()
		} else {
			x.spread = x.foot.spreaders()
		}
		return
	}
	kept := x.foot.supports[:0]
	for _, s := range x.foot.supports {
		if s.high = math.Min(s.high, x.foot.feed[2]); s.high > leastPole {
			kept = append(kept, s)
		}
	}
	x.foot.supports = kept
}

// armMinutes is how long its spreaders take: two minutes each.
func (x *candidate) armMinutes() float64 {
	if x.spread == 0 {
		return 0
	}
	return 4 * 2
}

// instead are the kinds that an antenna takes only when it is built so, or that can be made of wire on the spot.
var instead = []string{"transformer", "line", "pole", "coil"}

// lacks names what is missing in the bag to build it, empty where nothing is.
func (b bag) lacks(x *candidate, plan antenna.Plan, units quantity.System) string {
	shape := x.built.Shape
	electric := family.Of(shape).Electrics(shape.FrequencyHz)
	has := func(kind string) bool { return len(b.parts(kind)) > 0 }
	if x.family.Ready != "" && x.recipe == "" {
		return "a " + x.family.Ready + " is nothing that a bag lists: keep a recipe of yours and it counts"
	}
	for _, k := range kit.Kinds() {
		if slices.Contains(instead, k.ID) || has(k.ID) {
			continue
		}
		if slices.ContainsFunc(plan.Fields, func(f entry.Field) bool { return slices.Contains(k.Fills, f.ID) }) {
			return "there is no " + strings.ToLower(k.Name) + " in the bag"
		}
	}
	left, known := b.wire()
	switch {
	case x.spread > 0 && b.spreaders(x.spread) < 4:
		return fmt.Sprintf("it hangs between four spreaders of %s, which are not in the bag", units.Long(x.spread))
	case electric.Line != nil && !has("line"):
		return "there is no open line in the bag"
	case shape.Transforms() != 1 && electric.Line == nil && !has("transformer"):
		return "there is no transformer in the bag"
	case x.wireM > 0 && !has("wire"):
		return "there is no wire in the bag"
	case known && x.wireM > left:
		return fmt.Sprintf("it takes %s of wire, and %s are left", units.Long(x.wireM), units.Long(left))
	}
	return ""
}

// estimate is a first guess in decibels by closed forms: what runs level sends by its height over its image, 2 sin(kh sin e);
// what stands upright by 2 cos(e), less what soil that is no salt water takes; both by how much of a half-wave there is.
func (x *candidate) estimate(c Case) {
	level, upright, high := 0.0, 0.0, 0.0
	for _, w := range x.foot.wires {
		if w.radiates {
			run, rise := math.Hypot(w.to[0]-w.from[0], w.to[1]-w.from[1]), math.Abs(w.to[2]-w.from[2])
			level, upright = level+run, upright+rise
			high += (w.from[2] + w.to[2]) / 2 * run
		}
	}
	if level > 0 {
		high /= level
	}
	soil := 0.2
	if c.Site.Ground == "sea" {
		soil = 0.9
	}
	paths := c.Purpose.paths()
	for _, hz := range c.Purpose.hertz() {
		if !slices.Contains(x.hz, hz) {
			x.quick -= missing
			continue
		}
		wave, sent := 299792458/hz, 0.0
		for _, p := range paths {
			most := 0.0
			for _, w := range sky.Ways(p.KM) {
				up := w.TakeOff * math.Pi / 180
				flat := math.Pow(2*math.Sin(2*math.Pi/wave*high*math.Sin(up)), 2)
				stands := soil * math.Pow(2*math.Cos(up), 2)
				most = math.Max(most, (level*flat+upright*stands)/(level+upright+1e-9)*math.Pow(10, -w.DB/10))
			}
			sent += most / float64(len(paths))
		}
		x.quick += 10 * math.Log10(math.Max(sent, 1e-3)*math.Min(1, 4*(level+upright)/wave))
	}
	x.quick = x.quick/float64(len(c.Purpose.MHz)) + x.trust - x.minutes/10
}

// missing is the penalty in decibels for a wanted band that an antenna does not serve.
const missing = 25.0

// median is the middle of some values; of an even number the mean of both in the middle.
func median(values []float64) float64 {
	list := slices.Sorted(slices.Values(values))
	n := len(list)
	return (list[(n-1)/2] + list[n/2]) / 2
}

// folded is a candidate that lacks room with its free ends let down as far as it takes, nil where that does not help either.
func (c Case) folded(ctx context.Context, g ground, x *candidate, why Unfit) *Candidate {
	if why.Cause != tooSmall || x.recipe != "" || x.straight != nil {
		return nil
	}
	const more = 1.35
	for m := math.Ceil(why.lacked*10) / 10; ; m = math.Ceil(m*more*10) / 10 {
		shape, fields, ok := family.Of(x.built.Shape).Folded(m)
		if !ok || ctx.Err() != nil {
			return nil
		}
		y := *x
		y.straight, y.short, y.folded = x, why.lacked, m
		y.name += ", ends folded down"
		y.built.Shape = shape
		y.drawing, _ = family.Of(shape).Layout()
		y.texts = maps.Clone(x.texts)
		if angle := shape.ApexAngle(); angle != x.built.ApexAngle() {
			y.texts[antenna.ApexAngle] = fmt.Sprintf("%.0f", angle)
		}
		for _, id := range fields {
			y.texts[id] = fmt.Sprintf("%.2f m", shape.M(id))
		}
		y.foot = footprintOf(y.drawing)
		y.stands(family.Of(shape).Electrics(shape.FrequencyHz))
		if y.foot.high() > x.foot.high()+0.01 {
			return nil
		}
		y.quick = 0
		y.estimate(c)
		if out, unfit := c.first(ctx, g, &y); unfit == nil {
			return out
		}
	}
}
