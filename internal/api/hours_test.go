package api

import (
	"fmt"
	"testing"
	"time"
)

// A machine's day turns at four in its own zone. Whatever the hour and the zone, and on
// the nights on which the clocks change: what is pressed counts for the day it is, a
// file's day that is not over is refused, small tasks are of the day, a wash is put on
// record at its instant, and the count begins anew when the day turns.
func TestAnyHourInAnyZone(t *testing.T) {
	days := map[string][]string{ // an ordinary day, and those on which the clocks change
		"Europe/Lisbon":    {"2026-03-10", "2026-03-29", "2026-10-25"},
		"Pacific/Auckland": {"2026-03-10", "2026-04-05", "2026-09-27"},
		"America/St_Johns": {"2026-03-10", "2026-03-08", "2026-11-01"},
	}
	for zone, dates := range days {
		where, err := time.LoadLocation(zone)
		if err != nil {
			t.Fatal(err)
		}
		for _, date := range dates {
			for _, clock := range []string{"00:30", "03:59", "12:00", "23:59"} {
				t.Run(fmt.Sprintf("%s %s in %s", date, clock, zone), func(t *testing.T) {
					t.Parallel()
					at, err := time.ParseInLocation("2006-01-02 15:04", date+" "+clock, where)
					if err != nil {
						t.Fatal(err)
					}
					anyHour(t, at, zone)
				})
			}
		}
	}
}

func anyHour(t *testing.T, at time.Time, zone string) {
	b := newBench(t)
	b.now = at
	id := newID()
	b.call("POST", "/api/machines", fields{"id": id, "name": "Tea deck", "zone": zone, "answers": home()}, 201, nil)
	b.call("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": "descale", "part": "machine", "at": at}, 201,
		nil)

	// the machine's own day: before four it is the one before
	today := time.Date(at.Year(), at.Month(), at.Day(), 0, 0, 0, 0, time.UTC)
	if at.Hour() < 4 {
		today = today.AddDate(0, 0, -1)
	}
	day := func(ago int) string { return today.AddDate(0, 0, -ago).Format(time.DateOnly) }
	take := func(rows ...string) (out Imported) {
		text := "date,double\n"
		for _, r := range rows {
			text += r + ",3\n"
		}
		b.call("POST", "/api/machines/"+id+"/imports", fields{"text": text, "preview": false}, 200, &out)
		return out
	}
	if got := take(day(2), day(0)); got.Kept || len(got.Bad) != 1 || got.Bad[0].Line != 3 || got.Bad[0].Field != "date" {
		t.Errorf("%s is not over: %+v", day(0), got)
	}
	if got := take(day(2), day(1)); !got.Kept || got.Entries != 2 {
		t.Errorf("%s and %s are over: %+v", day(2), day(1), got)
	}
	if drinks := b.first().Today.Drinks; drinks != 0 {
		t.Errorf("%v drinks of other days count for today", drinks)
	}

	b.call("POST", "/api/machines/"+id+"/use", fields{"id": newID(), "kind": "double", "at": b.now}, 201, nil)
	if m := b.first(); m.Today.Drinks != 1 || len(m.Small) == 0 {
		t.Fatalf("a drink now: %v today, small tasks %+v", m.Today.Drinks, m.Small)
	}
	var tasks []string
	for _, s := range b.first().Small {
		tasks = append(tasks, string(s.Task))
	}
	b.call("POST", "/api/machines/"+id+"/small", fields{"id": newID(), "tasks": tasks, "at": b.now}, 201, nil)
	if small := b.first().Small; len(small) != 0 {
		t.Errorf("ticked off, and still %+v", small)
	}

	l := b.start(id)
	l.goOnTo("the end", func() bool { return l.Outcome != nil })
	if *l.Outcome != "done" || l.Next == nil || !l.Next.Likely.After(b.now) || l.Next.State != "later" {
		t.Fatalf("washed: %v, next %+v", *l.Outcome, l.Next)
	}
	var log Log
	b.call("GET", "/api/log?machine_id="+id, nil, 200, &log)
	if e := log.Entries[0]; e.Title != "Detergent wash" || e.At.Before(at) || e.At.After(b.now) || e.Zone != zone {
		t.Errorf("logged as %+v, between %v and %v", e, at, b.now)
	}

	turns := time.Date(today.Year(), today.Month(), today.Day()+1, 4, 0, 0, 0, at.Location())
	if b.now = turns.Add(-time.Second); b.now.After(at.Add(time.Hour)) { // else the wash went on over the turn
		if drinks := b.first().Today.Drinks; drinks != 1 {
			t.Errorf("a second before the day turns: %v drinks", drinks)
		}
	}
	b.now = turns
	if drinks := b.first().Today.Drinks; drinks != 0 {
		t.Errorf("the day has turned, and %v drinks count", drinks)
	}
}
