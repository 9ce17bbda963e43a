package server

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"reed/core/antenna"
	"reed/core/band"
	"reed/core/onair"
	"reed/core/place"
	"reed/core/scout"
	"reed/core/site"
	"reed/internal/exchange"
	"reed/internal/store"
)

// lineContext returns the context of a log line: the contact before it in time gives the values that stay.
func (s *Server) lineContext(ctx context.Context, in LineInput) (onair.Context, store.Outing, error) {
	o, err := s.store.Outing(ctx, in.OutingId)
	if err != nil {
		return onair.Context{}, o, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return onair.Context{}, o, err
	}
	deployments, err := s.store.Deployments(ctx, in.OutingId)
	if err != nil {
		return onair.Context{}, o, err
	}
	c := onair.Context{Now: s.now(), Region: me.Region, PowerW: me.PowerW, OwnRef: o.OwnRef, Deployment: in.DeploymentId,
		Deployments: map[string]string{}}
	if !in.At.IsZero() && in.At.Before(c.Now) {
		c.Now = in.At
	}
	for _, d := range deployments {
		c.Deployments[d.Letter] = d.ID
	}
	x, ok, err := s.store.LastTyped(ctx, in.OutingId, c.Now)
	if ok {
		c.Band, c.FreqHz, c.Mode, c.Submode, c.PowerW, c.Operator = x.Band, x.FreqHz, x.Mode, x.Submode, x.PowerW, x.Operator
		if in.DeploymentId == "" {
			c.Deployment = x.DeploymentID
		}
	}
	return c, o, err
}

// ReadLine reads a line as it is being typed.
func (s *Server) ReadLine(ctx context.Context, r ReadLineRequestObject) (ReadLineResponseObject, error) {
	lc, o, err := s.lineContext(ctx, *r.Body)
	if err != nil {
		return nil, err
	}
	c, problems := onair.ParseLine(r.Body.Line, lc)
	out := ReadLine200JSONResponse{Contact: c, Problems: notNil(problems)}
	if c.Call == "" {
		return out, nil
	}
	same, err := s.store.ContactsWith(ctx, r.Body.OutingId, c.Call)
	if err != nil {
		return nil, err
	}
	scheme, err := s.store.Scheme(ctx, o.Scheme)
	if err != nil {
		return nil, err
	}
	if first, ok := scheme.Repeats(c, same); ok {
		out.Worked = fmt.Sprintf("%s was worked at %s on %s already: a duplicate", c.Call,
			first.At.UTC().Format("15:04"), band.Said(first.Band))
	}
	if home, err := place.ParsePosition(o.Place); err == nil {
		if m, b, ok := c.Distance(home); ok {
			out.Km, out.Bearing = m/1000, b
		}
	}
	before, err := s.store.Before(ctx, r.Body.OutingId, c.Call)
	out.Before = before.Says(c.Call)
	return out, err
}

// PutLine logs a line. The same id again, as after a lost answer, changes nothing.
func (s *Server) PutLine(ctx context.Context, r PutLineRequestObject) (PutLineResponseObject, error) {
	have, err := s.store.Contact(ctx, r.Id)
	switch {
	case err == nil && have.Line == r.Body.Line:
		return PutLine200JSONResponse(have), nil
	case err == nil && r.Params.Version > 0:
		r.Body.At = have.At // what a corrected line does not say of the time stays
		if r.Body.DeploymentId == "" {
			r.Body.DeploymentId = have.DeploymentID
		}
	case err != nil && !errors.Is(err, store.ErrNotFound):
		return nil, err
	}
	lc, _, err := s.lineContext(ctx, *r.Body)
	if err != nil {
		return nil, err
	}
	c, problems := onair.ParseLine(r.Body.Line, lc)
	if len(problems) > 0 {
		p := &problem{status: http.StatusUnprocessableEntity, title: "This line is not logged yet"}
		for _, x := range problems {
			p.errors = append(p.errors, FieldError{Path: "line", Detail: x.Text, From: x.From, To: x.To})
		}
		return nil, p
	}
	c.ID, c.OutingID = r.Id, r.Body.OutingId
	c, err = s.store.PutContact(ctx, c, r.Params.Version)
	return PutLine200JSONResponse(c), err
}

