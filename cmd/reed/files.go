package main

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"runtime/debug"
	"strings"
	"time"

	"github.com/google/uuid"

	"reed/core/band"
	"reed/core/place"
	"reed/core/quantity"
	"reed/internal/exchange"
	"reed/internal/store"
)

func (c *call) json(v any) error {
	e := json.NewEncoder(c.out)
	e.SetIndent("", "  ")
	return e.Encode(v)
}

// readFile makes the preview of a file; a file that cannot be read is an error of the call.
func readFile(ctx context.Context, name string, o exchange.Options) (*exchange.Preview, []byte, error) {
	// A long file leaves much behind while it is read: what is not needed any more goes early.
	defer debug.SetGCPercent(debug.SetGCPercent(20))
	data, err := os.ReadFile(name)
	if err != nil {
		return nil, nil, usageError{err}
	}
	p, err := exchange.ReadBytes(ctx, data, name, o)
	var fe *exchange.FileError
	if errors.As(err, &fe) {
		err = usagef("%s: %w", name, err)
	}
	return p, data, err
}

func previewFile(ctx context.Context, c *call) error {
	region := c.flags.Int("region", 1, "ITU region whose bands apply")
	if err := c.begin(); err != nil {
		return err
	}
	if len(c.args) != 1 {
		return usagef("name one file")
	}
	p, _, err := readFile(ctx, c.args[0], exchange.Options{Region: band.Region(*region), Now: time.Now()})
	if err != nil {
		return err
	}
	p.MarkKnown(nil)
	p.Shorten(mostPreviewed)
	return c.json(p)
}

// mostPreviewed is how many records or points of a file a preview lists; all are counted.
const mostPreviewed = 2000

// pick finds the one thing that is meant by a name or id.
func pick[T any](what, wanted string, all []T, names func(T) (id, name string)) (T, error) {
	var found []T
	var listed []string
	for _, x := range all {
		id, name := names(x)
		listed = append(listed, name)
		if id == wanted || strings.EqualFold(name, wanted) {
			found = append(found, x)
		}
	}
	var none T
	switch {
	case len(found) == 1:
		return found[0], nil
	case len(found) > 1:
		return none, usagef("%d %ss are named %q; use the id", len(found), what, wanted)
	}
	return none, usagef("no %s is named %q; there are: %s", what, wanted, strings.Join(listed, ", "))
}

func importFile(ctx context.Context, c *call) error {
	data := c.flags.String("data", "", "folder of the data")
	outing := c.flags.String("outing", "", "name or id of the outing that a log belongs to; a new one is made without it")
	deploymentName := c.flags.String("deployment", "", "name or id of the deployment that a sweep belongs to")
	where := c.flags.String("where", "feed", "where a sweep was measured: feed or radio")
	if err := c.begin(); err != nil {
		return err
	}
	if len(c.args) != 1 || *data == "" || *where != "feed" && *where != "radio" {
		return usagef("name one file and the folder: reed import FILE --data DIR [--where feed|radio]")
	}
	st, err := store.Open(ctx, *data)
	if err != nil {
		return err
	}
	defer st.Close()
	me, err := st.Me(ctx)
	if err != nil {
		return err
	}
	o := exchange.Options{Region: me.Region, Now: time.Now(), Own: me.Call}
	in := reportImport{ctx: ctx, st: st, outing: *outing, deployment: *deploymentName}
	o.Each = in.take
	p, raw, err := readFile(ctx, c.args[0], o)
	if err != nil {
		return err
	}
	if p.Kind == "reports" {
		return in.finish(c, p)
	}
	if p.Sweep != nil {
		return importSweep(ctx, c, st, p, raw, *deploymentName, *where)
	}
	if p.Kind == "site" {
		return usagef("%s is a site: take it in Scout, or put the lines of its preview into a case for reed scout", c.args[0])
	}
	if len(p.Points) > 0 {
		return usagef("%s: %s", c.args[0], p.Notes[len(p.Notes)-1].Text)
	}
	return importLog(ctx, c, st, p, *outing)
}

