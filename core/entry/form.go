package entry

import "encoding/json"

// Typed are the texts of a form as people typed them, by the IDs of its fields; Unit is the unit of a bare length among them
// takes, "m" or "ft", metres when empty.
type Typed struct {
	Texts map[string]string `json:"texts,omitempty"`
	Unit  string            `json:"unit,omitempty"`
}

// UnitOr returns the unit of a bare length.
func (t Typed) UnitOr() string {
	if t.Unit == "" {
		return "m"
	}
	return t.Unit
}

// Form is a record as a form sends it: what it says for itself, and what was typed beside it. It is written as one
// object.
type Form[T any] struct {
	Record T
	Typed
}

// MarshalJSON writes record and texts into one object.
func (f Form[T]) MarshalJSON() ([]byte, error) {
	out := map[string]json.RawMessage{}
	for _, part := range []any{f.Record, f.Typed} {
		b, err := json.Marshal(part)
		if err != nil {
			return nil, err
		}
		if err := json.Unmarshal(b, &out); err != nil {
			return nil, err
		}
	}
	return json.Marshal(out)
}

// UnmarshalJSON reads record and texts out of one object.
func (f *Form[T]) UnmarshalJSON(b []byte) error {
	if err := json.Unmarshal(b, &f.Record); err != nil {
		return err
	}
	return json.Unmarshal(b, &f.Typed)
}
