package deployment

import (
	"strings"

	"reed/core/quantity"
)

// Metal is something conducting near the antenna: its kind, how far from the feed, and its size, which is what its kind
// says. What is what it is called; of what was recorded before there were kinds it tells the kind too.
type Metal struct {
	What     string          `json:"what"`
	Kind     string          `json:"kind,omitempty"`
	Distance quantity.Length `json:"distance,omitzero"`
	Size     quantity.Length `json:"size,omitzero"`
}

// MetalKind is a kind of metal near: what its size is, and how much in metres where nobody said.
type MetalKind struct {
	ID    string  `json:"id"`
	Name  string  `json:"name"`
	Size  string  `json:"size"`
	Usual float64 `json:"usual"`
	words []string
}

// Kinds of metal near.
const (
	MetalMast     = "mast"
	MetalRigging  = "rigging"
	MetalVehicle  = "vehicle"
	MetalTable    = "table"
	MetalFence    = "fence"
	MetalBuilding = "building"
	MetalAntenna  = "antenna"
	MetalOther    = "other"
)

// MetalKinds lists the kinds of metal, the last for all else.
func MetalKinds() []MetalKind {
	return []MetalKind{
		{MetalMast, "mast or pole", "height", 6, []string{"mast", "pole", "post", "lamppost", "flagpole", "tower"}},
		{MetalRigging, "rigging", "height", 9, []string{"rigging", "stay", "stays", "shroud", "shrouds"}},
		{MetalVehicle, "vehicle", "length", 4, []string{"car", "vehicle", "van", "truck", "lorry", "bus", "camper", "trailer", "caravan"}},
		{MetalTable, "table or bench", "length", 1.8, []string{"table", "bench"}},
		{MetalFence, "fence or rail", "length", 0, []string{"fence", "rail", "railing", "guardrail", "wire"}},
		{MetalBuilding, "building with metal in it", "height", 5, []string{"building", "house", "hut", "shed", "roof", "garage", "container"}},
		{MetalAntenna, "another antenna", "length", 10, []string{"antenna", "aerial"}},
		{MetalOther, "something else upright", "height", 3, nil},
	}
}

// Sort is the kind of a piece of metal: as it was chosen, or by a whole word of what it was called.
func (m Metal) Sort() MetalKind {
	kinds := MetalKinds()
	said := strings.FieldsFunc(strings.ToLower(m.What), func(r rune) bool { return r < 'a' || r > 'z' })
	for _, k := range kinds {
		if m.Kind == k.ID {
			return k
		}
	}
	// What it is stands last: a portable mast is a mast, and a fence post a post.
	for i := len(said) - 1; i >= 0; i-- {
		for _, k := range kinds {
			for _, w := range k.words {
				if w == said[i] {
					return k
				}
			}
		}
	}
	return kinds[len(kinds)-1]
}

// Long is its size in metres: as measured, or the usual of its kind.
func (m Metal) Long() float64 {
	if m.Size.M > 0 {
		return m.Size.M
	}
	return m.Sort().Usual
}
