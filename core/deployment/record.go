package deployment

import (
	"encoding/json"

	"reed/core/antenna"
)

// bare is a set-up without its shape.
type bare Built

// MarshalJSON writes a set-up with its shape's record.
func (b Built) MarshalJSON() ([]byte, error) {
	return json.Marshal(struct {
		antenna.Record
		bare
	}{b.Record(), bare(b)})
}

// UnmarshalJSON reads a set-up with its shape's record.
func (b *Built) UnmarshalJSON(text []byte) error {
	var x struct {
		antenna.Record
		bare
	}
	if err := json.Unmarshal(text, &x); err != nil {
		return err
	}
	*b = Built(x.bare)
	b.Shape = x.Record.Shape()
	return nil
}
