// Package calendar writes the dates of machines as iCalendar (RFC 5545), for the calendar that somebody looks at
// anyway.
package calendar

import (
	"fmt"
	"io"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"

	"freshanvil/core/speak"
	"freshanvil/internal/app"
)

// askAgain is how often a calendar program may ask anew.
const askAgain = "PT6H"

// alarmAt is when the alarm of a day rings: at nine, of a day that begins at midnight.
const alarmAt = "PT9H"

// Write writes dates as a calendar of a name. Origin is where the pages are found, such as https://bench.example.org;
// empty where nobody said so: then no event leads there.
func Write(to io.Writer, name string, list []app.Date, origin string) error {
	c := ics.NewCalendar()
	c.SetProductId("-//Fresh Anvil//Dates//EN")
	c.SetMethod(ics.MethodPublish)
	c.SetName(name)
	c.SetXWRCalName(name)
	c.SetRefreshInterval(askAgain, ics.WithValue("DURATION"))
	c.SetXPublishedTTL(askAgain)
	for _, d := range list {
		if err := add(c, d, origin); err != nil {
			return err
		}
	}
	return c.SerializeTo(to, ics.WithNewLineWindows)
}

func add(c *ics.Calendar, d app.Date, origin string) error {
	day, err := time.Parse(time.DateOnly, d.On)
	if err != nil {
		return fmt.Errorf("the date %s: %w", d.UID, err)
	}
	e := c.AddEvent(d.UID)
	e.SetDtStampTime(d.Changed)
	e.SetModifiedAt(d.Changed)
	e.SetSequence(d.Sequence)
	e.SetAllDayStartAt(day)
	e.SetAllDayEndAt(day.AddDate(0, 0, 1))
	title := d.Title()
	e.SetSummary(d.Machine.Name + ": " + speak.Lower(title))
	e.SetDescription(describe(d))
	if d.Machine.Place != "" {
		e.SetLocation(d.Machine.Place)
	}
	if origin != "" {
		e.SetURL(origin + "/machines/" + d.Machine.ID)
	}
	e.SetTimeTransparency(ics.TransparencyTransparent)
	a := e.AddAlarm()
	a.SetAction(ics.ActionDisplay)
	a.SetTrigger(alarmAt)
	a.SetProperty(ics.ComponentPropertyDescription, e.GetProperty(ics.ComponentPropertySummary).Value)
	return nil
}

// describe says what is done, how long it takes, and how sure the day is.
func describe(d app.Date) string {
	lines := append([]string{}, d.Jobs...)
	if takes := d.Takes(); takes != "" {
		lines = append(lines, takes)
	}
	if d.Now {
		lines = append(lines, "Due since this day.")
	}
	if d.Between != "" {
		lines = append(lines, d.Between)
	}
	if d.Machine.Owner != "" {
		lines = append(lines, "For "+d.Machine.Owner+".")
	}
	return strings.Join(lines, "\n")
}
