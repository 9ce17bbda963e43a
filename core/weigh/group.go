package weigh

import (
	"cmp"
	"slices"
	"strings"

	"reed/core/onair"
)

// SetUp is one deployment that was up, as groups are made of them.
type SetUp struct {
	ID       string
	Name     string
	Family   string
	Recipe   string // that it was laid out from
	OutingID string
	Outing   string
	Date     string // of the outing
	Place    string // as typed
	Site     string // kind of ground
	Lesson   string
}

// Recipe is one that is kept, with the deployment that it was kept from.
type Recipe struct{ ID, Name, From string }

// Kinds of groups.
const (
	AnAntenna = "antenna"
	ARecipe   = "recipe"
	AFamily   = "family"
)

// Group is several set-ups that are weighed as one. An antenna is all set-ups that come from each other by recipes, or that have the
// same name and are of the same kind; a recipe is all set-ups made from it and the one it was saved from; a family is a kind of antenna.
type Group struct {
	Kind    string  `json:"kind"`
	Key     string  `json:"key"`
	Name    string  `json:"name"`
	Members []SetUp `json:"-"` // by rising day
	SetUps  int     `json:"set_ups"`
	Outings int     `json:"outings"`
}

// ID is how a group is asked for.
func (g Group) ID() string { return g.Kind + ":" + g.Key }

// Holds says that a deployment is of the group.
func (g Group) Holds(id string) bool {
	return slices.ContainsFunc(g.Members, func(s SetUp) bool { return s.ID == id })
}

func (g *Group) add(s SetUp) { g.Members = append(g.Members, s) }

func (g *Group) finish() {
	slices.SortStableFunc(g.Members, func(a, b SetUp) int { return cmp.Or(cmp.Compare(a.Date, b.Date), cmp.Compare(a.ID, b.ID)) })
	seen := map[string]bool{}
	for _, s := range g.Members {
		seen[s.OutingID] = true
	}
	g.SetUps, g.Outings = len(g.Members), len(seen)
}

// Antennas sorts set-ups by the antenna that they are, that of the most first.
func Antennas(of []SetUp, recipes []Recipe) []Group {
	up := make(map[string]string, len(of)) // each to another of the same antenna, the last to itself
	var root func(id string) string
	root = func(id string) string {
		if at, ok := up[id]; ok && at != id {
			up[id] = root(at)
			return up[id]
		}
		return id
	}
	join := func(a, b string) {
		if a, b = root(a), root(b); a != b {
			up[b] = a
		}
	}
	for _, r := range recipes {
		join("recipe "+r.ID, r.From)
	}
	for _, s := range of {
		join("named "+s.Family+" "+strings.ToLower(strings.TrimSpace(s.Name)), s.ID)
		if s.Recipe != "" {
			join("recipe "+s.Recipe, s.ID)
		}
	}
	at := map[string]int{}
	var out []Group
	for _, s := range of {
		k, ok := at[root(s.ID)]
		if !ok {
			k = len(out)
			at[root(s.ID)] = k
			out = append(out, Group{Kind: AnAntenna})
		}
		out[k].add(s)
	}
	for i := range out {
		out[i].finish()
		out[i].Key, out[i].Name = out[i].Members[0].ID, called(out[i].Members)
	}
	return sortedGroups(out)
}

// called are the names of set-ups, each once.
func called(of []SetUp) string {
	var names []string
	for _, s := range of {
		name := strings.TrimSpace(s.Name)
		if !slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, name) }) {
			names = append(names, name)
		}
	}
	return strings.Join(names, ", ")
}

func sortedGroups(of []Group) []Group {
	slices.SortStableFunc(of, func(a, b Group) int { return cmp.Or(b.SetUps-a.SetUps, cmp.Compare(a.Name, b.Name)) })
	return of
}

// Groups are the antennas, recipes and families that several set-ups belong to, and all antennas; label says what a family is called.
func Groups(of []SetUp, recipes []Recipe, label func(family string) string) (out, antennas []Group) {
	antennas = Antennas(of, recipes)
	for _, g := range antennas {
		if g.SetUps > 1 {
			out = append(out, g)
		}
	}
	var rest []Group
	for _, r := range recipes {
		g := Group{Kind: ARecipe, Key: r.ID, Name: r.Name}
		for _, s := range of {
			if s.Recipe == r.ID || s.ID == r.From {
				g.add(s)
			}
		}
		if g.finish(); g.SetUps > 1 && !slices.ContainsFunc(out, func(a Group) bool { return slices.Equal(a.Members, g.Members) }) {
			rest = append(rest, g)
		}
	}
	out = append(out, sortedGroups(rest)...)
	at, rest := map[string]int{}, nil
	for _, s := range of {
		k, ok := at[s.Family]
		if !ok {
			k = len(rest)
			at[s.Family] = k
			rest = append(rest, Group{Kind: AFamily, Key: s.Family, Name: label(s.Family)})
		}
		rest[k].add(s)
	}
	for _, g := range sortedFinished(rest) {
		if g.SetUps > 1 {
			out = append(out, g)
		}
	}
	return out, antennas
}

// Lettered are the keys of the antennas that sent in a run, by letter and each once, and the kind of ground. Revisions of one antenna are
// no two antennas: of several in a run only the first counts.
func Lettered(run onair.Run, antennas []Group) (names map[string]string, keys []string, site string) {
	names = map[string]string{}
	for _, x := range run.Aerials {
		for _, g := range antennas {
			at := slices.IndexFunc(g.Members, func(s SetUp) bool { return s.ID == x.DeploymentID })
			if at < 0 || slices.Contains(keys, g.Key) && x.Revision > 0 {
				continue
			}
			if names[x.Letter], site = g.Key, g.Members[at].Site; !slices.Contains(keys, g.Key) {
				keys = append(keys, g.Key)
			}
		}
	}
	return names, keys, site
}

func sortedFinished(of []Group) []Group {
	for i := range of {
		of[i].finish()
	}
	return sortedGroups(of)
}
