package store

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"reed/core/lineage"
)

// Written is a version of a thing as it is kept here: with the file beside it, the number of its document's form, and the number under
// which its text is kept.
type Written struct {
	lineage.Version
	Form   int    `json:"form"`
	Data   []byte `json:"-"`
	number int
}

// atomic are the parts of documents that are merged as a whole, by kind: what is computed together makes sense only together.
var atomic = map[string][]string{
	"deployment": {"/plan"}, "sweep": {"/curve"}, "recipe": {"/plan", "/built", "/dips"}, "run": {"/slots", "/aerials"},
	"outing": {"/purpose"},
}

func (k kind[T]) rules() lineage.Rules {
	return lineage.Rules{Atomic: atomic[k.name], Check: func(doc json.RawMessage) error {
		v, err := k.decode(string(doc))
		if err != nil || k.check == nil {
			return err
		}
		return k.check(v)
	}}
}

// texts lists all versions of a thing that are kept here by rising number, the current one at the end.
func (k kind[T]) texts(ctx context.Context, tx *sql.Tx, id string) (out []Written, err error) {
	rows, err := tx.QueryContext(ctx, `SELECT version, deleted, doc, form, file, replaced_at FROM history WHERE kind = ?1 AND id = ?2
		UNION ALL SELECT version, deleted, doc, form, `+k.fileColumn()+`, '' FROM `+k.name+` WHERE id = ?2 ORDER BY version`, k.name, id)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	replaced := ""
	for rows.Next() {
		var w Written
		var doc, then string
		if err := rows.Scan(&w.number, &w.Deleted, &doc, &w.Form, &w.Data, &then); err != nil {
			return nil, err
		}
		w.Doc, w.File = json.RawMessage(doc), lineage.Hash(w.Data)
		if at, err := time.Parse(time.RFC3339Nano, replaced); err == nil {
			w.At = at.UnixMilli() // a version is written when the one before it is replaced
		}
		replaced = then
		out = append(out, w)
	}
	return out, rows.Err()
}

// origin records where a version comes from.
type origin struct {
	vid     string
	at      int64
	parents []string
	open    []lineage.Conflict
}

// versions lists the written versions of a thing with where they come from, and records that of the ones that were written here since.
// current is the number of the current version; it need not be a written one. conflicts are those that are open in it.
func (k kind[T]) versions(ctx context.Context, tx *sql.Tx, id string) (out []Written, current int, conflicts []lineage.Conflict,
	err error) {
	texts, err := k.texts(ctx, tx, id)
	if err != nil || len(texts) == 0 {
		return nil, 0, nil, err
	}
	known, settled, err := k.origins(ctx, tx, id)
	if err != nil {
		return nil, 0, nil, err
	}
	var before *Written // the version that came before in this notebook, written or put together
	open, err := k.openConflicts(ctx, tx, id)
	if err != nil {
		return nil, 0, nil, err
	}
	carried := open
	for i := range texts {
		w := &texts[i]
		switch o, recorded := known[w.number]; {
		case settled[w.number]:
			carried = open
		case recorded:
			w.ID, w.At, w.Parents, w.Open = o.vid, o.at, o.parents, o.open
			carried = o.open
			out = append(out, *w)
		default:
			list := versionsOf(out)
			w.Parents = lineage.Settle(list, k.rules()).Heads
			if len(carried) > 0 && before != nil {
				w.Open = undecided(carried, *before, *w)
			}
			carried = w.Open
			w.ID = lineage.Identify(w.Version)
			if err := k.record(ctx, tx, id, *w); err != nil {
				return nil, 0, nil, err
			}
			out = append(out, *w)
		}
		before = w
	}
	return out, texts[len(texts)-1].number, open, nil
}

func versionsOf(list []Written) []lineage.Version {
	out := make([]lineage.Version, len(list))
	for i, w := range list {
		out[i] = w.Version
	}
	return out
}