// beside fills what stands beside the contacts: notes, the pace, and what comes soon.
func (s *Server) beside(ctx context.Context, o store.Outing, out *GetLog200JSONResponse, letters map[string]string) (err error) {
	out.Notes, out.Ahead, out.NoteKinds = []SaidNote{}, []string{}, onair.NoteKinds()
	list, err := s.store.Notes(ctx, o.ID)
	if err != nil {
		return err
	}
	for _, n := range list {
		out.Notes = append(out.Notes, SaidNote{Note: n, Says: n.Says(), Letter: letters[n.DeploymentID]})
	}
	if out.Paces, err = s.store.Paces(ctx, o.ID, s.now()); err != nil {
		return err
	}
	at, err := place.ParsePosition(o.Place)
	if err != nil || o.Date != s.now().Format(time.DateOnly) {
		return nil // nothing is to come of a day that is over, or of nowhere
	}
	var p scout.Purpose
	if len(o.Purpose) > 0 {
		if err := json.Unmarshal(o.Purpose, &p); err != nil {
			return fmt.Errorf("the purpose of the outing: %w", err)
		}
	}
	p.Date = o.Date
	out.Ahead = append(out.Ahead, scout.Case{Purpose: p}.Ahead(at, site.Rules{Until: o.Until}, antenna.Or(p.SetupMinutes, usualSetup), s.now(),
		out.Progress.Scheme.PerDay)...)
	return nil
}

// ReadLines reads several lines, each after the one before.
func (s *Server) ReadLines(ctx context.Context, r ReadLinesRequestObject) (ReadLinesResponseObject, error) {
	lc, o, err := s.lineContext(ctx, LineInput{OutingId: r.Body.OutingId, DeploymentId: r.Body.DeploymentId})
	if err != nil {
		return nil, err
	}
	out := ReadLines200JSONResponse{}
	scheme, err := s.store.Scheme(ctx, o.Scheme)
	if err != nil {
		return nil, err
	}
	var before []onair.Contact
	for i, line := range r.Body.Lines {
		c, problems := onair.ParseLine(line, lc)
		c.ID = strconv.Itoa(i)
		x := LineRead{Contact: c, Problems: notNil(problems)}
		if len(problems) == 0 {
			x.Whole = onair.Whole(line, c, lc)
			lc.Band, lc.FreqHz, lc.Mode, lc.Submode, lc.PowerW, lc.Deployment, lc.Operator = c.Band, c.FreqHz, c.Mode, c.Submode,
				c.PowerW, c.DeploymentID, c.Operator
			same, err := s.store.ContactsWith(ctx, r.Body.OutingId, c.Call)
			if err != nil {
				return nil, err
			}
			if _, ok := scheme.Repeats(c, append(same, before...)); ok {
				x.Worked = c.Call + " is a duplicate"
			}
			before = append(before, c)
		}
		out = append(out, x)
	}
	return out, nil
}

// ListSchemes lists the rules by which a visit counts.
func (s *Server) ListSchemes(ctx context.Context, _ ListSchemesRequestObject) (ListSchemesResponseObject, error) {
	all, err := s.store.Schemes(ctx, false)
	out := ListSchemes200JSONResponse{}
	for _, x := range all {
		out = append(out, SaidScheme{Scheme: x, Rule: x.Rule()})
	}
	return out, err
}

