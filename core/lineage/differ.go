package lineage

import "encoding/json"

// Difference is a field that two versions of a document have with different values. Was is empty where the older one lacks it.
type Difference struct {
	Path string          `json:"path"` // as RFC 6901 writes it
	Was  json.RawMessage `json:"was,omitempty"`
	Is   json.RawMessage `json:"is,omitempty"`
}

// Compare lists the fields in which two documents differ, sorted by path. Lists are compared as a whole.
func Compare(was, is json.RawMessage) []Difference {
	var out []Difference
	compare("", decode(was), decode(is), &out)
	return out
}

func compare(path string, was, is any, out *[]Difference) {
	if equal(was, is) {
		return
	}
	a, inA := was.(map[string]any)
	b, inB := is.(map[string]any)
	if !inA || !inB {
		*out = append(*out, Difference{path, encode(was), encode(is)})
		return
	}
	for _, key := range keysOf(a, b) {
		compare(path+"/"+escape(key), valueOf(a, key), valueOf(b, key), out)
	}
}
