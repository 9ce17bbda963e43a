package lineage

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
)

func version(doc string, at int64, parents ...Version) Version {
	v := Version{Doc: json.RawMessage(doc), At: at}
	for _, p := range parents {
		v.Parents = append(v.Parents, p.ID)
	}
	v.ID = Identify(v)
	return v
}

func deleted(v Version) Version {
	v.Deleted = true
	v.ID = Identify(v)
	return v
}

func paths(s State) string {
	var out []string
	for _, c := range s.Conflicts {
		out = append(out, c.Path)
	}
	return strings.Join(out, " ")
}

func TestFieldsOfTwoSidesAreJoined(t *testing.T) {
	first := version(`{"name":"a","notes":"n","plan":{"x":1,"y":2}}`, 1)
	for _, c := range []struct {
		name, left, right, doc, conflicts string
	}{
		{"different fields", `{"name":"b","notes":"n","plan":{"x":1,"y":2}}`, `{"name":"a","notes":"m","plan":{"x":1,"y":2}}`,
			`{"name":"b","notes":"m","plan":{"x":1,"y":2}}`, ""},
		{"inner fields", `{"name":"a","notes":"n","plan":{"x":9,"y":2}}`, `{"name":"a","notes":"n","plan":{"x":1,"y":8}}`,
			`{"name":"a","notes":"n","plan":{"x":9,"y":8}}`, ""},
		{"the same change", `{"name":"b","notes":"n","plan":{"x":1,"y":2}}`, `{"name":"b","notes":"n","plan":{"x":1,"y":2}}`,
			`{"name":"b","notes":"n","plan":{"x":1,"y":2}}`, ""},
		{"the same field", `{"name":"b","notes":"n","plan":{"x":1,"y":2}}`, `{"name":"c","notes":"m","plan":{"x":1,"y":2}}`,
			`{"name":"c","notes":"m","plan":{"x":1,"y":2}}`, "/name"},
		{"a field taken out and one changed", `{"notes":"n","plan":{"x":1,"y":2}}`, `{"name":"c","notes":"n","plan":{"x":1,"y":2}}`,
			`{"name":"c","notes":"n","plan":{"x":1,"y":2}}`, "/name"},
		{"a field taken out alone", `{"notes":"n","plan":{"x":1,"y":2}}`, `{"name":"a","notes":"m","plan":{"x":1,"y":2}}`,
			`{"notes":"m","plan":{"x":1,"y":2}}`, ""},
	} {
		left, right := version(c.left, 2, first), version(c.right, 3, first)
		for _, order := range [][]Version{{first, left, right}, {right, left, first}} {
			s := Settle(order, Rules{})
			if !equalJSON(s.Doc, json.RawMessage(c.doc)) || paths(s) != c.conflicts {
				t.Errorf("%s: %s, conflicts %q", c.name, s.Doc, paths(s))
			}
		}
	}
}

func TestListsWithIDsAreJoinedByThem(t *testing.T) {
	first := version(`{"marks":[{"id":"1","hz":7},{"id":"2","hz":14}]}`, 1)
	left := version(`{"marks":[{"id":"1","hz":7.1},{"id":"2","hz":14},{"id":"a","hz":21}]}`, 2, first)
	right := version(`{"marks":[{"id":"1","hz":7},{"id":"b","hz":28}]}`, 3, first)
	s := Settle([]Version{first, left, right}, Rules{})
	if want := `{"marks":[{"hz":7.1,"id":"1"},{"hz":21,"id":"a"},{"hz":28,"id":"b"}]}`; string(s.Doc) != want || len(s.Conflicts) != 0 {
		t.Errorf("%s %v", s.Doc, s.Conflicts)
	}
}

func TestDeletionAgainstAChangeIsAConflict(t *testing.T) {
	first := version(`{"name":"a"}`, 1)
	gone := deleted(version(`{"name":"a"}`, 2, first))
	changed := version(`{"name":"b"}`, 3, first)
	s := Settle([]Version{first, gone, changed}, Rules{})
	if s.Deleted || paths(s) != Removed || !equalJSON(s.Doc, changed.Doc) {
		t.Errorf("%+v", s)
	}
	if s := Settle([]Version{first, gone}, Rules{}); !s.Deleted || len(s.Conflicts) != 0 {
		t.Errorf("a deletion alone: %+v", s)
	}
}

