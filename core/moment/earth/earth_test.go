package earth

import (
	"math/cmplx"
	"testing"
)

func TestReflectionAtNormalIncidenceHasItsLimits(t *testing.T) {
	if g := (Ground{Permittivity: 1}).Normal(7e6); cmplx.Abs(g) > 1e-12 {
		t.Errorf("no ground reflects %v", g)
	}
	if g := (Ground{Permittivity: 1, Conductivity: 1e9}).Normal(7e6); cmplx.Abs(g+1) > 1e-3 {
		t.Errorf("a perfect ground reflects %v, want -1", g)
	}
	if g := (Ground{Permittivity: 4}).Normal(7e6); cmplx.Abs(g+1.0/3) > 1e-9 {
		t.Errorf("a dielectric of 4 reflects %v, want -1/3", g)
	}
	for _, k := range Kinds() {
		if a := cmplx.Abs(k.Normal(14e6)); a <= 0 || a >= 1 {
			t.Errorf("%s reflects %v", k.ID, a)
		}
		if again, ok := Kind(k.ID); !ok || again != k {
			t.Errorf("%s is not found by its id", k.ID)
		}
	}
	if _, ok := Kind("lava"); ok {
		t.Error("an unknown ground was found")
	}
}
