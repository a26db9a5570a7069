package demo

import (
	"context"
	"time"

	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/internal/app"
)

// looks are what was seen on the bench, by machine and days ago.
var looks = map[string][]struct {
	ago     int
	sight   inspect.Sight
	part    machine.Part
	verdict inspect.Verdict
}{
	"Observatory kitchen": {
		{44, inspect.Screen, machine.Group(1), inspect.Clean}, {15, inspect.Screen, machine.Group(1), inspect.Stained},
		{15, inspect.Seal, machine.Group(1), inspect.Stiff}, {15, inspect.Wetting, machine.Group(1), inspect.Even},
	},
	"Ferry tea deck": {
		{3, inspect.Screen, machine.Group(1), inspect.SomeBlocked}, {3, inspect.Seal, machine.Group(1), inspect.Springy},
		{3, inspect.Screen, machine.Group(2), inspect.Stained}, {3, inspect.Seal, machine.Group(2), inspect.Springy},
	},
	"Corner shop": {
		{170, inspect.Screen, machine.Group(2), inspect.Clean}, {80, inspect.Screen, machine.Group(2), inspect.Stained},
	},
	"Potter's studio": {{75, inspect.Lever, machine.Group(1), inspect.Easy}},
}

// readings are what was measured, in the unit of the sight; each is judged by its own course as it is kept.
var readings = map[string][]struct {
	ago    int
	sight  inspect.Sight
	part   machine.Part
	number float64
}{
	"Ferry tea deck": {
		{150, inspect.LockAngle, machine.Group(1), -8}, {100, inspect.LockAngle, machine.Group(1), -4},
		{50, inspect.LockAngle, machine.Group(1), -1}, {3, inspect.LockAngle, machine.Group(1), 2},
		{150, inspect.Flow, machine.Group(1), 200}, {100, inspect.Flow, machine.Group(1), 195},
		{50, inspect.Flow, machine.Group(1), 190}, {3, inspect.Flow, machine.Group(1), 175},
		{3, inspect.SteamBar, machine.Part{}, 1.2},
	},
	"Observatory kitchen": {
		{90, inspect.HeatUp, machine.Part{}, 9}, {40, inspect.HeatUp, machine.Part{}, 9.5},
	},
}

// closers are who closes the shop, in their turn; on some nights nobody did all of it.
var closers = []app.Person{{Name: "Ines", Initials: "I"}, {Name: "Rui", Initials: "R"}, {Name: "Sofia", Initials: "S"}}

// fillParts puts on record what was seen of the parts, and the shop's nights.
func (f *filler) fillParts(ctx context.Context) error {
	for _, p := range closers {
		p.ID = id("person", p.Name)
		if err := f.at(f.now.AddDate(0, 0, -60)).AddPerson(ctx, p); err != nil {
			return err
		}
	}
	for name, list := range looks {
		for _, l := range list {
			at := evening(f.now, l.ago, f.zone)
			seen := app.Seen{ID: id(name, "look", l.sight, l.part, l.ago), MachineID: id(name),
				Found: inspect.Found{Sight: l.sight, Part: l.part, Verdict: l.verdict, At: at}}
			if err := f.at(at).RecordLook(ctx, seen); err != nil {
				return err
			}
		}
	}
	for name, list := range readings {
		for _, l := range list {
			at := evening(f.now, l.ago, f.zone)
			row, _ := inspect.Find(l.sight)
			seen := app.Seen{ID: id(name, "reading", l.sight, l.part, l.ago), MachineID: id(name),
				Found: inspect.Found{Sight: l.sight, Part: l.part, Verdict: row.Seen[0].Verdict, At: at, Number: &l.number}}
			if err := f.at(at).RecordLook(ctx, seen); err != nil {
				return err
			}
		}
	}
	for ago := 14; ago >= 1; ago-- {
		tasks := []task.ID{task.Wand, task.WaterBackflush, task.Brush, task.Waste}
		switch ago {
		case 4: // a night that nobody closed
			continue
		case 9:
			tasks = tasks[:3]
		}
		for i, t := range tasks {
			at := evening(f.now, ago, f.zone).Add(time.Duration(4*i) * time.Minute)
			err := f.at(at).RecordSmall(ctx, id("Corner shop", "close", ago, t), id("Corner shop"), []task.ID{t}, at,
				closers[ago%len(closers)].Initials)
			if err != nil {
				return err
			}
		}
	}
	dated := f.now.AddDate(0, 0, -22)
	return f.at(f.now.AddDate(0, 0, -20)).RecordCare(ctx, app.Care{ID: id("Corner shop", "inspection"),
		MachineID: id("Corner shop"), Task: task.Inspection, Parts: []machine.Part{{}}, At: dated,
		By: "Harbour inspection office", Paper: app.Paper{Number: "B 4-117", Dated: &dated}})
}
