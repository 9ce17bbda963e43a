package exchange

import (
	"fmt"
	"time"

	ics "github.com/arran4/golang-ical"

	"reed/core/scout"
)

// Calendar writes the moments of an outing's day as an iCalendar file (RFC 5545), with a reminder before the one at which to
// pack. stamp is when it was made.
func Calendar(id, name, where string, d scout.Day, stamp time.Time) []byte {
	c := ics.NewCalendar()
	c.SetMethod(ics.MethodPublish)
	c.SetProductId("-//Itinerant Reed//outing//EN")
	add := func(key, title, text string, from, until time.Time) *ics.VEvent {
		e := c.AddEvent(fmt.Sprintf("%s-%s@itinerant-reed", id, key))
		e.SetDtStampTime(stamp)
		e.SetStartAt(from)
		e.SetEndAt(until)
		e.SetSummary(title)
		if where != "" {
			e.SetLocation(where)
		}
		if text != "" {
			e.SetDescription(text)
		}
		return e
	}
	text := ""
	for _, s := range d.Says {
		text += s + "\n"
	}
	for _, b := range d.Bands {
		text += b.Name + ": " + b.Says + "\n"
	}
	add("outing", name, text, d.From, d.Until)
	for _, e := range d.Events {
		v := add(e.Kind+e.At.UTC().Format("1504"), name+": "+e.Says, "", e.At, e.At.Add(5*time.Minute))
		if e.Kind == "pack" {
			a := v.AddAlarm()
			a.SetAction(ics.ActionDisplay)
			a.SetTrigger("-PT10M")
			a.SetProperty(ics.ComponentPropertyDescription, e.Says)
		}
	}
	return []byte(c.Serialize())
}
