package deployment

import "testing"

func TestNamesTellAntennasApart(t *testing.T) {
	all := []Deployment{{ID: "a", Name: "Heron"}, {ID: "b", Name: "heron 2"}, {ID: "c", Name: "Stilt"}}
	for _, c := range []struct{ name, self, want string }{
		{"Heron", "d", "Heron 3"},
		{"Heron", "a", "Heron"},
		{" stilt", "d", " stilt 2"},
		{"Knot", "d", "Knot"},
	} {
		if got := Free(c.name, c.self, all); got != c.want {
			t.Errorf("%s for %s: %s, want %s", c.name, c.self, got, c.want)
		}
	}
	if !Taken("STILT ", "d", all) || Taken("Stilt", "c", all) || Taken("Stilts", "d", all) {
		t.Error("taken")
	}
}
