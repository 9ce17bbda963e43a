package deployment

import "fmt"

// Stage is a node of the outing's work. State is done, open or attend; Note says why it wants attention, or, of one that is open, what
// is left to do.
type Stage struct {
	ID    string `json:"id"`
	State string `json:"state"`
	Note  string `json:"note,omitempty"`
}

// Facts are the inputs of the state of an outing's stages.
type Facts struct {
	HasPlace    bool
	Deployments int
	Built       int
	Swept       int
	Unconfirmed int // built set-ups whose cautions are not all confirmed
	Contacts    int
	Missing     int // contacts to the scheme's minimum
	Comparable  int // deployments with a sweep or contacts
}

// Stages derives the six nodes from what is recorded.
func Stages(f Facts) []Stage {
	mark := func(id string, done bool, attend string) Stage {
		switch {
		case attend != "":
			return Stage{id, "attend", attend}
		case done:
			return Stage{id, "done", ""}
		}
		return Stage{id, "open", ""}
	}
	when := func(c bool, format string, args ...any) string {
		if c {
			return fmt.Sprintf(format, args...)
		}
		return ""
	}
	left := func(s Stage, note string) Stage {
		if note != "" {
			s.State, s.Note = "open", note
		}
		return s
	}
	return []Stage{
		mark("scout", f.HasPlace, when(!f.HasPlace, "no place yet")),
		mark("cut", f.Deployments > 0, ""),
		left(mark("raise", f.Built > 0 && f.Built == f.Deployments, ""), when(f.Built > 0 && f.Unconfirmed > 0, "%d to confirm",
			f.Unconfirmed)),
		mark("sweep", f.Swept > 0 && f.Swept == f.Deployments, when(f.Swept > 0 && f.Swept < f.Built, "%d up but not swept", f.Built-f.Swept)),
		left(mark("work", f.Contacts > 0, ""), when(f.Contacts > 0 && f.Missing > 0, "%d to go", f.Missing)),
		mark("weigh", f.Comparable > 1, ""),
	}
}
