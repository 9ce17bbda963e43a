package circuit

import "math"

// Stage is one step of power on its way from the radio's socket to the sky.
type Stage struct {
	Name  string  `json:"name"`
	DB    float64 `json:"db"`
	Watts float64 `json:"watts"` // that are left after it
	Why   string  `json:"why,omitempty"`
}

// Budget fills in the watts left after each stage, from those at the radio's socket.
func Budget(watts float64, stages []Stage) []Stage {
	out := make([]Stage, len(stages))
	for i, s := range stages {
		watts *= math.Pow(10, -s.DB/10)
		s.Watts = watts
		out[i] = s
	}
	return out
}

// SumDB is the whole loss in dB.
func SumDB(stages []Stage) (db float64) {
	for _, s := range stages {
		db += s.DB
	}
	return db
}
