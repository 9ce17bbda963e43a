package site

import (
	"fmt"

	"reed/core/bounds"
)

// CheckKept checks what holds for every site that is kept.
func (s Site) CheckKept() error {
	const most = 2000
	if len(s.Lines) > most {
		return fmt.Errorf("%d lines found; at most %d are kept", len(s.Lines), most)
	}
	return bounds.Name("the site", s.Name)
}
