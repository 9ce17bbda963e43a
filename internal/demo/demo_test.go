package demo

import (
	"context"
	"encoding/json"
	"strings"
	"testing"

	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/internal/store"
	"reed/internal/testsize"
)

// dump lists everything in a store as text.
func dump(t *testing.T) string {
	t.Helper()
	ctx := context.Background()
	st, err := store.Open(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	if err := Fill(ctx, st); err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	put := func(v any, err error) {
		if err != nil {
			t.Fatal(err)
		}
		text, _ := json.Marshal(v)
		b.Write(append(text, '\n'))
	}
	outings, err := st.Outings(ctx)
	put(outings, err)
	for _, o := range outings {
		c, err := st.Contacts(ctx, o.ID)
		put(c, err)
		for _, x := range c {
			if !strings.HasPrefix(x.Call, "Q") {
				t.Errorf("%s is not of the Q series", x.Call)
			}
		}
	}
	all, err := st.Deployments(ctx, "")
	put(all, err)
	if len(outings) < 3 || len(all) < 8 {
		t.Errorf("%d outings, %d deployments", len(outings), len(all))
	}
	for _, d := range all {
		revs, err := st.Revisions(ctx, d.ID)
		put(revs, err)
		for _, r := range revs {
			if f := deployment.Check(r.Built, family.Design(d.Plan).Shape); len(f) > 0 {
				t.Errorf("%s r%d: %v", d.Name, r.Seq, f)
			}
		}
		sweeps, err := st.Sweeps(ctx, d.ID)
		put(sweeps, err)
	}
	return b.String()
}

func TestDemoIsSoundAndTheSameEveryTime(t *testing.T) {
	testsize.SkipIfShort(t, "makes the demo notebook")
	if a, b := dump(t), dump(t); a != b {
		t.Error("two fillings differ")
	}
}
