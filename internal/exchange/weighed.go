package exchange

import (
	"encoding/csv"
	"io"
	"strconv"
	"time"

	"reed/core/onair"
)

// Weighed writes the slots and reports that a comparison comes from as a table.
type Weighed struct{ w *csv.Writer }

// WriteWeighed begins the table.
func WriteWeighed(to io.Writer) *Weighed {
	w := &Weighed{csv.NewWriter(to)}
	w.put("what", "at", "band", "antenna", "seconds", "power_w", "receiver", "locator", "snr_db", "distance_km", "bearing", "simulated",
		"set_aside", "sender", "sender_locator")
	return w
}

func (w *Weighed) put(cells ...string) {
	for i := range cells {
		cells[i] = HarmlessUnlessNumber(cells[i])
	}
	_ = w.w.Write(cells) // Done says what went wrong
}

func figure(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// known is a figure times a scale, empty where it is not known.
func known(v *float64, scale float64) string {
	if v == nil {
		return ""
	}
	return figure(*v * scale)
}

// Slot adds a slot in which an antenna sent, or was listened with.
func (w *Weighed) Slot(run onair.Run, s onair.PlannedSlot, antenna string) {
	what, power := "slot", figure(run.PowerW)
	if run.Listen {
		what, power = "listened", ""
	}
	w.put(what, s.At.UTC().Format(time.RFC3339), s.Band, antenna, figure(run.Sending().Seconds()), power,
		"", "", "", "", "", "", "", "", "")
}

// Report adds what was heard of one, or with one.
func (w *Weighed) Report(r onair.Report, antenna string) {
	w.put("report", r.At.UTC().Format(time.RFC3339), r.Band, antenna, "", known(r.PowerW, 1), r.Receiver, r.Locator, known(r.SNR, 1),
		known(r.DistanceM, 1e-3), known(r.Bearing, 1), strconv.FormatBool(r.Simulated), r.SetAside, r.Sender, r.SenderLocator)
}

// Done ends the table.
func (w *Weighed) Done() error {
	w.w.Flush()
	return w.w.Error()
}
