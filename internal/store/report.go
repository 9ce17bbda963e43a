package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"iter"
	"strconv"
	"strings"
	"time"

	"reed/core/onair"
)

// reportChunk is how many reports are stored at once: others may write between.
const reportChunk = 10_000

// NumberedReport is a report with its number in what it came with.
type NumberedReport struct {
	onair.Report
	Number int
}

const addReport = `INSERT INTO report (batch, number, outing_id, deployment_id, at, seconds, sender, sender_base, receiver, receiver_base,
	sender_locator, locator, freq, band, mode, snr, power, distance, bearing, extra, simulated, aside, side)
	VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (batch, number) DO NOTHING`

// sameReport finds what was heard of a station at a receiver about a time.
const sameReport = `SELECT at, seconds, sender, freq, band, mode FROM report
	WHERE outing_id = ? AND receiver_base = ? AND at BETWEEN ? AND ? AND deleted = 0`

// AddReports stores reports as they come, of an outing and a batch. What stands there already, from another file too, is
// counted as known; a repeated batch adds nothing.
func (s *Store) AddReports(ctx context.Context, outingID, batch string, all iter.Seq2[NumberedReport, error]) (added, known int,
	err error) {
	var chunk []NumberedReport
	flush := func() error {
		a, k, err := s.addReports(ctx, outingID, batch, chunk)
		added, known, chunk = added+a, known+k, chunk[:0]
		return err
	}
	for r, err := range all {
		if err != nil {
			return added, known, err
		}
		if chunk = append(chunk, r); len(chunk) >= reportChunk {
			if err := flush(); err != nil {
				return added, known, err
			}
		}
	}
	return added, known, flush()
}

func (s *Store) addReports(ctx context.Context, outingID, batch string, chunk []NumberedReport) (added, known int, err error) {
	err = s.inTx(ctx, "storing reports", func(tx *sql.Tx) (err error) {
		added, known, err = addReportsIn(ctx, tx, outingID, batch, chunk)
		return err
	})
	return added, known, err
}

// addReportsIn stores reports within a transaction.
func addReportsIn(ctx context.Context, tx *sql.Tx, outingID, batch string, chunk []NumberedReport) (added, known int, err error) {
	add, err := tx.PrepareContext(ctx, addReport)
	if err != nil {
		return 0, 0, err
	}
	defer add.Close()
	same, err := tx.PrepareContext(ctx, sameReport)
	if err != nil {
		return 0, 0, err
	}
	defer same.Close()
	touched := map[int64]bool{}
	for _, r := range chunk {
		there, err := isThere(ctx, same, outingID, r.Report)
		if err != nil {
			return added, known, err
		}
		if there {
			known++
			continue
		}
		extra, err := reportExtra(r.Report)
		if err != nil {
			return added, known, err
		}
		res, err := add.ExecContext(ctx, batch, r.Number, outingID, null(r.DeploymentID), r.At.UnixMilli(), r.Seconds, r.Sender,
			onair.BaseCall(r.Sender), r.Receiver, onair.BaseCall(r.Receiver), r.SenderLocator, r.Locator, r.FreqHz, r.Band, r.Mode, r.SNR,
			r.PowerW, r.DistanceM, r.Bearing, extra, r.Simulated, r.SetAside, sideOf(r.Report))
		if err != nil {
			return added, known, err
		}
		n, err := res.RowsAffected()
		if err != nil {
			return added, known, err
		}
		added += int(n)
		known += 1 - int(n)
		touched[r.At.UnixMilli()/hour.Milliseconds()] = true
	}
	return added, known, staleHours(ctx, tx, outingID, touched)
}

// sideOf is a report's in the table: of who heard one, of what one heard, of what others heard of others.
func sideOf(r onair.Report) int {
	switch {
	case r.Own:
		return 1
	case r.Others:
		return 2
	}
	return 0
}

// reportMore holds the values of a report that have no column.
type reportMore struct {
	Extra []onair.Field `json:"extra,omitempty"`
	Marks []string      `json:"marks,omitempty"`
}

func reportExtra(r onair.Report) (any, error) {
	if len(r.Extra) == 0 && len(r.Marks) == 0 {
		return nil, nil
	}
	text, err := json.Marshal(reportMore{r.Extra, r.Marks})
	return string(text), err
}

// isThere reports whether the same reception is stored already.
func isThere(ctx context.Context, same *sql.Stmt, outingID string, r onair.Report) (bool, error) {
	about := max(onair.Within(r.Mode), time.Minute).Milliseconds()
	rows, err := same.QueryContext(ctx, outingID, onair.BaseCall(r.Receiver), r.At.UnixMilli()-about, r.At.UnixMilli()+about)
	if err != nil {
		return false, err
	}
	defer rows.Close()
	for rows.Next() {
		var at int64
		old := onair.Report{Receiver: r.Receiver}
		if err := rows.Scan(&at, &old.Seconds, &old.Sender, &old.FreqHz, &old.Band, &old.Mode); err != nil {
			return false, err
		}
		if old.At = time.UnixMilli(at).UTC(); old.SameAs(r) {
			return true, nil
		}
	}
	return false, rows.Err()
}

