package standin

import (
	"context"
	"math"
	"reflect"
	"strings"
	"testing"

	"reed/core/band"
	"reed/internal/testsize"
)

func play(t *testing.T, p Practice, giveUp bool, folds ...float64) Played {
	t.Helper()
	got, err := p.Play(context.Background(), &engine, folds, giveUp, nil)
	if err != nil {
		t.Fatal(err)
	}
	return got
}

func game(seed uint64) Practice {
	return Practice{Seed: seed, Region: 1, Segments: band.DefaultSegments(1), Limit: 2}
}

func TestAGameIsTheSameForItsSeedAndDiffersForOthers(t *testing.T) {
	testsize.SkipIfShort(t, "solves hidden antennas")
	a, again := play(t, game(3), false), play(t, game(3), false)
	if !reflect.DeepEqual(a, again) {
		t.Error("the same seed made two games")
	}
	titles := map[string]bool{}
	for seed := range uint64(24) {
		got := play(t, game(seed+1), false)
		titles[got.Title] = true
		if got.Done || got.Raises[0].MinHz >= got.TargetHz {
			t.Errorf("seed %d is dealt too short or done: %s", seed+1, got.Sentence)
		}
	}
	if len(titles) < 10 {
		t.Errorf("the seeds made only %v", titles)
	}
}

func TestFoldingRaisesTheDipAndAddingLowersIt(t *testing.T) {
	first := play(t, game(3), false)
	if first.Done || first.Raises[0].MinHz >= first.TargetHz || len(first.Judged) != 0 || first.Truth != "" {
		t.Fatalf("%+v", first.Sentence)
	}
	total := 2 * first.Raises[0].Length.M
	folded := play(t, game(3), false, total*0.01)
	back := play(t, game(3), false, total*0.01, -total*0.01)
	if up := folded.Raises[1].MinHz / first.Raises[0].MinHz; up < 1.004 || up > 1.016 {
		t.Errorf("1 %% folded moves the dip to %.4f of it", up)
	}
	if n := len(back.Raises); n != 3 {
		t.Fatalf("folded and unfolded: %d raises", n)
	}
	// One reading is off by its noise; over several dipoles what was folded and unfolded is where it was.
	off := 0.0
	seeds := []uint64{3, 6, 7, 8}
	for _, seed := range seeds {
		cut := 2 * play(t, game(seed), false).Raises[0].Length.M * 0.01
		r := play(t, game(seed), false, cut, -cut).Raises
		off += (r[len(r)-1].MinHz/r[0].MinHz - 1) / float64(len(seeds))
	}
	if math.Abs(off) > 0.002 {
		t.Errorf("folded and unfolded, dips move by %.5f on average", off)
	}
}

func TestTheEndIsJudgedByTheHiddenTruth(t *testing.T) {
	p := game(3)
	first := play(t, p, false)
	total := first.Raises[0].Length.M
	if strings.Contains(first.Title, "ipole") {
		total *= 2
	}
	// A timid move, then far too much, then given up.
	got := play(t, p, true, total*0.004, total*0.17)
	if !got.Done || len(got.Judged) != 2 || got.Advisor < 2 || got.Advisor > 4 || got.Truth == "" {
		t.Fatalf("%+v", got)
	}
	if !strings.HasPrefix(got.Judged[0].Says, "careful") || !strings.HasPrefix(got.Judged[1].Says, "too far") {
		t.Errorf("%+v", got.Judged)
	}
	if j := got.Judged[0]; math.Abs(j.AdvisorLeft) >= math.Abs(j.YoursLeft) {
		t.Errorf("the advisor left %v, a timid hand %v", j.AdvisorLeft, j.YoursLeft)
	}
	if _, err := p.Play(context.Background(), &engine, []float64{total * 0.9}, false, nil); err == nil {
		t.Error("nearly all of the wire was folded back without a word")
	}
	if _, err := (Practice{Seed: 1, Region: 1, Limit: 2}).Play(context.Background(), &engine, nil, false, nil); err == nil ||
		!strings.Contains(err.Error(), "Settings") {
		t.Errorf("no segments: %v", err)
	}
}

// Half of the games are swept through a cable, and the advisor, who is told its length, plays those as well. Of a
// vertical it plays the radiator, as the player does.
func TestTheAdvisorPlaysEveryKindOfGame(t *testing.T) {
	testsize.SkipIfShort(t, "solves hidden antennas")
	through, kinds := 0, map[string]bool{}
	for seed := uint64(1); seed <= 24; seed++ {
		p := game(seed)
		s, err := p.deal(context.Background(), &engine)
		if err != nil {
			t.Fatal(err)
		}
		_, _, ok := s.cable()
		if ok {
			through++
		}
		kind := s.built.Family + " " + s.built.Variant
		if kinds[kind] && !ok {
			continue
		}
		kinds[kind] = true
		first, err := p.up(context.Background(), s, nil, 0)
		if err != nil {
			t.Fatal(err)
		}
		fold, err := p.advised(context.Background(), s, []state{first})
		if err != nil || fold <= 0 || fold > 0.15*first.told.Total() {
			t.Errorf("seed %d, %s: the advisor folds %v of %v: %v", seed, kind, fold, first.told.Total(), err)
			continue
		}
		second, err := p.up(context.Background(), s, []float64{fold}, 1)
		if err != nil || second.reading.MinAt <= first.reading.MinAt {
			t.Errorf("seed %d, %s: from %v to %v: %v", seed, kind, first.reading.MinAt, second.reading.MinAt, err)
		}
		if about := play(t, p, false).About; strings.Contains(about, "Swept through") != ok {
			t.Errorf("seed %d: %s", seed, about)
		}
	}
	// Begun with their dip below the sweep, these two are cut shorter.
	for _, seed := range []uint64{114, 204} {
		if got := play(t, game(seed), true); got.Raises[0].MinHz <= got.Frequencies[0] || got.Raises[0].MinHz >= got.TargetHz || got.Advisor < 2 {
			t.Errorf("seed %d: %+v", seed, got.Raises[0])
		}
	}
	if through < 6 || through > 18 || len(kinds) != 4 {
		t.Errorf("%d of 24 through a cable, kinds %v", through, kinds)
	}
}
