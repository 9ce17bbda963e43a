package quantity

import "encoding/json"

// Said is a figure as a form sends it: a number in its base unit, or the text that was typed. The text is read where
// the figure is checked, so that an error is reported at its place.
type Said struct {
	Number float64
	Text   string
}

// UnmarshalJSON reads a number or a text.
func (s *Said) UnmarshalJSON(b []byte) error {
	*s = Said{}
	if len(b) > 0 && b[0] == '"' {
		return json.Unmarshal(b, &s.Text)
	}
	return json.Unmarshal(b, &s.Number)
}

// MarshalJSON writes what was said.
func (s Said) MarshalJSON() ([]byte, error) {
	if s.Text != "" {
		return json.Marshal(s.Text)
	}
	return json.Marshal(s.Number)
}

// Hz is the frequency in hertz; a bare typed number is megahertz.
func (s Said) Hz() (float64, error) {
	if s.Text == "" {
		return s.Number, nil
	}
	r, err := ParseFrequency(s.Text, "MHz")
	return r.Value, err
}

// Watts is the power in watts.
func (s Said) Watts() (float64, error) {
	if s.Text == "" {
		return s.Number, nil
	}
	return ParsePower(s.Text)
}
