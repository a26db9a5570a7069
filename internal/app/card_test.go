package app

import (
	"slices"
	"testing"

	"freshanvil/core/machine"
)

// The tag of a machine says what each day asks for, its wash too where that is of each day, also when it is printed
// on a day on which nobody makes coffee; what is not of each day is said with how often.
func TestTheTagSaysWhatEachDayAsksFor(t *testing.T) {
	b := newBench(t)
	cafe := NewMachine{ID: newID(), Name: "Tide office", Zone: "Europe/Lisbon", IsNew: &b.clock}
	cafe.Answers, cafe.Hardness = home(200, 14)
	cafe.Answers.Layout = machine.HXCafe
	b.must(b.CreateMachine(ctx, cafe))
	house := b.add(4, 14)
	seldom := "a few times a week"
	b.must(b.ChangeFacts(ctx, Edit{MachineID: house, Version: b.machine(house).Version},
		[]Fact{{"water_backflush", &seldom}}))
	b.clock = b.clock.AddDate(0, 0, 9) // and not a drink was logged
	for id, want := range map[string][]string{
		cafe.ID: {"Brush seal and screen", "Purge and wipe the wand", "Water backflush", "Tray and waste",
			"Detergent wash after the last drink"},
		house: {"Brush seal and screen", "Purge and wipe the wand", "Water backflush, every 3 days",
			"Empty and wash the tray", "Fresh water in the tank"},
	} {
		c, err := b.BeatsOf(ctx, id)
		b.must(err)
		if !slices.Equal(c.Daily, want) {
			t.Errorf("%q, want %q", c.Daily, want)
		}
	}
}
