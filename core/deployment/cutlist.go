package deployment

import (
	"fmt"
	"math"
	"strings"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/kit"
	"reed/core/quantity"
)

// CutColumn is a planned antenna beside others: what it is for, what it takes and what it weighs.
type CutColumn struct {
	ID     string          `json:"id"`
	Name   string          `json:"name"`
	Letter string          `json:"letter"`
	Family string          `json:"family"`
	Bands  string          `json:"bands"`
	Pieces []antenna.Piece `json:"pieces"`
	Expect string          `json:"expect"`
	Wire   quantity.Length `json:"wire"`
	Grams  float64         `json:"grams"`
	Height quantity.Length `json:"height"`
	Reel   string          `json:"reel"`
	Parts  []string        `json:"parts"`
}

// CutLists lays plans side by side, and says which takes the least wire and which the least height.
func CutLists(list []Deployment, bag map[string]kit.Part, units quantity.System) (columns []CutColumn, sentence string) {
	for _, d := range list {
		d.Plan.Units = units
		p := family.Design(d.Plan)
		if antenna.HasError(p.Faults) {
			continue
		}
		fam, _ := family.Named(p.Shape.Family)
		c := CutColumn{ID: d.ID, Name: d.Name, Letter: d.Letter, Family: fam.Name, Pieces: p.Pieces, Expect: p.Expect,
			Wire: quantity.Metres(p.WireUsed), Parts: []string{}}
		var bands []string
		for _, f := range p.Shape.All() {
			bands = append(bands, quantity.MHz(f))
		}
		c.Bands = strings.Join(bands, ", ") + " MHz"
		c.Grams = p.WireUsed * p.Wire.Grams
		for _, kind := range kit.Kinds() {
			part, ok := bag[p.Shape.Parts[kind.ID]]
			if !ok {
				continue
			}
			c.Parts = append(c.Parts, part.Name)
			if kind.ID != "wire" {
				c.Grams += part.Grams()
			}
		}
		top := 0.0
		for _, l := range p.Drawing.Lines {
			if l.Role != "string" {
				top = math.Max(top, math.Max(l.From[2], l.To[2]))
			}
		}
		c.Height = quantity.Metres(top)
		switch left := p.Wire.Left; {
		case left > 0 && left < p.WireUsed:
			c.Reel = fmt.Sprintf("%s short on the reel of %s", units.Long(p.WireUsed-left), units.Long(left))
		case left > 0:
			c.Reel = fmt.Sprintf("the reel keeps %s", units.Long(left-p.WireUsed))
		default:
			c.Reel = "no reel of the bag chosen"
		}
		columns = append(columns, c)
	}
	if len(columns) < 2 {
		return columns, "Plan a second antenna, and their cut lists stand beside each other."
	}
	least, lowest := columns[0], columns[0]
	for _, c := range columns[1:] {
		if c.Wire.M < least.Wire.M {
			least = c
		}
		if c.Height.M < lowest.Height.M {
			lowest = c
		}
	}
	sentence = fmt.Sprintf("%s takes the least wire, %s; ", least.Name, units.Long(least.Wire.M))
	if least.ID == lowest.ID {
		return columns, sentence + fmt.Sprintf("and the least height, %s.", units.Long(lowest.Height.M))
	}
	return columns, sentence + fmt.Sprintf("%s the least height, %s.", lowest.Name, units.Long(lowest.Height.M))
}