func TestADecisionEndsAConflictEverywhere(t *testing.T) {
	first := version(`{"name":"a","notes":"n"}`, 1)
	left, right := version(`{"name":"b","notes":"n"}`, 2, first), version(`{"name":"c","notes":"n"}`, 3, first)
	all := []Version{first, left, right}
	s := Settle(all, Rules{})
	// Somebody edits another field meanwhile, and leaves it open.
	edited := Version{Parents: s.Heads, At: 4, Doc: json.RawMessage(`{"name":"c","notes":"more"}`), Open: s.Conflicts}
	edited.ID = Identify(edited)
	s2 := Settle(append(slices.Clone(all), edited), Rules{})
	if paths(s2) != "/name" || !equalJSON(s2.Doc, edited.Doc) {
		t.Errorf("%+v", s2)
	}
	doc, _, _, err := Decide(s.Doc, s.Conflicts, map[string]int{"/name": 0})
	if err != nil || !equalJSON(doc, json.RawMessage(`{"name":"b","notes":"n"}`)) {
		t.Fatalf("%s %v", doc, err)
	}
	decided := Version{Parents: s.Heads, At: 5, Doc: doc}
	decided.ID = Identify(decided)
	s3 := Settle(append(slices.Clone(all), edited, decided), Rules{})
	if paths(s3) != "" || !equalJSON(s3.Doc, json.RawMessage(`{"name":"b","notes":"more"}`)) {
		t.Errorf("%s %q", s3.Doc, paths(s3))
	}
	if _, _, _, err := Decide(s.Doc, s.Conflicts, map[string]int{"/name": 7}); err == nil {
		t.Error("a value that is not there was chosen")
	}
}

func TestWhatCannotBeIsNotPutTogether(t *testing.T) {
	first := version(`{"a":1,"b":1}`, 1)
	left, right := version(`{"a":2,"b":1}`, 2, first), version(`{"a":1,"b":2}`, 3, first)
	never := Rules{Check: func(doc json.RawMessage) error {
		if equalJSON(doc, json.RawMessage(`{"a":2,"b":2}`)) {
			return errors.New("both")
		}
		return nil
	}}
	s := Settle([]Version{first, left, right}, never)
	if !equalJSON(s.Doc, right.Doc) || len(s.Conflicts) != 1 || s.Conflicts[0].Path != Whole || len(s.Conflicts[0].Values) != 2 {
		t.Errorf("%+v", s)
	}
	atomic := Settle([]Version{first, left, right}, Rules{Atomic: []string{Whole}})
	if paths(atomic) != "" && atomic.Conflicts[0].Path != Whole || !equalJSON(atomic.Doc, right.Doc) {
		t.Errorf("%+v", atomic)
	}
}

// Whatever three notebooks write and exchange, the same versions come to the same, and every text of a conflict is in it.
func TestTheSameVersionsComeToTheSame(t *testing.T) {
	for seed := range uint64(300) {
		rng := rand.New(rand.NewPCG(seed, 1))
		books := make([][]Version, 3)
		first := version(`{"name":"","notes":"","n":{"x":0,"y":0}}`, 0)
		for i := range books {
			books[i] = []Version{first}
		}
		for step := range 12 {
			i := rng.IntN(3)
			if rng.IntN(3) == 0 {
				for _, v := range books[rng.IntN(3)] {
					if !slices.ContainsFunc(books[i], func(w Version) bool { return w.ID == v.ID }) {
						books[i] = append(books[i], v)
					}
				}
				continue
			}
			s := Settle(books[i], Rules{})
			doc := decode(s.Doc).(map[string]any)
			switch rng.IntN(4) {
			case 0:
				doc["name"] = fmt.Sprint("name ", step)
			case 1:
				doc["notes"] = fmt.Sprint("notes ", step)
			case 2:
				doc["n"].(map[string]any)["xy"[rng.IntN(2):][:1]] = step
			}
			v := Version{Parents: s.Heads, At: int64(step + rng.IntN(4)), Doc: encode(doc), Deleted: rng.IntN(8) == 0}
			for _, c := range s.Conflicts {
				if rng.IntN(2) == 0 {
					v.Open = append(v.Open, c)
				}
			}
			v.ID = Identify(v)
			books[i] = append(books[i], v)
		}
		var all []Version
		for _, b := range books {
			for _, v := range b {
				if !slices.ContainsFunc(all, func(w Version) bool { return w.ID == v.ID }) {
					all = append(all, v)
				}
			}
		}
		want, _ := json.Marshal(Settle(all, Rules{}))
		for range 4 {
			rng.Shuffle(len(all), func(i, k int) { all[i], all[k] = all[k], all[i] })
			if got, _ := json.Marshal(Settle(all, Rules{})); string(got) != string(want) {
				t.Fatalf("seed %d: %s, then %s", seed, want, got)
			}
		}
	}
}
