package bounds

import (
	"encoding/json"
	"strings"
	"testing"
	"time"
)

func TestIDsAreSafeAsNames(t *testing.T) {
	for _, good := range []string{"019a-77", "o1", "me", "A.b_c:d-9", strings.Repeat("a", 64)} {
		if err := ID(good); err != nil {
			t.Error(err)
		}
	}
	for _, bad := range []string{"", "../../..", "a..b", ".hidden", "a b", "a/b", "a\x00", strings.Repeat("a", 5000), "é"} {
		if ID(bad) == nil {
			t.Errorf("%.20q is taken for an ID", bad)
		}
	}
}

func TestDocumentsAreBounded(t *testing.T) {
	deep := strings.Repeat("[", 30) + strings.Repeat("]", 30)
	for name, doc := range map[string]string{
		"another ID": `{"id":"b"}`, "no object": `[1]`, "no JSON": `{`, "a long text": `{"id":"a","x":"` + strings.Repeat("x", MostText+1) + `"}`,
		"a huge number": `{"id":"a","x":1e300}`, "no number": `{"id":"a","x":1e400}`,
		"a long list": `{"id":"a","x":[` + strings.Repeat("1,", MostList) + `1]}`,
		"depth":       `{"id":"a","x":` + deep + `}`, "a long name": `{"id":"a","` + strings.Repeat("k", MostName+1) + `":1}`,
		"five megabytes": `{"id":"a","x":["` + strings.Repeat(strings.Repeat("y", 10_000)+`","`, 500) + `"]}`,
	} {
		if Document("a", json.RawMessage(doc)) == nil {
			t.Errorf("%s is kept", name)
		}
	}
	if err := Document("a", json.RawMessage(`{"id":"a","n":[1,2.5,-3e9],"t":"text"}`)); err != nil {
		t.Error(err)
	}
}

func TestTimesLieInTheCenturiesOfRadio(t *testing.T) {
	if Moment("x", time.Time{}) != nil || Moment("x", time.Date(2026, 6, 1, 0, 0, 0, 0, time.UTC)) != nil || Day("x", "2026-06-01") != nil {
		t.Error("a usual time is refused")
	}
	if Day("x", "0000-01-01") == nil || Day("x", "2026-13-01") == nil || Moment("x", time.Date(9999, 1, 1, 0, 0, 0, 0, time.UTC)) == nil {
		t.Error("an odd time is taken")
	}
	if Name("x", " ") == nil || Name("x", strings.Repeat("n", MostName+1)) == nil || Name("x", "Heron") != nil {
		t.Error("names")
	}
	if Number("x", 1e308, 0, 1e5) == nil || Number("x", 5, 0, 1e5) != nil {
		t.Error("numbers")
	}
}