// outingFor is the outing that is named, or a new one of a file and its day.
func outingFor(ctx context.Context, st *store.Store, name, file string, day time.Time) (o store.Outing, err error) {
	if name != "" {
		all, err := st.Outings(ctx)
		if err != nil {
			return o, err
		}
		return pick("outing", name, all, func(o store.Outing) (string, string) { return o.ID, o.Name })
	}
	o = store.Outing{ID: uuid.Must(uuid.NewV7()).String(), Name: strings.TrimSuffix(file, filepath.Ext(file)),
		Date: day.UTC().Format(time.DateOnly)}
	_, err = st.PutOuting(ctx, o, 0)
	return o, err
}

func importLog(ctx context.Context, c *call, st *store.Store, p *exchange.Preview, name string) error {
	day := time.Now()
	for _, r := range p.Records {
		if r.Taken {
			day = r.Contact.At
			break
		}
	}
	o, err := outingFor(ctx, st, name, p.Name, day)
	if err != nil {
		return err
	}
	have, err := st.Contacts(ctx, o.ID)
	if err != nil {
		return err
	}
	p.MarkKnown(have)
	contacts, known, refused := p.Contacts(o.ID, uuid.Must(uuid.NewV7()))
	added, err := st.AddContacts(ctx, contacts)
	if err != nil {
		return err
	}
	return c.json(map[string]any{"kind": p.Kind, "outing": o.Name, "outing_id": o.ID, "added": added, "known": known, "refused": refused,
		"guesses": p.Guesses, "notes": p.Notes})
}

func importSweep(ctx context.Context, c *call, st *store.Store, p *exchange.Preview, raw []byte, name, where string) error {
	all, err := st.Deployments(ctx, "")
	if err != nil {
		return err
	}
	var names []string
	for _, d := range all {
		names = append(names, d.Name)
	}
	if name == "" {
		return usagef("say which deployment was measured with --deployment NAME; there are: %s", strings.Join(names, ", "))
	}
	for _, d := range all {
		if d.ID != name && !strings.EqualFold(d.Name, name) {
			continue
		}
		revisions, err := st.Revisions(ctx, d.ID)
		if err != nil {
			return err
		}
		if len(revisions) == 0 {
			return usagef("%s is planned only; record in Raise what was put up", d.Name)
		}
		r := revisions[len(revisions)-1]
		v := store.Sweep{ID: uuid.Must(uuid.NewV7()).String(), RevisionID: r.ID, Name: p.Name, Where: where, TakenAt: time.Now().UTC(),
			Curve: *p.Sweep, File: raw}
		if _, err := st.PutSweep(ctx, v, 0); err != nil {
			return err
		}
		return c.json(map[string]any{"kind": p.Kind, "deployment": d.Name, "revision": r.Seq, "points": len(p.Sweep.F), "guesses": p.Guesses,
			"notes": p.Notes})
	}
	return usagef("no deployment is named %q; there are: %s", name, strings.Join(names, ", "))
}

func exportLog(ctx context.Context, c *call) error {
	data := c.flags.String("data", "", "folder of the data")
	outing := c.flags.String("outing", "", "name or id of the outing")
	if err := c.begin(); err != nil {
		return err
	}
	if *data == "" || *outing == "" {
		return usagef("name the folder and the outing: reed export --data DIR --outing NAME")
	}
	st, err := store.Open(ctx, *data)
	if err != nil {
		return err
	}
	defer st.Close()
	o, me, err := chosen(ctx, st, *outing)
	if err != nil {
		return err
	}
	contacts, err := st.Contacts(ctx, o.ID)
	if err != nil {
		return err
	}
	owner := exchange.Owner{Call: me.Call, Version: version}
	if at, err := place.ParsePosition(o.Place); err == nil {
		owner.Locator = place.Locator(at, 6)
	}
	w := bufio.NewWriter(c.out)
	if err := exchange.WriteADI(w, owner, contacts); err != nil {
		return err
	}
	return w.Flush()
}