// undecided lists the conflicts whose field a new version leaves as it was shown.
func undecided(open []lineage.Conflict, was, is Written) (out []lineage.Conflict) {
	for _, c := range open {
		same := false
		switch c.Path {
		case lineage.Removed:
			same = was.Deleted == is.Deleted
		case lineage.Beside:
			same = was.File == is.File
		default:
			same = string(lineage.At(was.Doc, c.Path)) == string(lineage.At(is.Doc, c.Path))
		}
		if same {
			out = append(out, c)
		}
	}
	return out
}

func (k kind[T]) origins(ctx context.Context, tx *sql.Tx, id string) (known map[int]origin, settled map[int]bool, err error) {
	known, settled = map[int]origin{}, map[int]bool{}
	rows, err := tx.QueryContext(ctx, "SELECT vid, version, at, parents, open FROM lineage WHERE kind = ? AND id = ?", k.name, id)
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var o origin
		var number int
		var parents, open string
		if err := rows.Scan(&o.vid, &number, &o.at, &parents, &open); err != nil {
			return nil, nil, err
		}
		o.parents = strings.Fields(parents)
		if open != "" {
			if err := json.Unmarshal([]byte(open), &o.open); err != nil {
				return nil, nil, err
			}
		}
		known[number] = o
	}
	if err := rows.Err(); err != nil {
		return nil, nil, err
	}
	more, err := tx.QueryContext(ctx, "SELECT version FROM settled WHERE kind = ? AND id = ?", k.name, id)
	if err != nil {
		return nil, nil, err
	}
	defer more.Close()
	for more.Next() {
		var number int
		if err := more.Scan(&number); err != nil {
			return nil, nil, err
		}
		settled[number] = true
	}
	return known, settled, more.Err()
}

func (k kind[T]) record(ctx context.Context, tx *sql.Tx, id string, w Written) error {
	open := ""
	if len(w.Open) > 0 {
		text, err := json.Marshal(w.Open)
		if err != nil {
			return err
		}
		open = string(text)
	}
	_, err := tx.ExecContext(ctx, "INSERT OR IGNORE INTO lineage (kind, id, vid, version, at, parents, open) VALUES (?, ?, ?, ?, ?, ?, ?)",
		k.name, id, w.ID, w.number, w.At, strings.Join(w.Parents, " "), open)
	return err
}

func (k kind[T]) openConflicts(ctx context.Context, tx *sql.Tx, id string) (out []lineage.Conflict, err error) {
	var fields string
	switch err := tx.QueryRowContext(ctx, "SELECT fields FROM conflict WHERE kind = ? AND id = ?", k.name, id).Scan(&fields); {
	case errors.Is(err, sql.ErrNoRows):
		return nil, nil
	case err != nil:
		return nil, err
	}
	return out, json.Unmarshal([]byte(fields), &out)
}

func (k kind[T]) setConflicts(ctx context.Context, tx *sql.Tx, id string, list []lineage.Conflict) error {
	if len(list) == 0 {
		_, err := tx.ExecContext(ctx, "DELETE FROM conflict WHERE kind = ? AND id = ?", k.name, id)
		return err
	}
	text, err := json.Marshal(list)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, "INSERT INTO conflict (kind, id, fields) VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET fields = excluded.fields",
		k.name, id, string(text))
	return err
}

// edited ends the conflicts of the fields that a write changed.
func (k kind[T]) edited(ctx context.Context, tx *sql.Tx, id string, have, want state) error {
	open, err := k.openConflicts(ctx, tx, id)
	if err != nil || len(open) == 0 {
		return err
	}
	of := func(s state) Written {
		return Written{Version: lineage.Version{Deleted: s.deleted, File: lineage.Hash(s.file), Doc: json.RawMessage(s.doc)}}
	}
	left := undecided(open, of(have), of(want))
	if len(left) == len(open) {
		return nil
	}
	return k.setConflicts(ctx, tx, id, left)
}

