package marks

import (
	"fmt"

	"reed/core/bounds"
)

// CheckKept checks what holds for every set of marks that is kept.
func (s Set) CheckKept() error {
	const most = 1000
	if len(s.Marks) > most {
		return fmt.Errorf("%d marks found; at most %d are kept", len(s.Marks), most)
	}
	for _, m := range s.Marks {
		if err := bounds.All(bounds.Number("a mark's frequency in hertz", m.Hz, 0, 1e9), m.Held.Built.CheckKept()); err != nil {
			return err
		}
	}
	return bounds.All(bounds.Name("the marks", s.Name), bounds.ID(s.DeploymentID))
}