// ReportFilter says which reports of an outing are wanted; what is zero does not matter.
type ReportFilter struct {
	Band, DeploymentID, Receiver string
	Sender                       string
	From, Until                  time.Time
	Own                          *bool // of what one heard oneself, or not
}

func (f ReportFilter) where(outingID string) (string, []any) {
	text, args := "outing_id = ? AND deleted = 0", []any{outingID}
	add := func(cond string, v any) { text, args = text+" AND "+cond, append(args, v) }
	if f.Band != "" {
		add("band = ?", f.Band)
	}
	if f.DeploymentID != "" {
		add("deployment_id = ?", f.DeploymentID)
	}
	if f.Receiver != "" {
		add("receiver_base = ?", onair.BaseCall(f.Receiver))
	}
	if f.Sender != "" {
		add("sender_base = ?", onair.BaseCall(f.Sender))
	}
	if f.Own != nil {
		add("side = ?", *f.Own)
	}
	if !f.From.IsZero() {
		add("at >= ?", f.From.UnixMilli())
	}
	if !f.Until.IsZero() {
		add("at < ?", f.Until.UnixMilli())
	}
	return text, args
}

const reportColumns = `seq, batch, coalesce(deployment_id, ''), at, seconds, sender, receiver, sender_locator, locator, freq, band, mode,
	snr, power, distance, bearing, extra, simulated, aside, side = 1, side = 2`

// Reports lists reports of an outing from the newest, so many after a key; next is the key of the page after, empty at the end.
func (s *Store) Reports(ctx context.Context, outingID string, f ReportFilter, after string, most int) (out []onair.Report, next string,
	err error) {
	where, args := f.where(outingID)
	if after != "" {
		at, seq, ok := strings.Cut(after, ".")
		a, err1 := strconv.ParseInt(at, 10, 64)
		b, err2 := strconv.ParseInt(seq, 10, 64)
		if !ok || err1 != nil || err2 != nil {
			return nil, "", fmt.Errorf("%q is no key of a page: %w", after, ErrNotFound)
		}
		where, args = where+" AND (at, seq) < (?, ?)", append(args, a, b)
	}
	err = s.rows(ctx, "the reports", "SELECT "+reportColumns+" FROM report WHERE "+where+" ORDER BY at DESC, seq DESC LIMIT ?",
		func(r *sql.Rows) error {
			x, err := scanReport(r)
			if x.OutingID = outingID; err == nil {
				out = append(out, x)
			}
			return err
		}, append(args, most+1)...)
	if len(out) > most {
		last := out[most-1]
		next, out = fmt.Sprintf("%d.%s", last.At.UnixMilli(), last.ID), out[:most]
	}
	return out, next, err
}

// scanner is a row that is read.
type scanner interface{ Scan(into ...any) error }

func scanReport(r scanner) (x onair.Report, err error) {
	var at, seq int64
	var extra sql.NullString
	err = r.Scan(&seq, &x.Batch, &x.DeploymentID, &at, &x.Seconds, &x.Sender, &x.Receiver, &x.SenderLocator, &x.Locator, &x.FreqHz, &x.Band,
		&x.Mode, &x.SNR, &x.PowerW, &x.DistanceM, &x.Bearing, &extra, &x.Simulated, &x.SetAside, &x.Own, &x.Others)
	x.ID, x.At = strconv.FormatInt(seq, 10), time.UnixMilli(at).UTC()
	if err == nil && extra.Valid {
		var more reportMore
		err = json.Unmarshal([]byte(extra.String), &more)
		x.Extra, x.Marks = more.Extra, more.Marks
	}
	return x, err
}

// SetAside says why a report does not count in a comparison; an empty reason lets it count again.
func (s *Store) SetAside(ctx context.Context, id, reason string) (x onair.Report, err error) {
	err = s.inTx(ctx, "setting a report aside", func(tx *sql.Tx) error {
		res, err := tx.ExecContext(ctx, "UPDATE report SET aside = ? WHERE seq = ? AND deleted = 0", reason, id)
		if err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, fmt.Errorf("report %s: %w", id, ErrNotFound))
		}
		return nil
	})
	if err != nil {
		return x, err
	}
	err = s.rows(ctx, "the report", "SELECT "+reportColumns+" FROM report WHERE seq = ?", func(r *sql.Rows) (err error) {
		x, err = scanReport(r)
		return err
	}, id)
	return x, err
}

// ReceiverHeard sums one receiver's reports of one antenna: how many, and their mean strength.
type ReceiverHeard struct {
	Receiver     string   `json:"receiver"`
	Locator      string   `json:"locator"`
	DeploymentID string   `json:"deployment_id"`
	Reports      int      `json:"reports"`
	MeanSNR      *float64 `json:"mean_snr_db"`
	DistanceM    *float64 `json:"distance_m"`
	Bearing      *float64 `json:"bearing"`
	Simulated    bool     `json:"simulated"`
}

