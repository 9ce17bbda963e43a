package antenna

import (
	"encoding/json"

	"reed/core/entry"
	"reed/core/quantity"
)

// Record is a shape as it is written: in the notebook, in a bundle and over the wire. What many families have has a
// name of its own there; all else stands by the IDs of the fields. A number of zero is not written under a name; that there
// are no wires stands among the others.
type Record struct {
	Family       string            `json:"family"`
	Variant      string            `json:"variant"`
	FrequencyHz  float64           `json:"frequency_hz"`
	More         []float64         `json:"more_hz,omitempty"`
	Wire         string            `json:"wire,omitempty"`
	WireData     *Wire             `json:"wire_data,omitempty"`
	Parts        map[string]string `json:"parts,omitempty"`
	Radiator     quantity.Length   `json:"radiator,omitzero"`
	LegB         quantity.Length   `json:"leg_b,omitzero"`
	FeedHeight   quantity.Length   `json:"feed_height,omitzero"`
	FarHeight    quantity.Length   `json:"far_height,omitzero"`
	PoleHeight   quantity.Length   `json:"pole_height,omitzero"`
	ApexAngle    float64           `json:"apex_angle,omitempty"`
	Bearing      float64           `json:"bearing,omitempty"`
	Counterpoise WireSet           `json:"counterpoise,omitzero"`
	Radials      WireSet           `json:"radials,omitzero"`
	Primary      int               `json:"primary_turns,omitempty"`
	Secondary    int               `json:"secondary_turns,omitempty"`
	entry.Values
}

// named are the fields that a record has a name for: lengths and numbers by their IDs.
func (r *Record) named() (sizes map[string]*quantity.Length, numbers map[string]*float64, counts map[string]*int) {
	return map[string]*quantity.Length{
			Radiator: &r.Radiator, LegB: &r.LegB, FeedHeight: &r.FeedHeight, FarHeight: &r.FarHeight, PoleHeight: &r.PoleHeight,
			CounterpoiseLength: &r.Counterpoise.Length, CounterpoiseHeight: &r.Counterpoise.Height,
			RadialsLength: &r.Radials.Length, RadialsHeight: &r.Radials.Height,
		},
		map[string]*float64{ApexAngle: &r.ApexAngle, Bearing: &r.Bearing},
		map[string]*int{
			CounterpoiseCount: &r.Counterpoise.Count, RadialsCount: &r.Radials.Count, PrimaryTurns: &r.Primary, SecondaryTurns: &r.Secondary,
		}
}

// recorded reports whether a record has a name for a number.
func recorded(id string) bool {
	_, numbers, counts := new(Record).named()
	return numbers[id] != nil || counts[id] != nil
}

// Common reports whether a record has a name for a field: those that many families have.
func Common(id string) bool {
	sizes, _, _ := new(Record).named()
	return sizes[id] != nil || recorded(id)
}

// Record is the shape as it is written.
func (s Shape) Record() Record {
	r := Record{Family: s.Family, Variant: s.Variant, FrequencyHz: s.FrequencyHz, More: s.More, Wire: s.Wire, WireData: s.WireData,
		Parts: s.Parts}
	sizes, numbers, counts := r.named()
	for id, l := range s.Sizes {
		if p := sizes[id]; p != nil {
			*p = l
		} else {
			r.Put(id, l)
		}
	}
	for id, n := range s.Numbers {
		if p := numbers[id]; p != nil {
			*p = n
		} else if p := counts[id]; p != nil && (n != 0 || !counted(id)) {
			*p = int(n)
		} else {
			r.PutNumber(id, n)
		}
	}
	r.Words = s.Words
	return r
}

// Shape returns the recorded shape.
func (r Record) Shape() Shape {
	s := Shape{Family: r.Family, Variant: r.Variant, FrequencyHz: r.FrequencyHz, More: r.More, Wire: r.Wire, WireData: r.WireData,
		Parts: r.Parts, Values: r.Values}
	sizes, numbers, counts := r.named()
	for id, p := range sizes {
		if *p != (quantity.Length{}) {
			s.Put(id, *p)
		}
	}
	for id, p := range numbers {
		if *p != 0 {
			s.PutNumber(id, *p)
		}
	}
	for id, p := range counts {
		if *p != 0 {
			s.PutNumber(id, float64(*p))
		}
	}
	return s
}

// asked is a request without its shape.
type asked Request

// MarshalJSON writes a request with its shape's record.
func (r Request) MarshalJSON() ([]byte, error) {
	return json.Marshal(struct {
		Record
		asked
	}{r.Record(), asked(r)})
}

// UnmarshalJSON reads a request with its shape's record.
func (r *Request) UnmarshalJSON(b []byte) error {
	var x struct {
		Record
		asked
	}
	if err := json.Unmarshal(b, &x); err != nil {
		return err
	}
	*r = Request(x.asked)
	r.Shape = x.Record.Shape()
	return nil
}