// PutScheme stores a rule.
func (s *Server) PutScheme(ctx context.Context, r PutSchemeRequestObject) (PutSchemeResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	v := *r.Body
	v.ID, v.Name = r.Id, strings.TrimSpace(v.Name)
	if err := faulty(me.Units, "", v.Check()); err != nil {
		return nil, err
	}
	v, err = s.store.PutScheme(ctx, v, r.Params.Version)
	return PutScheme200JSONResponse(v), err
}

// PutNote stores a note.
func (s *Server) PutNote(ctx context.Context, r PutNoteRequestObject) (PutNoteResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	n := *r.Body
	n.ID, n.Deleted = r.Id, false
	n, faults := n.Read(me.Region, s.now())
	if err := faulty(me.Units, "", faults); err != nil {
		return nil, err
	}
	n, err = s.store.PutNote(ctx, n, r.Params.Version)
	return PutNote200JSONResponse(n), err
}

// PutContact corrects a contact; what its form does not show stays as it was.
func (s *Server) PutContact(ctx context.Context, r PutContactRequestObject) (PutContactResponseObject, error) {
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	c, unread := r.Body.Read()
	c.ID, c.Deleted = r.Id, false
	if mode, sub, ok := onair.ModeOf(c.Mode); ok && sub != "" {
		c.Mode, c.Submode = mode, sub
	}
	have, err := s.store.Contact(ctx, r.Id)
	switch {
	case err == nil:
		c.Extra, c.Marks, c.Batch, c.Line, c.OutingID = have.Extra, have.Marks, have.Batch, have.Line, have.OutingID
		if c.End.IsZero() {
			c.End = have.End
		}
	case !errors.Is(err, store.ErrNotFound):
		return nil, err
	}
	if err := faulty(me.Units, "", append(unread, c.Check(have, me.Region, s.now())...)); err != nil {
		return nil, err
	}
	c, err = s.store.PutContact(ctx, c, r.Params.Version)
	return PutContact200JSONResponse(c), err
}

