package store

import (
	"context"
	"testing"

	"reed/core/antenna"
	"reed/core/deployment"
	"reed/core/kit"
)

func TestThingsOfTheBagAreKeptWithTheirHistory(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	st, _ := open(t)
	coax, _ := kit.Read("coax", "thin one", map[string]string{"type": "RG-316", "length": "8 m"}, "m")
	coax.ID = "11111111-1111-4111-8111-111111111111"
	for range 2 {
		p, err := st.PutPart(ctx, coax, 0)
		if err != nil || p.Version != 1 {
			t.Fatalf("version %d, %v: the same thing again changed it", p.Version, err)
		}
	}
	if uses, err := st.Uses(ctx, coax.ID); err != nil || len(uses) != 0 {
		t.Errorf("unused: %v %v", uses, err)
	}
	o, d := "22222222-2222-4222-8222-222222222222", "33333333-3333-4333-8333-333333333333"
	if _, err := st.PutOuting(ctx, Outing{ID: o, Name: "Gannet Spit", Date: "2026-05-16"}, 0); err != nil {
		t.Fatal(err)
	}
	plan := antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 14e6,
		Parts: map[string]string{"coax": coax.ID}}}
	if _, err := st.PutDeployment(ctx, deployment.Deployment{ID: d, OutingID: o, Name: "Heron", Plan: plan}, 0); err != nil {
		t.Fatal(err)
	}
	uses, err := st.Uses(ctx, coax.ID)
	if err != nil || len(uses) != 1 || uses[0].Built || uses[0].Deployment != "Heron" || uses[0].Outing != "Gannet Spit" {
		t.Errorf("planned: %+v %v", uses, err)
	}
	if _, err := st.AddRevision(ctx, deployment.Revision{ID: "44444444-4444-4444-8444-444444444444", DeploymentID: d,
		Built: deployment.Built{Shape: plan.Shape}}); err != nil {
		t.Fatal(err)
	}
	if uses, _ := st.Uses(ctx, coax.ID); len(uses) != 1 || !uses[0].Built {
		t.Errorf("built: %+v", uses)
	}
	if _, deleted, err := st.SetVersion(ctx, "part", coax.ID, 0, 1); err != nil || !deleted {
		t.Fatal(err)
	}
	if bag, _ := st.Bag(ctx); len(bag) != 0 {
		t.Error("what was taken out is still in the bag")
	}
	if p, err := st.Part(ctx, coax.ID); err != nil || p.M("length") != 8 || !p.Deleted {
		t.Errorf("its history lost it: %+v %v", p, err)
	}
	if _, _, err := st.SetVersion(ctx, "part", coax.ID, 1, 2); err != nil {
		t.Fatal(err)
	}
	if bag, _ := st.Bag(ctx); len(bag) != 1 {
		t.Error("undo did not bring it back")
	}
}
