package kit

import "reed/core/bounds"

// CheckKept checks what holds for every thing of the bag that is kept.
func (p Part) CheckKept() error { return bounds.Name("the thing", p.Name) }