// replace puts a text in the place of the current one under a number, and keeps the one before.
func (k kind[T]) replace(ctx context.Context, tx *sql.Tx, id string, number int, w Written) error {
	v, err := k.decode(string(w.Doc))
	if err != nil {
		return err
	}
	have, ok, err := k.current(ctx, tx, id)
	if err != nil {
		return err
	}
	want := state{number, w.Deleted, string(w.Doc), w.Data}
	var was *T
	if ok {
		old, err := k.decode(have.doc)
		if err != nil {
			return err
		}
		was = &old
		if _, err := tx.ExecContext(ctx, `INSERT OR IGNORE INTO history (kind, id, version, deleted, doc, form, file, replaced_at)
			SELECT ?, id, version, deleted, doc, form, `+k.fileColumn()+`, ? FROM `+k.name+" WHERE id = ?", k.name,
			time.Now().UTC().Format(time.RFC3339Nano), id); err != nil {
			return err
		}
		names, values := k.row(v, number, want)
		if _, err := tx.ExecContext(ctx, "UPDATE "+k.name+" SET "+strings.Join(names, " = ?, ")+" = ? WHERE id = ?",
			append(values, id)...); err != nil {
			return err
		}
	} else {
		_, values := k.row(v, number, want)
		if _, err := tx.ExecContext(ctx, k.insert(), append([]any{id}, values...)...); err != nil {
			return err
		}
	}
	if k.after == nil {
		return nil
	}
	return k.after(ctx, tx, was, &v)
}

// What a merge does to one thing.
const (
	ChangeNone     = "same"     // everything of it was here
	ChangeNew      = "new"      // it was not here
	ChangeTheirs   = "theirs"   // only the other notebook changed it
	ChangeJoined   = "joined"   // both changed it, in different fields
	ChangeConflict = "conflict" // both changed the same field
	ChangeRemoved  = "removed"  // the other notebook deleted it
	ChangeEarlier  = "earlier"  // only versions came that are replaced here already
)