// GetLog lists a page of an outing's contacts, newest first, with the progress to its scheme's minimum.
func (s *Server) GetLog(ctx context.Context, r GetLogRequestObject) (GetLogResponseObject, error) {
	o, err := s.store.Outing(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	most := r.Params.Most
	if most == 0 {
		most = 100
	}
	rows, next, err := s.store.Page(ctx, r.Id, r.Params.Before, r.Params.Words, most)
	if err != nil {
		return nil, err
	}
	progress, tally, err := s.store.Progress(ctx, o, s.now())
	if err != nil {
		return nil, err
	}
	deployments, err := s.store.Deployments(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	letters := map[string]string{}
	for _, d := range deployments {
		letters[d.ID] = d.Letter
	}
	home, herr := place.ParsePosition(o.Place)
	last, typed, err := s.store.LastTyped(ctx, r.Id, s.now())
	if err != nil {
		return nil, err
	}
	out := GetLog200JSONResponse{Rows: []LogRow{}, Bands: []BandCount{}, Progress: progress, Total: tally.Contacts, Next: next}
	if typed {
		out.Stays.Band, out.Stays.Mode = last.Band, last.ModeLabel()
	}
	for _, c := range rows {
		row := LogRow{Contact: c.Contact, Mode: c.ModeLabel(), Letter: letters[c.DeploymentID], Duplicate: c.Duplicate}
		if m, b, ok := c.Distance(home); ok && herr == nil {
			row.Km, row.Bearing = m/1000, b
		}
		out.Rows = append(out.Rows, row)
	}
	if err := s.beside(ctx, o, &out, letters); err != nil {
		return nil, err
	}
	for _, b := range band.All(me.Region) {
		if n := tally.ByBand[b.Name]; n > 0 {
			out.Bands = append(out.Bands, BandCount{Band: b.Name, Contacts: n})
		}
	}
	return out, nil
}

// exported are the contacts of an outing that go out, all or those of one reference and those that count by a scheme, and who
// made them.
func (s *Server) exported(ctx context.Context, id, ref, scheme string) (owner exchange.Owner, out []onair.Contact, err error) {
	o, err := s.store.Outing(ctx, id)
	if err != nil {
		return owner, nil, err
	}
	me, err := s.store.Me(ctx)
	if err != nil {
		return owner, nil, err
	}
	all, err := s.store.Contacts(ctx, id)
	if err != nil {
		return owner, nil, err
	}
	var dup map[string]string
	if scheme != "" {
		rules, err := s.store.Schemes(ctx, true)
		if err != nil {
			return owner, nil, err
		}
		if !slices.ContainsFunc(rules, func(r onair.Scheme) bool { return r.ID == scheme }) {
			return owner, nil, invalid("scheme", fmt.Sprintf("there is no rule %q", scheme))
		}
		dup = onair.SchemeIn(rules, scheme).Duplicates(all)
	}
	for _, c := range all {
		if (ref == "" || c.CountsFor(ref)) && dup[c.ID] == "" {
			out = append(out, c)
		}
	}
	owner = exchange.Owner{Call: me.Call, Version: s.version}
	if p, err := place.ParsePosition(o.Place); err == nil {
		owner.Locator = place.Locator(p, 6)
	}
	return owner, out, nil
}

// ExportLog writes the log as ADIF.
func (s *Server) ExportLog(ctx context.Context, r ExportLogRequestObject) (ExportLogResponseObject, error) {
	owner, all, err := s.exported(ctx, r.Id, r.Params.Ref, r.Params.Scheme)
	if err != nil {
		return nil, err
	}
	var b strings.Builder
	if err := exchange.WriteADI(&b, owner, all); err != nil {
		return nil, err
	}
	return ExportLog200TextResponse(b.String()), nil
}

// ExportLogAs writes the log in another form.
func (s *Server) ExportLogAs(ctx context.Context, r ExportLogAsRequestObject) (ExportLogAsResponseObject, error) {
	owner, all, err := s.exported(ctx, r.Id, r.Params.Ref, r.Params.Scheme)
	if err != nil {
		return nil, err
	}
	write := map[ExportLogAsParamsForm]func(exchange.Owner, []onair.Contact) ([]byte, error){Adx: exchange.WriteADX, Csv: exchange.WriteLogCSV,
		Geojson: exchange.WriteLogGeoJSON}
	text, err := write[r.Form](owner, all)
	return ExportLogAs200ApplicationoctetStreamResponse{Body: bytes.NewReader(text), ContentLength: int64(len(text))}, err
}

// PutImport stores the contacts of a log file.
func (s *Server) PutImport(ctx context.Context, r PutImportRequestObject) (PutImportResponseObject, error) {
	if _, err := s.store.Outing(ctx, r.Body.OutingId); err != nil {
		return nil, err
	}
	p, err := s.readFile(ctx, *r.Body)
	if err != nil {
		return nil, err
	}
	batch, err := uuid.Parse(r.Id)
	if err != nil {
		return nil, invalid("id", err.Error())
	}
	if p.Heard != nil {
		out, err := s.takeReports(ctx, r.Body.OutingId, batch, p)
		return PutImport200JSONResponse(out), err
	}
	if p.Records == nil {
		return nil, invalid("file", fmt.Sprintf("this is a file of kind %s, not a log; attach sweeps in Sweep", p.Kind))
	}
	contacts, known, refused := p.Contacts(r.Body.OutingId, batch)
	added, err := s.store.AddContacts(ctx, contacts)
	return PutImport200JSONResponse{Added: added, Known: known, Refused: refused}, err
}

// UndoImport takes the contacts of an import out again.
func (s *Server) UndoImport(ctx context.Context, r UndoImportRequestObject) (UndoImportResponseObject, error) {
	n, err := s.store.RemoveBatch(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	heard, err := s.store.RemoveReports(ctx, r.Id)
	return UndoImport200JSONResponse{Added: -n - heard}, err
}
