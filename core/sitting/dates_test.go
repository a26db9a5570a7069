package sitting_test

import (
	"slices"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/sitting"
	"freshanvil/core/task"
)

// Dates keep their names while they move: a date is named by what leads it and by how often that was done before, so
// that the one that was done is gone and the others are known again.
func TestDatesKeepTheirNames(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	in := func(days int) time.Time { return now.AddDate(0, 0, days) }
	one, two := machine.Group(1), machine.Group(2)
	wash := func(of machine.Part, due, last int) care.Standing {
		return care.Standing{Task: task.Wash, Part: of, Title: "Detergent wash", State: care.Later, Earliest: in(due - 2),
			Likely: in(due), Latest: in(due + 3), Last: in(last), Clock: task.ByDays, Used: float64(-last),
			Most: float64(due - last), Unit: "days"}
	}
	yearly := care.Standing{Task: task.Service, Title: "Yearly service", State: care.Later,
		Earliest: in(90), Likely: in(90), Latest: in(90)}
	done := map[machine.Part]int{one: 5, two: 5}
	often := func(id task.ID, of machine.Part) int {
		if id == task.Wash {
			return done[of]
		}
		return 0
	}
	dates := func(list ...care.Standing) []sitting.Date {
		return sitting.Dates(list, often, nil, nil, 2, now, 100, time.UTC)
	}
	before := dates(wash(one, 10, -20), wash(two, 10, -20), yearly)
	if len(before) != 5 {
		t.Fatalf("%+v", before)
	}
	first := before[0]
	if first.Turn != (sitting.Turn{Task: task.Wash, Part: one, Number: 6}) ||
		!slices.Equal(first.Jobs, []string{"Detergent wash, groups 1 and 2"}) || first.Minutes <= 0 || first.Book ||
		first.Between != "Between 18 and 23 March 2026." {
		t.Errorf("%+v", first)
	}
	if before[1].Turn.Number != 7 || before[1].Between != "" {
		t.Errorf("the one after: %+v", before[1])
	}
	book := before[slices.IndexFunc(before, func(d sitting.Date) bool { return d.Book })]
	if book.Title() != "Book a technician: yearly service" || book.Turn.Number != 1 {
		t.Errorf("%+v", book)
	}
	moved := dates(wash(one, 12, -20), wash(two, 12, -20), yearly)
	if moved[0].Turn != first.Turn || moved[0].Day.Equal(first.Day) {
		t.Errorf("moved, it is %+v, was %+v", moved[0], first)
	}
	done[one], done[two] = 6, 6
	after := dates(wash(one, 30, 0), wash(two, 30, 0), yearly)
	if after[0].Turn != before[1].Turn {
		t.Errorf("once done, the next is %+v, was %+v", after[0].Turn, before[1].Turn)
	}
	over := wash(one, -1, -30)
	over.State = care.Overdue
	if d := dates(over)[0]; !d.Now || d.Between != "" {
		t.Errorf("overdue: %+v", d)
	}
}

func TestADateInWords(t *testing.T) {
	for _, x := range []struct {
		name         string
		date         sitting.Date
		title, takes string
	}{
		{"one job", sitting.Date{Jobs: []string{"Descale"}, Minutes: 15}, "Descale", "About 15 minutes of your time."},
		{"two", sitting.Date{Jobs: []string{"New seal, groups 1 and 2", "Soak"}, Minutes: 16.2},
			"New seal, groups 1 and 2, with one more job", "About 20 minutes of your time."},
		{"more", sitting.Date{Jobs: []string{"New seal, groups 1 and 2", "a", "b", "c"}, Minutes: 101},
			"New seal, groups 1 and 2, with 3 more jobs", "About 1 h 45 min of your time."},
		{"a quick one", sitting.Date{Jobs: []string{"Wipe the tank out"}, Minutes: 0.4}, "Wipe the tank out",
			"About a minute of your time."},
		{"a technician's", sitting.Date{Jobs: []string{"Yearly service"}, Book: true},
			"Book a technician: yearly service", ""},
	} {
		t.Run(x.name, func(t *testing.T) {
			if got := x.date.Title(); got != x.title {
				t.Errorf("%q, want %q", got, x.title)
			}
			if got := x.date.Takes(); got != x.takes {
				t.Errorf("%q, want %q", got, x.takes)
			}
		})
	}
}
