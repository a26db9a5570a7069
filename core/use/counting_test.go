package use

import (
	"errors"
	"math"
	"strings"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// 200 on the counter are 100 drinks with a flush each; the span begins with the
// reading before, or with the wash that put the counter back.
func TestFromCounter(t *testing.T) {
	f := single().Facts()
	yes, no := true, false
	before := &Reading{Value: 40, At: daysAgo(30)}
	for name, c := range map[string]struct {
		before *Reading
		wash   time.Time
		r      Reading
		count  float64
		from   time.Time
		field  string
	}{
		"the first, nothing on record": {nil, time.Time{}, Reading{Value: 120, At: noon}, 0, noon, ""},
		"the first, washed before":     {nil, daysAgo(20), Reading{Value: 98200, At: noon}, 0, noon, ""},
		"the first, reset by a wash":   {nil, daysAgo(20), Reading{Value: 200, At: noon, Reset: &yes}, 100, daysAgo(20), ""},
		"a month later":                {before, time.Time{}, Reading{Value: 240, At: noon}, 100, daysAgo(30), ""},
		"below the one before":         {before, time.Time{}, Reading{Value: 30, At: noon}, 0, noon, "reading"},
		"below, reset":                 {before, time.Time{}, Reading{Value: 30, At: noon, Reset: &yes}, 15, daysAgo(30), ""},
		"a wash between, not said":     {before, daysAgo(10), Reading{Value: 60, At: noon}, 0, noon, "reset"},
		"a wash put it back":           {before, daysAgo(10), Reading{Value: 60, At: noon, Reset: &yes}, 30, daysAgo(10), ""},
		"a wash that left it":          {before, daysAgo(10), Reading{Value: 60, At: noon, Reset: &no}, 10, daysAgo(30), ""},
		"earlier than the one before":  {before, time.Time{}, Reading{Value: 60, At: daysAgo(40)}, 0, noon, "at"},
		"negative":                     {before, time.Time{}, Reading{Value: -1, At: noon}, 0, noon, "reading"},
		"no number":                    {before, time.Time{}, Reading{Value: math.NaN(), At: noon}, 0, noon, "reading"},
		"more than can be made":        {before, time.Time{}, Reading{Value: 99999 * 2, At: noon}, 0, noon, "reading"},
	} {
		use, err := FromCounter(f, c.before, c.wash, c.r, time.UTC)
		var bad *units.OutOfRange
		if c.field != "" {
			if !errors.As(err, &bad) || bad.Field != c.field || bad.Allowed == "" {
				t.Errorf("%s: %v, want %s refused", name, err, c.field)
			}
			continue
		}
		if err != nil || use.Count != c.count || !use.From.Equal(c.from) || !use.To.Equal(noon) {
			t.Errorf("%s: %+v, %v", name, use, err)
		}
	}
	only := f
	only.CounterFlushes = false
	if use, err := FromCounter(only, before, time.Time{}, Reading{Value: 240, At: noon}, time.UTC); err != nil ||
		use.Count != 200 {
		t.Errorf("a counter of drinks alone: %+v, %v", use, err)
	}
}

// A reading is the amount over its span: presses and shorter spans inside it
// are part of it, those outside are not.
func TestAReadingAbsorbsPresses(t *testing.T) {
	f := single().Facts()
	f.Groups = 2
	press := func(ago float64, group int, n float64) Event {
		return Event{Kind: Milk, Count: n, From: daysAgo(ago), To: daysAgo(ago), Part: ofGroup(group)}
	}
	events := []Event{
		{Kind: Double, Count: 100, From: daysAgo(30), To: daysAgo(10)},
		press(20, 0, 7), press(15, 1, 3), press(5, 1, 2), press(31, 0, 50),
		{Kind: Single, Count: 9, From: daysAgo(13), To: daysAgo(12)},
		{Kind: Flush, Count: 4, From: daysAgo(20), To: daysAgo(20), Part: machine.Group(1)},
	}
	if got := Count(events, machine.Part{}, 2, daysAgo(30), noon); got.Shots() != 102 || got.Coffee(f) != 102*18 {
		t.Errorf("%+v, want the reading's 100 and the two drinks after it", got)
	}
	if got := Count(events, machine.Group(1), 2, daysAgo(30), noon); got.Shots() != 52 ||
		math.Abs(float64(got.Litres(f))-(52*0.131+4*0.05)) > 1e-9 {
		t.Errorf("group 1: %+v, want half the reading and its own two, and the flushes", got)
	}
	if got := Count(events, machine.Part{}, 2, daysAgo(20), daysAgo(10)); got.Shots() != 50 {
		t.Errorf("half the span: %+v", got)
	}
	own := []Event{
		{Kind: Double, Count: 10, From: daysAgo(3), To: noon, Part: machine.Group(2)},
		press(1, 1, 4),
		press(1, 2, 4),
	}
	if got := Count(own, machine.Part{}, 2, daysAgo(9), noon); got.Shots() != 14 {
		t.Errorf("a span of one group: %+v, want it to absorb that group's only", got)
	}
	equal := []Event{
		{Kind: Double, Count: 5, From: daysAgo(1), To: noon},
		{Kind: Milk, Count: 6, From: daysAgo(1), To: noon},
	}
	if got := Count(equal, machine.Part{}, 2, daysAgo(9), noon); got.Shots() != 11 {
		t.Errorf("two kinds of one day: %+v", got)
	}
	habit := habitOf(events, noon)
	sum := 0.0
	for day := range habit.Days {
		sum += habit.at(day, 0, 2)
	}
	if math.Abs(sum-(100+2+50)) > 1e-9 {
		t.Errorf("by the day it sums to %v", sum)
	}
}

func TestReadUse(t *testing.T) {
	f := single().Facts()
	f.Groups = 2
	zone, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	read := func(text string) ([]Event, []BadRow) { return ReadUse(text, f, zone, noon) }
	events, bad := read("\ufeffDate;Group;Double;Milk;Flush\r\n2026-03-01;;3;2;0\r\n\r\n2026-03-02;2;4;;1\r\n")
	if len(bad) != 0 || len(events) != 4 {
		t.Fatalf("%+v, %+v", events, bad)
	}
	if e := events[2]; e.Kind != Double || e.Count != 4 || e.Part != machine.Group(2) ||
		!e.From.Equal(time.Date(2026, 3, 2, 4, 0, 0, 0, zone)) ||
		e.To.Sub(e.From) != 24*time.Hour {
		t.Errorf("%+v", e)
	}
	if again, _ := read("Date;Group;Double;Milk;Flush\n2026-03-01;;3;2;0\n2026-03-02;2;4;;1\n"); len(again) != 4 ||
		again[3] != events[3] {
		t.Errorf("the same table reads as %+v", again)
	}
	// counts of the machine's own counter, put back once; today is not over
	events, bad = read("date,counter\n2026-03-01,100\n2026-03-06,140\n2026-03-08,20\n2026-03-09,30\n")
	if len(bad) != 0 || len(events) != 3 || events[0].Count != 20 || events[1].Count != 10 || events[2].Count != 5 ||
		!events[2].To.Equal(time.Date(2026, 3, 10, 4, 0, 0, 0, zone)) {
		t.Errorf("%+v, %+v", events, bad)
	}
	if events, _ := read("date\tdrinks\n2026-03-10T07:30:00Z\t2\n"); len(events) != 1 ||
		events[0].From != events[0].To {
		t.Errorf("an instant: %+v", events)
	}
	for text, want := range map[string][]string{
		"":                     {"header"},
		"day,drinks\n":         {"header"},
		"drinks\n3\n":          {"header"},
		"date\n2026-03-01\n":   {"header"},
		"date,drinks,drinks\n": {"header"},
		"date,drinks,double\n": {"header"},
		"date,drinks\n":        {"line"},
		"date,drinks\n2026-03-01,x\n2026-02-30,2\n2026-03-10,2\n2026-03-03,-1\n2026-03-04,NaN\n" +
			"2026-03-05,9999\n2026-03-06,4\n2026-03-06,4\n2026-03-07,\n2026-03-08,1,2\n": {"drinks", "date", "date", "drinks",
			"drinks", "drinks", "date", "line", "line"},
		"date,group,drinks\n2026-03-01,3,1\n2026-03-02,one,1\n": {"group", "group"},
		"date,counter\n2026-03-05,10\n2026-03-04,20\n":          {"date"},
		"date,drinks\n\"2026-03-01,3\n":                         {"line"},
	} {
		events, bad := read(text)
		var fields []string
		for _, b := range bad {
			fields = append(fields, b.Field)
			if b.Allowed == "" || b.Line < 1 {
				t.Errorf("%q: %+v is not said in full", text, b)
			}
		}
		if len(events) != 0 || strings.Join(fields, " ") != strings.Join(want, " ") {
			t.Errorf("%q: %+v, bad %+v, want %v", text, events, bad, want)
		}
	}
}

// Whatever is in the file: no panic, and either all of it is taken or none.
func FuzzReadUse(f *testing.F) {
	f.Add("date,drinks\n2026-03-01,4\n")
	f.Add("date;group;double;milk\n2026-03-01;1;4;2\n")
	f.Add("date,counter\n2026-03-01,4\n2026-03-02,1\n")
	f.Add("date,drinks\n\"2026\n")
	facts := single().Facts()
	f.Fuzz(func(t *testing.T, text string) {
		events, bad := ReadUse(text, facts, time.UTC, noon)
		if len(bad) > 0 && len(events) > 0 {
			t.Fatalf("bad rows, and still %d entries", len(events))
		}
		for _, e := range events {
			if !(e.Count > 0) || e.To.Before(e.From) || e.To.After(noon) || e.Part.GroupNumber() > facts.Groups ||
				!(e.Kind.IsShot() || e.Kind == Flush) {
				t.Fatalf("%+v was taken", e)
			}
		}
		for _, b := range bad {
			if b.Field == "" || b.Allowed == "" || b.Line < 1 {
				t.Fatalf("%+v is not said in full", b)
			}
		}
	})
}