// converted is the JSON output of convert.
type converted struct {
	Kind     string   `json:"kind"`
	Value    float64  `json:"value"`
	Unit     string   `json:"unit"`
	Metric   string   `json:"metric,omitempty"`
	Imperial string   `json:"imperial,omitempty"`
	MHz      string   `json:"mhz,omitempty"`
	Notes    []string `json:"notes"`
}

func convertText(_ context.Context, c *call) error {
	asJSON := c.flags.Bool("json", false, "print JSON")
	unit := c.flags.String("unit", "m", "unit of a bare number: m, cm, mm, ft, in, MHz, kHz or Hz")
	// A text with a minus in front is a quantity, not a flag.
	for i, w := range c.args {
		if len(w) > 1 && w[0] == '-' && strings.ContainsAny(w[1:2], "0123456789.,") {
			c.args[i] = "\u2212" + w[1:]
		}
	}
	if err := c.begin(); err != nil {
		return err
	}
	text := strings.Join(c.args, " ")
	if strings.HasSuffix(strings.ToLower(*unit), "hz") || quantity.IsFrequency(text) {
		r, err := quantity.ParseFrequency(text, *unit)
		if err != nil {
			return usageError{err}
		}
		return c.converted(*asJSON, converted{Kind: "frequency", Value: r.Value, Unit: "Hz", MHz: quantity.MHz(r.Value), Notes: r.Notes})
	}
	r, err := quantity.ParseLength(text, *unit)
	if err != nil {
		return usageError{err}
	}
	return c.converted(*asJSON, converted{Kind: "length", Value: r.Value, Unit: "m", Metric: quantity.Metric(r.Value, 1),
		Imperial: quantity.Imperial(r.Value, 16), Notes: r.Notes})
}

func (c *call) converted(asJSON bool, v converted) error {
	if asJSON {
		if v.Notes == nil {
			v.Notes = []string{}
		}
		return c.json(v)
	}
	if v.Kind == "frequency" {
		fmt.Fprintf(c.out, "%.0f Hz  %s MHz\n", v.Value, v.MHz)
	} else {
		fmt.Fprintf(c.out, "%.6g m  %s  %s\n", v.Value, v.Metric, v.Imperial)
	}
	for _, n := range v.Notes {
		fmt.Fprintln(c.out, "note: "+n)
	}
	return nil
}

// openFor opens the data folder for a command with one file.
func (c *call) openFor(ctx context.Context) (*store.Store, string, error) {
	data := c.flags.String("data", "", "folder of the data")
	if err := c.begin(); err != nil {
		return nil, "", err
	}
	if *data == "" || len(c.args) != 1 {
		return nil, "", usagef("name the folder and one file: --data DIR FILE")
	}
	st, err := store.Open(ctx, *data)
	return st, c.args[0], err
}

func backup(ctx context.Context, c *call) error {
	st, to, err := c.openFor(ctx)
	if err != nil {
		return err
	}
	defer st.Close()
	if err := st.Backup(ctx, to); err != nil {
		return err
	}
	fmt.Fprintf(c.out, "written and verified: %s\n", to)
	return nil
}

func restore(ctx context.Context, c *call) error {
	data := c.flags.String("data", "", "folder of the data")
	if err := c.begin(); err != nil {
		return err
	}
	if *data == "" || len(c.args) != 1 {
		return usagef("name the folder and one file: --data DIR FILE")
	}
	kept, err := store.Restore(ctx, *data, c.args[0])
	if err != nil {
		return err
	}
	fmt.Fprintf(c.out, "restored from %s; what was there before is kept in %s\n", c.args[0], kept)
	return nil
}

// chosen is the outing of a name or id, and whose notebook it is.
func chosen(ctx context.Context, st *store.Store, outing string) (o store.Outing, me store.Me, err error) {
	all, err := st.Outings(ctx)
	if err != nil {
		return o, me, err
	}
	if o, err = pick("outing", outing, all, func(o store.Outing) (string, string) { return o.ID, o.Name }); err != nil {
		return o, me, err
	}
	me, err = st.Me(ctx)
	return o, me, err
}
