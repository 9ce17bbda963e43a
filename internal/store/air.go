package store

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/binary"
	"encoding/gob"
	"fmt"
	"math"
	"strings"
	"time"

	"reed/core/numeric"
	"reed/core/onair"
	"reed/core/weigh"
)

// order is that of numbers in a pack.
var order = binary.LittleEndian

// hour is the length of a pack.
const hour = time.Hour

// pack is what is weighed of an hour's reports: who and where stand once, and each report by its number among them.
type pack struct {
	Bands []string
	Ears  []ear
	Rows  []byte
}

// ear is a receiver as it was told; distance and bearing of less than 0 are not known.
type ear struct {
	Receiver           string
	DistanceM, Bearing float64
}

// Flags of a packed report.
const (
	secondsKnown = 1 << iota
	isSimulated
	isAside
)

// rowLength is that of a packed report: milliseconds of the hour, ear, band, flags, strength, power.
const rowLength = 4 + 4 + 1 + 1 + 8 + 8

// airOf is what is weighed of the reports of an hour.
const airOf = `SELECT at, seconds, band, receiver_base, snr, power, distance, bearing, simulated, aside <> '' FROM report
	WHERE outing_id = ? AND deleted = 0 AND at >= ? AND at < ? AND snr IS NOT NULL ORDER BY at, seq`

