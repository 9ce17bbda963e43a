package store

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/binary"
	"encoding/gob"
	"errors"
	"fmt"
	"math"
	"slices"
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

// pack is the compared part of an hour's reports: stations and places once, and each report by its number among them.
type pack struct {
	Bands []string
	Ears  []ear
	Rows  []byte
}

// ear is the station at the other end as reported; distance and bearing of less than 0 are not known.
type ear struct {
	Receiver           string
	DistanceM, Bearing float64
	By                 string
}

// rowLength is that of a packed report: milliseconds of the hour, ear, band, flags, strength, power.
const rowLength = 4 + 4 + 1 + 1 + 8 + 8

// airOf returns the compared part of the reports of an hour.
const airOf = `SELECT at, seconds, band, iif(side = 1, sender_base, receiver_base), snr, power, distance, bearing, simulated,
	aside <> '', side = 1, side = 2, CASE side WHEN 1 THEN receiver_base WHEN 2 THEN sender_base ELSE '' END FROM report
	WHERE outing_id = ? AND deleted = 0 AND at >= ? AND at < ? AND snr IS NOT NULL ORDER BY at, seq`

// packHour packs the reports of an hour.
func packHour(ctx context.Context, tx *sql.Tx, outingID string, of int64) ([]byte, error) {
	rows, err := tx.QueryContext(ctx, airOf, outingID, of*hour.Milliseconds(), (of+1)*hour.Milliseconds())
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var p pack
	bands, ears := placesOf[string]{}, placesOf[ear]{}
	for rows.Next() {
		var at int64
		var h weigh.Heard
		var power, distance, bearing sql.NullFloat64
		if err := rows.Scan(&at, &h.Seconds, &h.Band, &h.Receiver, &h.SNR, &power, &distance, &bearing, &h.Simulated, &h.SetAside,
			&h.Own, &h.Others, &h.By); err != nil {
			return nil, err
		}
		e := ear{h.Receiver, -1, -1, h.By}
		if distance.Valid {
			e.DistanceM = distance.Float64
		}
		if bearing.Valid {
			e.Bearing = bearing.Float64
		}
		b, k := bands.of(h.Band), ears.of(e)
		if b > math.MaxUint8 {
			return nil, fmt.Errorf("%d bands in an hour", b)
		}
		p.Rows = order.AppendUint32(p.Rows, uint32(at-of*hour.Milliseconds()))
		p.Rows = order.AppendUint32(p.Rows, uint32(k))
		p.Rows = append(p.Rows, byte(b), byte(h.Marks()))
		p.Rows = order.AppendUint64(p.Rows, math.Float64bits(h.SNR))
		p.Rows = order.AppendUint64(p.Rows, math.Float64bits(power.Float64))
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	p.Bands, p.Ears = bands.list, ears.list
	var out bytes.Buffer
	err = gob.NewEncoder(&out).Encode(p)
	return out.Bytes(), err
}

// errDamaged says that a pack cannot be read.
var errDamaged = errors.New("what was heard in an hour is damaged")

// unpack writes the reports of a pack that lie from a time to another; the pack's receivers and bands are at these places.
func (p *pack) unpack(of int64, from, until int64, bands []uint8, ears []uint32, out []weigh.Brief) ([]weigh.Brief, error) {
	begin := of * hour.Milliseconds()
	for r := p.Rows; len(r) >= rowLength; r = r[rowLength:] {
		at := begin + int64(order.Uint32(r))
		if at < from || at >= until {
			continue
		}
		k, b, flags := order.Uint32(r[4:]), r[8], r[9]
		if int(k) >= len(ears) || int(b) >= len(bands) {
			return out, errDamaged
		}
		out = append(out, weigh.Brief{At: at, Ear: ears[k], Band: bands[b],
			SNR: math.Float64frombits(order.Uint64(r[10:])), PowerW: math.Float64frombits(order.Uint64(r[18:])),
			Marks: weigh.Mark(flags)})
	}
	return out, nil
}

// Queries on the packs, by their primary key.
const (
	stalePacks = "SELECT hour FROM air WHERE outing_id = ? AND hour BETWEEN ? AND ? AND pack IS NULL"
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
func (s *Store) Air(ctx context.Context, outingID string, from, until time.Time) (out weigh.Reports, err error) {
	first, last := from.UnixMilli()/hour.Milliseconds(), until.UnixMilli()/hour.Milliseconds()
	if err := s.packStale(ctx, outingID, first, last); err != nil {
		return out, err
	}
	type part struct {
		hour  int64
		text  []byte
		bands []uint8
		ears  []uint32
		begin int
		rows  []weigh.Brief
		wrong error
		pack
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
		return out, err
	}
	wrong := func() error {
		for i := range parts {
			if err := parts[i].wrong; err != nil {
				return err
			}
		}
		return nil
	}
	if err := numeric.Share(ctx, len(parts), func(i int) {
		p := &parts[i]
		if err := gob.NewDecoder(bytes.NewReader(p.text)).Decode(&p.pack); err != nil {
			p.wrong = fmt.Errorf("what was heard in an hour: %w", err)
		}
	}); err != nil {
		return out, err
	}
	if err := wrong(); err != nil {
		return out, err
	}
	bands, ears, n := placesOf[string]{}, placesOf[weigh.Ear]{}, 0
	for i := range parts {
		p := &parts[i]
		for _, name := range p.Bands {
			p.bands = append(p.bands, uint8(bands.of(name)))
		}
		for _, e := range p.Ears {
			p.ears = append(p.ears, uint32(ears.of(weigh.Ear(e))))
		}
		p.begin, n = n, n+len(p.Rows)/rowLength
	}
	if len(bands.list) > 1+math.MaxUint8 {
		return out, fmt.Errorf("%d bands in an outing", len(bands.list))
	}
	out = weigh.Reports{Bands: bands.list, Ears: ears.list, Rows: make([]weigh.Brief, n)}
	if err := numeric.Share(ctx, len(parts), func(i int) {
		p := &parts[i]
		p.rows, p.wrong = p.unpack(p.hour, from.UnixMilli(), until.UnixMilli(), p.bands, p.ears, out.Rows[p.begin:p.begin])
	}); err != nil {
		return out, err
	}
	if err := wrong(); err != nil {
		return out, err
	}
	n = 0
	for i := range parts { // those at the ends of the stretch are not whole
		if p := &parts[i]; n == p.begin {
			n += len(p.rows)
		} else {
			n += copy(out.Rows[n:], p.rows)
		}
	}
	out.Rows = out.Rows[:n]
	return out, nil
}

// placesOf is a list in which each stands once.
type placesOf[T comparable] struct {
	list []T
	at   map[T]int
}

func (p *placesOf[T]) of(v T) int {
	k, ok := p.at[v]
	if !ok {
		if p.at == nil {
			p.at = map[T]int{}
		}
		k = len(p.list)
		p.at[v], p.list = k, append(p.list, v)
	}
	return k
}

// worked returns the compared values of contacts, from an index alone.
// Its texts come as one: each by itself takes longer than all the rest.
const worked = `SELECT at, power_w, band || char(31) || mode || char(31) || submode || char(31) || received || char(31) || locator
	|| char(31) || call FROM contact WHERE deployment_id = ? AND deleted = 0 ORDER BY at`

const hasWorked = "SELECT EXISTS (SELECT 1 FROM contact WHERE deployment_id = ? AND deleted = 0)"

// HasWorked says whether a contact was made with a deployment.
func (s *Store) HasWorked(ctx context.Context, deploymentID string) (is bool, err error) {
	if err = s.r.QueryRowContext(ctx, hasWorked, deploymentID).Scan(&is); err != nil {
		err = fmt.Errorf("looking for contacts: %w", err)
	}
	return is, err
}

// Worked lists what a comparison counts of the contacts of a deployment, in rising time.
func (s *Store) Worked(ctx context.Context, deploymentID string) (out []weigh.Worked, err error) {
	kept := map[string]weigh.Worked{} // by all but the call: few differ in that
	err = s.rows(ctx, "the contacts", worked, func(r *sql.Rows) error {
		var at int64
		var power float64
		var text sql.RawBytes
		if err := r.Scan(&at, &power, &text); err != nil {
			return err
		}
		cut := bytes.LastIndexByte(text, '\x1f')
		c, ok := kept[string(text[:cut])]
		if !ok {
			of := strings.SplitN(string(text[:cut]), "\x1f", 5)
			c = weigh.Worked{Band: of[0], Mode: onair.Contact{Mode: of[1], Submode: of[2]}.ModeLabel(), Received: of[3], Locator: of[4]}
			kept[string(text[:cut])] = c
		}
		c.At, c.PowerW, c.Call = time.UnixMilli(at).UTC(), power, string(text[cut+1:])
		if len(out) == cap(out) { // a hundred thousand are copied less often so
			out = slices.Grow(out, max(64, len(out)))
		}
		out = append(out, c)
		return nil
	}, deploymentID)
	return out, err
}
