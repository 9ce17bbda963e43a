// Package lineage merges the versions of one document that several notebooks wrote. Every version names the versions that it was
// made from; what a document shows follows from the set of its versions alone, so that notebooks with the same versions show the
// same, in whatever order these arrived.
package lineage

import (
	"bytes"
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

// Version is a document as somebody wrote it. Parents are the IDs of the versions that it was made from, none for the first. At is
// when it was written, in milliseconds since 1970, 0 where that is not known. File is the hash of the file beside it. Open are
// conflicts that whoever wrote it left undecided.
type Version struct {
	ID      string          `json:"vid"`
	Parents []string        `json:"parents,omitempty"`
	At      int64           `json:"at,omitempty"`
	Deleted bool            `json:"deleted,omitempty"`
	File    string          `json:"file,omitempty"`
	Doc     json.RawMessage `json:"doc"`
	Open    []Conflict      `json:"open,omitempty"`
}

// Value is a field of one version; Raw is empty where the version lacks the field.
type Value struct {
	Version string          `json:"version"`
	Raw     json.RawMessage `json:"value,omitempty"`
}

// Conflict is a field that several versions changed, each in its own way. Path names it by its keys; an empty path is the whole
// document. The last value is the one that is shown until somebody decides.
type Conflict struct {
	Path   string  `json:"path"`
	Values []Value `json:"values"`
}

// Paths of what does not stand in the document.
const (
	Whole   = ""
	Removed = "/deleted"
	Beside  = "/file"
)

// Identify is the ID of a version: a hash of all that it says.
func Identify(v Version) string {
	v.ID = ""
	slices.Sort(v.Parents)
	doc := &bytes.Buffer{}
	if json.Compact(doc, v.Doc) == nil {
		v.Doc = doc.Bytes()
	}
	text, err := json.Marshal(v)
	if err != nil {
		text = []byte(fmt.Sprint(v)) // a document that is no JSON: it is refused when it is read
	}
	sum := sha256.Sum256(text)
	return hex.EncodeToString(sum[:16])
}

// Hash is the name of a file's content, empty for none.
func Hash(file []byte) string {
	if len(file) == 0 {
		return ""
	}
	sum := sha256.Sum256(file)
	return hex.EncodeToString(sum[:])
}

// Rules say how documents of a kind are merged: Atomic paths are taken whole, and a merged document that fails Check is not shown.
type Rules struct {
	Atomic []string
	Check  func(doc json.RawMessage) error
}

// State is the result of merging a set of versions. From is the ID of the version it equals, empty where it merges several.
// Heads are the versions without a successor: a new version has all of them as parents.
type State struct {
	From      string
	Heads     []string
	Deleted   bool
	File      string
	Doc       json.RawMessage
	Conflicts []Conflict
}

// graph is a set of versions with their ancestors.
type graph struct {
	of        map[string]*Version
	ancestors map[string]map[string]bool // with themselves
}

func graphOf(list []Version) graph {
	g := graph{of: map[string]*Version{}, ancestors: map[string]map[string]bool{}}
	for i := range list {
		g.of[list[i].ID] = &list[i]
	}
	for id := range g.of {
		g.above(id)
	}
	return g
}

// above lists a version with all that it was made from, as far as they are known. It goes without recursion, since histories are long.
func (g graph) above(id string) map[string]bool {
	if have, ok := g.ancestors[id]; ok {
		return have
	}
	out, todo := map[string]bool{}, []string{id}
	for len(todo) > 0 {
		at := todo[len(todo)-1]
		todo = todo[:len(todo)-1]
		v, known := g.of[at]
		if !known || out[at] {
			continue
		}
		out[at] = true
		todo = append(todo, v.Parents...)
	}
	g.ancestors[id] = out
	return out
}

// heads lists the versions that no other was made from, the one written last at the end.
func (g graph) heads() []*Version {
	made := map[string]bool{}
	for id, v := range g.of {
		for _, p := range v.Parents {
			if p != id {
				made[p] = true
			}
		}
	}
	var out []*Version
	for id, v := range g.of {
		if !made[id] {
			out = append(out, v)
		}
	}
	slices.SortFunc(out, byAge)
	return out
}

func byAge(a, b *Version) int { return cmp.Or(cmp.Compare(a.At, b.At), strings.Compare(a.ID, b.ID)) }

// Settle works out what a set of versions comes to. Fields that were changed on different sides are joined; of a field that was
// changed on several sides the value written last is shown, and the conflict listed.
func Settle(list []Version, rules Rules) State {
	g := graphOf(list)
	heads := g.heads()
	if len(heads) == 0 {
		return State{}
	}
	last := heads[len(heads)-1]
	out := State{From: last.ID, Deleted: last.Deleted, File: last.File, Doc: last.Doc}
	for _, h := range heads {
		out.Heads = append(out.Heads, h.ID)
	}
	slices.Sort(out.Heads)
	out.Conflicts = g.leftOpen(heads)
	if len(heads) == 1 {
		return out
	}
	m := g.join(heads, rules)
	out.Deleted, out.File = m.deleted, m.file
	doc, err := json.Marshal(m.doc)
	if err == nil && rules.Check != nil {
		err = rules.Check(doc)
	}
	if err != nil {
		// What was put together cannot be: the whole documents are the conflict.
		out.Doc, out.Conflicts = last.Doc, []Conflict{{Path: Whole}}
		for _, h := range heads {
			out.Conflicts[0].Values = append(out.Conflicts[0].Values, Value{h.ID, h.Doc})
		}
		return out
	}
	out.Doc = doc
	for _, c := range m.conflicts {
		out.Conflicts = slices.DeleteFunc(out.Conflicts, func(o Conflict) bool { return o.Path == c.Path })
		out.Conflicts = append(out.Conflicts, c)
	}
	slices.SortFunc(out.Conflicts, func(a, b Conflict) int { return strings.Compare(a.Path, b.Path) })
	if same := g.written(out, heads); same != "" && len(out.Conflicts) == 0 {
		out.From = same
		return out
	}
	out.From = ""
	return out
}

// written is the head that a state is word for word, empty for none.
func (g graph) written(s State, heads []*Version) string {
	for _, h := range heads {
		if h.Deleted == s.Deleted && h.File == s.File && equalJSON(h.Doc, s.Doc) {
			return h.ID
		}
	}
	return ""
}

// leftOpen lists the conflicts that the heads left undecided, without those that another head decided.
func (g graph) leftOpen(heads []*Version) (out []Conflict) {
	for _, h := range heads {
		for _, c := range h.Open {
			decided := slices.ContainsFunc(heads, func(other *Version) bool {
				knows := !slices.ContainsFunc(c.Values, func(v Value) bool { return !g.above(other.ID)[v.Version] })
				return knows && !slices.ContainsFunc(other.Open, func(o Conflict) bool { return o.Path == c.Path })
			})
			if !decided && !slices.ContainsFunc(out, func(o Conflict) bool { return o.Path == c.Path }) {
				out = append(out, c)
			}
		}
	}
	slices.SortFunc(out, func(a, b Conflict) int { return strings.Compare(a.Path, b.Path) })
	return out
}

// joined is the result of merging several versions one after the other.
type joined struct {
	doc       any
	deleted   bool
	file      string
	above     map[string]bool
	last      map[string]string // by path, the version that a value is of
	by        string            // the version that values are of where none is named
	conflicts []Conflict
	rules     Rules
}

// join puts heads together in the order in which they were written.
func (g graph) join(heads []*Version, rules Rules) joined {
	first := heads[0]
	m := joined{doc: decode(first.Doc), deleted: first.Deleted, file: first.File, above: map[string]bool{}, last: map[string]string{},
		by: first.ID, rules: rules}
	for id := range g.above(first.ID) {
		m.above[id] = true
	}
	for _, h := range heads[1:] {
		base := g.base(m.above, g.above(h.ID))
		m.add(base, h)
		for id := range g.above(h.ID) {
			m.above[id] = true
		}
	}
	return m
}

// base is the newest version that both sides were made from: by its ID, and where they have none in common, by what it says.
func (g graph) base(a, b map[string]bool) *Version {
	var best *Version
	take := func(v *Version) {
		if best == nil || g.above(v.ID)[best.ID] || !g.above(best.ID)[v.ID] && byAge(v, best) > 0 {
			best = v
		}
	}
	ids := make([]string, 0, len(a))
	for id := range a {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	for _, id := range ids {
		if b[id] {
			take(g.of[id])
		}
	}
	if best != nil {
		return best
	}
	texts := map[string]bool{}
	for id := range b {
		texts[string(canonical(g.of[id].Doc))] = true
	}
	for _, id := range ids {
		if v := g.of[id]; texts[string(canonical(v.Doc))] {
			take(v)
		}
	}
	return best
}

// add puts one more version in.
func (m *joined) add(base *Version, h *Version) {
	var was any = absent{}
	baseDeleted, baseFile := false, ""
	if base != nil {
		was, baseDeleted, baseFile = decode(base.Doc), base.Deleted, base.File
	}
	shown := m.doc
	m.doc = m.merge(Whole, was, m.doc, decode(h.Doc), h.ID)
	// A deletion against a change is a conflict: what was changed stays to be seen.
	if m.deleted != h.Deleted {
		changed := !equal(was, shown)
		if m.deleted {
			changed = !equal(was, decode(h.Doc))
		}
		switch {
		case base != nil && baseDeleted:
			m.deleted = false // brought back on one side
		case base == nil || changed:
			m.clash(Removed, m.deleted, h.Deleted, h.ID)
			m.deleted = false
		default:
			m.deleted = true
		}
	}
	switch {
	case m.file == h.File || h.File == baseFile && base != nil:
	case m.file == baseFile && base != nil:
		m.file = h.File
	default:
		m.clash(Beside, m.file, h.File, h.ID)
		m.file = h.File
	}
}

type absent struct{}

// merge is a value that two sides have made of a base; of what cannot be joined the second side's is shown, and the conflict noted.
func (m *joined) merge(path string, base, a, b any, by string) any {
	switch {
	case equal(a, b):
		return a
	case equal(a, base):
		m.last[path] = by
		return b
	case equal(b, base):
		return a
	}
	if !slices.Contains(m.rules.Atomic, path) {
		x, isA := a.(map[string]any)
		y, isB := b.(map[string]any)
		if isA && isB {
			w, _ := base.(map[string]any)
			return m.mergeObjects(path, w, x, y, by)
		}
		p, isA := withIDs(a)
		q, isB := withIDs(b)
		if isA && isB {
			w, _ := withIDs(base)
			return m.mergeLists(path, w, p, q, by)
		}
	}
	m.clash(path, a, b, by)
	m.last[path] = by
	return b
}

func (m *joined) mergeObjects(path string, base, a, b map[string]any, by string) any {
	out := map[string]any{}
	for _, key := range keysOf(base, a, b) {
		v := m.merge(path+"/"+escape(key), valueOf(base, key), valueOf(a, key), valueOf(b, key), by)
		if _, gone := v.(absent); !gone {
			out[key] = v
		}
	}
	return out
}

// mergeLists joins lists whose elements have IDs of their own: those of the first side in its order, then what the second has more.
func (m *joined) mergeLists(path string, base, a, b list, by string) any {
	out, order := []any{}, slices.Clone(a.order)
	for _, id := range b.order {
		if _, both := a.of[id]; !both {
			order = append(order, id)
		}
	}
	for _, id := range order {
		v := m.merge(path+"/"+escape(id), valueOf(base.of, id), valueOf(a.of, id), valueOf(b.of, id), by)
		if _, gone := v.(absent); !gone {
			out = append(out, v)
		}
	}
	return out
}

// clash notes a conflict: what is shown so far, and another version's value.
func (m *joined) clash(path string, a, b any, by string) {
	before := cmp.Or(m.last[path], m.by)
	values := []Value{{before, encode(a)}, {by, encode(b)}}
	for i, c := range m.conflicts {
		if c.Path == path {
			m.conflicts[i].Values = append(c.Values, values[1])
			return
		}
	}
	m.conflicts = append(m.conflicts, Conflict{path, values})
}

// list is a list whose elements have IDs, by these and in its order.
type list struct {
	of    map[string]any
	order []string
}

// escape and unescape write keys as parts of a path (RFC 6901).
func escape(key string) string { return strings.NewReplacer("~", "~0", "/", "~1").Replace(key) }

func unescape(part string) string { return strings.NewReplacer("~1", "/", "~0", "~").Replace(part) }

// parts are the keys of a path.
func parts(path string) []string {
	out := strings.Split(path[1:], "/")
	for i := range out {
		out[i] = unescape(out[i])
	}
	return out
}

func withIDs(v any) (list, bool) {
	elements, ok := v.([]any)
	if !ok {
		return list{}, false
	}
	out := list{of: map[string]any{}}
	for _, e := range elements {
		o, isObject := e.(map[string]any)
		id, _ := o["id"].(string)
		if _, twice := out.of[id]; !isObject || id == "" || twice {
			return list{}, false
		}
		out.of[id], out.order = e, append(out.order, id)
	}
	return out, true
}

func keysOf(maps ...map[string]any) []string {
	seen := map[string]bool{}
	var out []string
	for _, m := range maps {
		for k := range m {
			if !seen[k] {
				seen[k] = true
				out = append(out, k)
			}
		}
	}
	slices.Sort(out)
	return out
}

func valueOf(m map[string]any, key string) any {
	if v, ok := m[key]; ok {
		return v
	}
	return absent{}
}

func decode(doc json.RawMessage) any {
	d := json.NewDecoder(bytes.NewReader(doc))
	d.UseNumber()
	var v any
	if d.Decode(&v) != nil {
		return absent{}
	}
	return v
}

func encode(v any) json.RawMessage {
	if _, gone := v.(absent); gone {
		return nil
	}
	text, err := json.Marshal(v)
	if err != nil {
		return nil
	}
	return text
}

func canonical(doc json.RawMessage) json.RawMessage { return encode(decode(doc)) }

func equalJSON(a, b json.RawMessage) bool { return bytes.Equal(canonical(a), canonical(b)) }

func equal(a, b any) bool { return bytes.Equal(encode(a), encode(b)) }

// Decide is a document with the chosen values in the place of those that are shown: by path, which of a conflict's values.
func Decide(doc json.RawMessage, conflicts []Conflict, choice map[string]int) (out json.RawMessage, deleted *bool, file *string,
	err error) {
	root := decode(doc)
	for _, c := range conflicts {
		n, chosen := choice[c.Path]
		if !chosen {
			continue
		}
		if n < 0 || n >= len(c.Values) {
			return nil, nil, nil, fmt.Errorf("%s has no value %d", cmp.Or(c.Path, "the document"), n)
		}
		raw := c.Values[n].Raw
		switch c.Path {
		case Removed:
			deleted = new(bool)
			err = json.Unmarshal(raw, deleted)
		case Beside:
			file = new(string)
			err = json.Unmarshal(raw, file)
		case Whole:
			root = decode(raw)
		default:
			root, err = put(root, parts(c.Path), raw)
		}
		if err != nil {
			return nil, nil, nil, fmt.Errorf("deciding %s: %w", c.Path, err)
		}
	}
	return encode(root), deleted, file, nil
}

// put sets what stands at a path.
func put(at any, keys []string, raw json.RawMessage) (any, error) {
	var v any = absent{}
	if len(raw) > 0 {
		v = decode(raw)
	}
	switch x := at.(type) {
	case map[string]any:
		if len(keys) > 1 {
			inner, err := put(x[keys[0]], keys[1:], raw)
			x[keys[0]] = inner
			return x, err
		}
		if _, gone := v.(absent); gone {
			delete(x, keys[0])
		} else {
			x[keys[0]] = v
		}
		return x, nil
	case []any:
		for i, e := range x {
			if o, ok := e.(map[string]any); ok && o["id"] == keys[0] {
				if len(keys) > 1 {
					inner, err := put(e, keys[1:], raw)
					x[i] = inner
					return x, err
				}
				if _, gone := v.(absent); gone {
					return slices.Delete(x, i, i+1), nil
				}
				x[i] = v
				return x, nil
			}
		}
		if _, gone := v.(absent); !gone && len(keys) == 1 {
			return append(x, v), nil
		}
	}
	return at, fmt.Errorf("%q is not there", keys[0])
}

// At returns the value at a conflict's path in a document, nil if there is none.
func At(doc json.RawMessage, path string) json.RawMessage {
	at := decode(doc)
	if path == Whole {
		return encode(at)
	}
	for _, key := range parts(path) {
		switch x := at.(type) {
		case map[string]any:
			at = valueOf(x, key)
		case []any:
			l, _ := withIDs(x)
			at = valueOf(l.of, key)
		default:
			return nil
		}
	}
	return encode(at)
}