const (
	// summed is who heard at any time, from the sums; since and before it goes through the reports of a stretch.
	summed = `SELECT receiver, max(locator), deployment_id, sum(reports), CASE WHEN sum(strengths) > 0 THEN sum(strength) / sum(strengths) END,
		max(distance), max(bearing), max(simulated) FROM heard WHERE outing_id = ? AND reports > 0`
	byReceiver = " GROUP BY receiver, deployment_id ORDER BY sum(reports) DESC, receiver LIMIT ?"
	counted    = `SELECT receiver, max(locator), coalesce(deployment_id, ''), count(*), avg(snr), max(distance), max(bearing), max(simulated)
		FROM report WHERE side = 0 AND `
	byCount = " GROUP BY receiver, deployment_id ORDER BY count(*) DESC, receiver LIMIT ?"
)

// HeardBy groups an outing's reports by receiver and antenna, those that heard most first.
func (s *Store) HeardBy(ctx context.Context, outingID string, f ReportFilter, most int) (out []ReceiverHeard, err error) {
	query, args := summed, []any{outingID}
	switch {
	case !f.From.IsZero() || !f.Until.IsZero():
		where, with := f.where(outingID)
		query, args = counted+where+byCount, with
	case f.Band != "":
		query, args = summed+" AND band = ?"+byReceiver, append(args, f.Band)
	default:
		query += byReceiver
	}
	err = s.rows(ctx, "who heard", query, func(r *sql.Rows) error {
		var x ReceiverHeard
		err := r.Scan(&x.Receiver, &x.Locator, &x.DeploymentID, &x.Reports, &x.MeanSNR, &x.DistanceM, &x.Bearing, &x.Simulated)
		out = append(out, x)
		return err
	}, append(args, most)...)
	return out, err
}

// BandHeard is how much was heard on a band, by antenna.
type BandHeard struct {
	Band         string `json:"band"`
	DeploymentID string `json:"deployment_id"`
	Reports      int    `json:"reports"`
	Receivers    int    `json:"receivers"`
}

// HeardOn sums an outing's reports by band and antenna.
func (s *Store) HeardOn(ctx context.Context, outingID string) (out []BandHeard, err error) {
	err = s.rows(ctx, "what was heard", `SELECT band, deployment_id, sum(reports), count(*) FROM heard
		WHERE outing_id = ? AND reports > 0 GROUP BY band, deployment_id ORDER BY band, deployment_id`, func(r *sql.Rows) error {
		var x BandHeard
		err := r.Scan(&x.Band, &x.DeploymentID, &x.Reports, &x.Receivers)
		out = append(out, x)
		return err
	}, outingID)
	return out, err
}

// RemoveReports takes the reports of a batch out, and PutBack those of it that were taken out back in.
func (s *Store) RemoveReports(ctx context.Context, batch string) (n int, err error) {
	return s.setReports(ctx, batch, true)
}

// PutBackReports undoes RemoveReports.
func (s *Store) PutBackReports(ctx context.Context, batch string) (n int, err error) {
	return s.setReports(ctx, batch, false)
}

func (s *Store) setReports(ctx context.Context, batch string, deleted bool) (n int, err error) {
	err = s.inTx(ctx, "taking reports out", func(tx *sql.Tx) error {
		res, err := tx.ExecContext(ctx, "UPDATE report SET deleted = ? WHERE batch = ? AND deleted <> ?", deleted, batch, deleted)
		if err != nil {
			return err
		}
		rows, err := res.RowsAffected()
		n = int(rows)
		return err
	})
	return n, err
}

// AssignReports says with which antenna the reports of a stretch on a band were sent, or heard where they are one's own; n is how many it
// was not said of before.
func (s *Store) AssignReports(ctx context.Context, outingID, band, deploymentID string, own bool, from, until time.Time) (n int,
	err error) {
	err = s.inTx(ctx, "assigning reports", func(tx *sql.Tx) error {
		res, err := tx.ExecContext(ctx, `UPDATE report SET deployment_id = ?1 WHERE outing_id = ?2 AND band = ?3 AND at >= ?4
			AND at < ?5 AND deleted = 0 AND side = ?6 AND deployment_id IS NOT ?1`, null(deploymentID), outingID, band, from.UnixMilli(),
			until.UnixMilli(), own)
		if err != nil {
			return err
		}
		rows, err := res.RowsAffected()
		n = int(rows)
		return err
	})
	return n, err
}

// countSince counts an outing's contacts from a time on, from an index.
const countSince = "SELECT count(*) FROM contact WHERE outing_id = ? AND at >= ? AND at <= ? AND deleted = 0"

// Paces are how fast an outing's contacts come.
func (s *Store) Paces(ctx context.Context, outingID string, now time.Time) (out []onair.Pace, err error) {
	for _, minutes := range onair.Paces {
		var n int
		err := s.r.QueryRowContext(ctx, countSince, outingID, onair.Since(now, minutes).UnixMilli(), now.UnixMilli()).Scan(&n)
		if err != nil {
			return nil, fmt.Errorf("counting the last contacts: %w", err)
		}
		out = append(out, onair.PaceOf(minutes, n))
	}
	return out, nil
}