// absorb takes in the versions of a thing that are not here yet, and settles what it shows.
func (k kind[T]) absorb(ctx context.Context, tx *sql.Tx, id string, came []Written) (change string, before int, err error) {
	have, before, was, err := k.versions(ctx, tx, id)
	if err != nil {
		return "", 0, err
	}
	unknown := slices.DeleteFunc(slices.Clone(came), func(w Written) bool {
		return slices.ContainsFunc(have, func(h Written) bool { return h.ID == w.ID })
	})
	if len(unknown) == 0 {
		return ChangeNone, before, nil
	}
	for _, w := range unknown {
		if err := k.acceptable(id, w); err != nil {
			return "", before, err
		}
	}
	slices.SortStableFunc(unknown, func(a, b Written) int { return cmp.Or(cmp.Compare(a.At, b.At), cmp.Compare(a.ID, b.ID)) })
	all := append(slices.Clone(have), unknown...)
	s := lineage.Settle(versionsOf(all), k.rules())
	number := before
	for i := range unknown {
		number++
		unknown[i].number = number
	}
	shown, shownNumber := Written{}, number+1
	for _, w := range append(have, unknown...) {
		if w.ID == s.From {
			shown = w
		}
	}
	fresh := slices.ContainsFunc(unknown, func(w Written) bool { return w.ID == s.From })
	if s.From == "" {
		shown = Written{Version: lineage.Version{Deleted: s.Deleted, File: s.File, Doc: s.Doc}, Form: k.form}
		for _, w := range all {
			if w.File == s.File {
				shown.Data = w.Data
			}
		}
	}
	if fresh {
		shownNumber = shown.number
	}
	for _, w := range unknown {
		if err := k.record(ctx, tx, id, w); err != nil {
			return "", before, err
		}
		if w.number == shownNumber {
			continue
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO history (kind, id, version, deleted, doc, form, file, replaced_at)
			VALUES (?, ?, ?, ?, ?, ?, ?, ?)`, k.name, id, w.number, w.Deleted, string(w.Doc), w.Form, w.Data,
			time.Now().UTC().Format(time.RFC3339Nano)); err != nil {
			return "", before, err
		}
	}
	// The current version has the highest number, so that the next write comes after all.
	if fresh && shownNumber != number {
		shownNumber, fresh = number+1, false
		if _, err := tx.ExecContext(ctx, `INSERT INTO history (kind, id, version, deleted, doc, form, file, replaced_at)
			VALUES (?, ?, ?, ?, ?, ?, ?, ?)`, k.name, id, shown.number, shown.Deleted, string(shown.Doc), shown.Form, shown.Data,
			time.Now().UTC().Format(time.RFC3339Nano)); err != nil {
			return "", before, err
		}
	}
	if !fresh {
		if _, err := tx.ExecContext(ctx, "INSERT INTO settled (kind, id, version) VALUES (?, ?, ?)", k.name, id, shownNumber); err != nil {
			return "", before, err
		}
	}
	if err := k.replace(ctx, tx, id, shownNumber, shown); err != nil {
		return "", before, err
	}
	if err := k.setConflicts(ctx, tx, id, s.Conflicts); err != nil {
		return "", before, err
	}
	return changeOf(have, s, len(s.Conflicts) > len(was)), before, nil
}

// changeOf says what a merge did to a thing.
func changeOf(have []Written, s lineage.State, clashed bool) string {
	mine := lineage.Settle(versionsOf(have), lineage.Rules{})
	switch {
	case len(have) == 0:
		return ChangeNew
	case clashed:
		return ChangeConflict
	case slices.ContainsFunc(have, func(w Written) bool { return w.ID == s.From }):
		return ChangeEarlier
	case s.Deleted && !mine.Deleted:
		return ChangeRemoved
	case len(s.Heads) > 1:
		return ChangeJoined
	}
	return ChangeTheirs
}

// acceptable is an error for a version that cannot be kept: its hash, its form or its document is wrong.
func (k kind[T]) acceptable(id string, w Written) error {
	if lineage.Identify(w.Version) != w.ID {
		return fmt.Errorf("the %s %s: a version of it is not what its hash says", k.name, id)
	}
	if w.File != lineage.Hash(w.Data) {
		return fmt.Errorf("the %s %s: the file of a version is not what its hash says", k.name, id)
	}
	if _, err := k.known(id, w.Form, string(w.Doc)); err != nil {
		return err
	}
	return nil
}

// decide ends conflicts of a thing with the chosen values, as a version made from a number.
func (k kind[T]) decide(ctx context.Context, tx *sql.Tx, id string, from int, choice map[string]int) (version int, err error) {
	list, current, open, err := k.versions(ctx, tx, id)
	switch {
	case err != nil:
		return 0, err
	case len(list) == 0:
		return 0, fmt.Errorf("%s %s: %w", k.name, id, ErrNotFound)
	}
	have, _, err := k.current(ctx, tx, id)
	if err != nil {
		return 0, err
	}
	if current != from {
		return current, &Conflict{k.name, id, have.version, have.deleted, json.RawMessage(have.doc), nil}
	}
	doc, deleted, file, err := lineage.Decide(json.RawMessage(have.doc), open, choice)
	if err != nil {
		return 0, err
	}
	w := Written{Form: k.form, Data: have.file, number: current + 1}
	w.Doc, w.Deleted = doc, have.deleted
	if deleted != nil {
		w.Deleted = *deleted
	}
	if file != nil {
		for _, x := range list {
			if x.File == *file {
				w.Data = x.Data
			}
		}
	}
	v, err := k.known(id, k.form, string(doc))
	if err != nil {
		return 0, err
	}
	plain, err := k.encode(v)
	if err != nil {
		return 0, err
	}
	w.Doc, w.File, w.At = json.RawMessage(plain.doc), lineage.Hash(w.Data), time.Now().UnixMilli()
	w.Parents = lineage.Settle(versionsOf(list), k.rules()).Heads
	for _, c := range open {
		if _, decided := choice[c.Path]; !decided {
			w.Open = append(w.Open, c)
		}
	}
	w.ID = lineage.Identify(w.Version)
	if err := k.record(ctx, tx, id, w); err != nil {
		return 0, err
	}
	if err := k.replace(ctx, tx, id, w.number, w); err != nil {
		return 0, err
	}
	return w.number, k.setConflicts(ctx, tx, id, w.Open)
}

// forget takes a merged thing back to what it was: before is the number of its version then, 0 where it was not here. It is left where
// somebody changed it since.
func (k kind[T]) forget(ctx context.Context, tx *sql.Tx, id string, before, after int) error {
	have, ok, err := k.current(ctx, tx, id)
	if err != nil || !ok || have.version != after {
		return err
	}
	if before == 0 {
		for _, q := range []string{"DELETE FROM " + k.name + " WHERE id = ?1 AND ?2 = ?2", "DELETE FROM history WHERE kind = ?2 AND id = ?1",
			"DELETE FROM lineage WHERE kind = ?2 AND id = ?1", "DELETE FROM settled WHERE kind = ?2 AND id = ?1",
			"DELETE FROM conflict WHERE kind = ?2 AND id = ?1"} {
			if _, err := tx.ExecContext(ctx, q, id, k.name); err != nil {
				return err
			}
		}
		if k.after != nil {
			v, err := k.decode(have.doc)
			if err != nil {
				return err
			}
			return k.after(ctx, tx, &v, &v)
		}
		return nil
	}
	then, known, err := k.earlier(ctx, tx, id, before)
	if err != nil || !known {
		return err
	}
	// The versions that came stay in history, and come in again with the next merge.
	if _, err := tx.ExecContext(ctx, "DELETE FROM lineage WHERE kind = ? AND id = ? AND version > ?", k.name, id, before); err != nil {
		return err
	}
	for number := before + 1; number <= after+1; number++ {
		if _, err := tx.ExecContext(ctx, "INSERT OR IGNORE INTO settled (kind, id, version) VALUES (?, ?, ?)", k.name, id, number); err != nil {
			return err
		}
	}
	if err := k.replace(ctx, tx, id, after+1, Written{Version: lineage.Version{Deleted: then.deleted, Doc: json.RawMessage(then.doc)},
		Form: k.form, Data: then.file}); err != nil {
		return err
	}
	return k.setConflicts(ctx, tx, id, nil)
}

// Earlier is a version of a thing that was replaced, with what is different in the current one.
type Earlier struct {
	Version int
	At      time.Time // when it was written; zero where that is not known
	Deleted bool
	File    bool // the file beside it was another
	Differs []lineage.Difference
}

// mostEarlier is how many versions of a thing are listed, the last ones.
const mostEarlier = 200

// Earlier lists the versions of a thing that were replaced, the newest first, and the number of the current one. What other
// notebooks wrote is among them.
func (s *Store) Earlier(ctx context.Context, kind, id string) (list []Earlier, current int, err error) {
	k, ok := keepers[kind]
	if !ok {
		return nil, 0, fmt.Errorf("%q has no versions: %w", kind, ErrNotFound)
	}
	var texts []Written
	if err := s.inTx(ctx, "reading earlier versions", func(tx *sql.Tx) (err error) {
		texts, err = k.texts(ctx, tx, id)
		return err
	}); err != nil {
		return nil, 0, err
	}
	if len(texts) == 0 {
		return nil, 0, fmt.Errorf("%s %q: %w", kind, id, ErrNotFound)
	}
	last := texts[len(texts)-1]
	for _, w := range slices.Backward(texts[max(0, len(texts)-1-mostEarlier) : len(texts)-1]) {
		e := Earlier{Version: w.number, Deleted: w.Deleted, File: w.File != last.File, Differs: lineage.Compare(w.Doc, last.Doc)}
		if w.At != 0 {
			e.At = time.UnixMilli(w.At).UTC()
		}
		list = append(list, e)
	}
	return list, last.number, nil
}
