package quantity

import "encoding/json"

// Length is a length in metres that remembers how it was typed. In JSON it is read from {"typed","unit"}
// or {"m"}, and written with its metric and imperial prints beside it. A text that cannot be read does
// not fail the decoding; it is kept and reported by Problem, so that the form can point at its place.
type Length struct {
	M       float64
	Typed   string
	problem error
}

// Metres makes a Length that was computed, not typed.
func Metres(m float64) Length { return Length{M: m} }

// IsZero reports whether nothing was given.
func (l Length) IsZero() bool { return l.M == 0 && l.Typed == "" && l.problem == nil }

// Problem is the error of the typed text, or nil.
func (l Length) Problem() error { return l.problem }

type lengthJSON struct {
	M        float64 `json:"m"`
	Typed    string  `json:"typed,omitempty"`
	Unit     string  `json:"unit,omitempty"`
	Metric   string  `json:"metric,omitempty"`
	Imperial string  `json:"imperial,omitempty"`
}

// MarshalJSON writes metres with both prints.
func (l Length) MarshalJSON() ([]byte, error) {
	return json.Marshal(lengthJSON{M: l.M, Typed: l.Typed, Metric: Metric(l.M, 1), Imperial: Imperial(l.M, 16)})
}

// UnmarshalJSON reads {"typed": text, "unit": unit of a bare number} or {"m": metres}. Text wins, unless
// metres stand beside it without a unit, as in what MarshalJSON wrote.
func (l *Length) UnmarshalJSON(b []byte) error {
	var j lengthJSON
	if err := json.Unmarshal(b, &j); err != nil {
		return err
	}
	*l = Length{M: j.M, Typed: j.Typed}
	if j.Typed == "" || j.Unit == "" && j.M != 0 {
		if j.M < 0 || j.M > MaxLength {
			l.problem = lengthError(trimFloat(j.M)+" m", "a length is between 0 and %.0f km", MaxLength/1e3)
		}
		return nil
	}
	unit := j.Unit
	if unit == "" {
		unit = "m"
	}
	r, err := ParseLength(j.Typed, unit)
	l.M, l.problem = r.Value, err
	return nil
}

// Typed reads a text into a Length that remembers it.
func Typed(text, unit string) (Length, error) {
	r, err := ParseLength(text, unit)
	if err != nil {
		return Length{}, err
	}
	return Length{M: r.Value, Typed: text}, nil
}