// packHour packs the reports of an hour.
func packHour(ctx context.Context, tx *sql.Tx, outingID string, of int64) ([]byte, error) {
	rows, err := tx.QueryContext(ctx, airOf, outingID, of*hour.Milliseconds(), (of+1)*hour.Milliseconds())
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var p pack
	bands, ears := map[string]int{}, map[ear]int{}
	for rows.Next() {
		var at int64
		var h weigh.Heard
		var power, distance, bearing sql.NullFloat64
		if err := rows.Scan(&at, &h.Seconds, &h.Band, &h.Receiver, &h.SNR, &power, &distance, &bearing, &h.Simulated, &h.SetAside); err != nil {
			return nil, err
		}
		e := ear{h.Receiver, -1, -1}
		if distance.Valid {
			e.DistanceM = distance.Float64
		}
		if bearing.Valid {
			e.Bearing = bearing.Float64
		}
		b, ok := bands[h.Band]
		if !ok {
			b = len(p.Bands)
			bands[h.Band], p.Bands = b, append(p.Bands, h.Band)
		}
		k, ok := ears[e]
		if !ok {
			k = len(p.Ears)
			ears[e], p.Ears = k, append(p.Ears, e)
		}
		flags := byte(0)
		for flag, on := range map[byte]bool{secondsKnown: h.Seconds, isSimulated: h.Simulated, isAside: h.SetAside} {
			if on {
				flags |= flag
			}
		}
		if b > math.MaxUint8 {
			return nil, fmt.Errorf("%d bands in an hour", b)
		}
		p.Rows = order.AppendUint32(p.Rows, uint32(at-of*hour.Milliseconds()))
		p.Rows = order.AppendUint32(p.Rows, uint32(k))
		p.Rows = append(p.Rows, byte(b), flags)
		p.Rows = order.AppendUint64(p.Rows, math.Float64bits(h.SNR))
		p.Rows = order.AppendUint64(p.Rows, math.Float64bits(power.Float64))
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = gob.NewEncoder(&out).Encode(p)
	return out.Bytes(), err
}

// unpack reads a pack, and gives each report of it from a time to another.
func unpack(text []byte, of int64, from, until time.Time, out []weigh.Heard) ([]weigh.Heard, error) {
	var p pack
	if err := gob.NewDecoder(bytes.NewReader(text)).Decode(&p); err != nil {
		return out, fmt.Errorf("what was heard in an hour: %w", err)
	}
	begin := time.UnixMilli(of * hour.Milliseconds()).UTC()
	for r := p.Rows; len(r) >= rowLength; r = r[rowLength:] {
		at := begin.Add(time.Duration(order.Uint32(r)) * time.Millisecond)
		if at.Before(from) || !at.Before(until) {
			continue
		}
		k, b, flags := order.Uint32(r[4:]), r[8], r[9]
		if int(k) >= len(p.Ears) || int(b) >= len(p.Bands) {
			return out, fmt.Errorf("what was heard in an hour is damaged")
		}
		e := &p.Ears[k]
		out = append(out, weigh.Heard{At: at, Band: p.Bands[b], Receiver: e.Receiver, DistanceM: e.DistanceM, Bearing: e.Bearing,
			SNR: math.Float64frombits(order.Uint64(r[10:])), PowerW: math.Float64frombits(order.Uint64(r[18:])),
			Seconds: flags&secondsKnown != 0, Simulated: flags&isSimulated != 0, SetAside: flags&isAside != 0})
	}
	return out, nil
}

// Queries on the packs, by their primary key.
const (
	stalePacks = "SELECT hour FROM air WHERE outing_id = ? AND hour BETWEEN ? AND ? AND pack IS NULL"
	packed     = "SELECT sum(length(pack)) FROM air WHERE outing_id = ? AND hour BETWEEN ? AND ?"
	packs      = "SELECT hour, pack FROM air WHERE outing_id = ? AND hour BETWEEN ? AND ? ORDER BY hour"
)

// staleHours says that hours have to be packed anew. It is said once for many reports: a trigger on each takes longer than storing it.
func staleHours(ctx context.Context, tx *sql.Tx, outingID string, hours map[int64]bool) error {
	for h := range hours {
		if _, err := tx.ExecContext(ctx, "INSERT INTO air VALUES (?, ?, NULL) ON CONFLICT DO UPDATE SET pack = NULL", outingID, h); err != nil {
			return err
		}
	}
	return nil
}

// packStale packs what of an outing changed since it was packed.
func (s *Store) packStale(ctx context.Context, outingID string, first, last int64) error {
	var stale []int64
	find := func(r *sql.Rows) error {
		var h int64
		err := r.Scan(&h)
		stale = append(stale, h)
		return err
	}
	if err := s.rows(ctx, "what was heard", stalePacks, find, outingID, first, last); err != nil {
		return err
	}
	for _, h := range stale { // an hour at a time: others may write between
		if err := s.inTx(ctx, "packing what was heard", func(tx *sql.Tx) error {
			text, err := packHour(ctx, tx, outingID, h)
			if err != nil {
				return err
			}
			_, err = tx.ExecContext(ctx, "UPDATE air SET pack = ? WHERE outing_id = ? AND hour = ?", text, outingID, h)
			return err
		}); err != nil {
			return err
		}
	}
	return nil
}

// Pack packs what of an outing changed, for the next look at it to be quick; without it that look does.
func (s *Store) Pack(ctx context.Context, outingID string) error {
	return s.packStale(ctx, outingID, 0, math.MaxInt64)
}

// Air reads what is weighed of an outing's reports of a stretch, by rising time.
func (s *Store) Air(ctx context.Context, outingID string, from, until time.Time) (out []weigh.Heard, err error) {
	first, last := from.UnixMilli()/hour.Milliseconds(), until.UnixMilli()/hour.Milliseconds()
	if err := s.packStale(ctx, outingID, first, last); err != nil {
		return nil, err
	}
	var bytes sql.NullInt64
	if err := s.r.QueryRowContext(ctx, packed, outingID, first, last).Scan(&bytes); err != nil {
		return nil, fmt.Errorf("what was heard: %w", err)
	}
	type part struct {
		hour int64
		text []byte
		out  []weigh.Heard
	}
	var parts []part
	if err := s.rows(ctx, "what was heard", packs, func(r *sql.Rows) error {
		var p part
		err := r.Scan(&p.hour, &p.text)
		if len(p.text) > 0 { // changed again meanwhile: the next look has it
			parts = append(parts, p)
		}
		return err
	}, outingID, first, last); err != nil {
		return nil, err
	}
	wrong := make([]error, len(parts))
	if err := numeric.Share(ctx, len(parts), func(i int) {
		p := &parts[i]
		p.out, wrong[i] = unpack(p.text, p.hour, from, until, make([]weigh.Heard, 0, len(p.text)/rowLength))
	}); err != nil {
		return nil, err
	}
	out = make([]weigh.Heard, 0, bytes.Int64/rowLength)
	for i := range parts {
		if wrong[i] != nil {
			return nil, wrong[i]
		}
		out = append(out, parts[i].out...)
	}
	return out, nil
}

// worked is what a comparison counts of contacts, from an index alone.
// Its texts come as one: each by itself takes longer than all the rest.
const worked = `SELECT at, power_w, band || char(31) || mode || char(31) || submode || char(31) || received || char(31) || locator
	|| char(31) || call FROM contact WHERE deployment_id = ? AND deleted = 0 ORDER BY at`

const workedCount = "SELECT count(*) FROM contact WHERE deployment_id = ? AND deleted = 0"

// CountWorked counts the contacts of a deployment.
func (s *Store) CountWorked(ctx context.Context, deploymentID string) (n int, err error) {
	if err = s.r.QueryRowContext(ctx, workedCount, deploymentID).Scan(&n); err != nil {
		err = fmt.Errorf("counting the contacts: %w", err)
	}
	return n, err
}

// Worked lists what a comparison counts of the contacts of a deployment, in rising time.
func (s *Store) Worked(ctx context.Context, deploymentID string) (out []weigh.Worked, err error) {
	kept := map[string][]string{}
	n, err := s.CountWorked(ctx, deploymentID)
	if err != nil {
		return nil, err
	}
	out = make([]weigh.Worked, 0, n)
	err = s.rows(ctx, "the contacts", worked, func(r *sql.Rows) error {
		var at int64
		var text sql.RawBytes
		var c weigh.Worked
		if err := r.Scan(&at, &c.PowerW, &text); err != nil {
			return err
		}
		of, ok := kept[string(text)]
		if !ok {
			of = strings.SplitN(string(text), "\x1f", 6)
			of[1] = onair.Contact{Mode: of[1], Submode: of[2]}.ModeLabel()
			kept[string(text)] = of
		}
		c.At, c.Band, c.Mode, c.Received, c.Locator, c.Call = time.UnixMilli(at).UTC(), of[0], of[1], of[3], of[4], of[5]
		out = append(out, c)
		return nil
	}, deploymentID)
	return out, err
}
