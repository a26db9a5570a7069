package demo

import (
	"context"

	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
	"freshanvil/internal/app"
)

// spring is a source and what was read of it, days ago.
type spring struct {
	name     string
	readings []reading
}

type reading struct {
	ago    int
	how    string
	sample water.Sample
}

// The waters of the town, invented: one very hard, one middling, one soft.
func springs() []spring {
	sharp := units.Sharp
	return []spring{
		{"Quay main", []reading{
			{170, "strip", water.Sample{Hardness: units.Between(250, 375)}},
			{
				60,
				"report",
				water.Sample{
					Hardness:   sharp(338),
					Alkalinity: sharp(262),
					PH:         sharp(7.4),
					Calcium:    sharp(112),
					Magnesium:  sharp(14),
					Sodium:     sharp(38),
					Chloride:   sharp(74),
					Sulfate:    sharp(48),
				},
			},
		}},
		{"Hill main", []reading{
			{160, "strip", water.Sample{Hardness: units.Between(125, 250)}},
			{
				35,
				"drops",
				water.Sample{Hardness: units.Between(232, 250), Alkalinity: units.Between(178, 196), PH: sharp(7.5)},
			},
		}},
		{
			"Boathouse well",
			[]reading{{120, "drops", water.Sample{Hardness: sharp(36), Alkalinity: sharp(30), PH: sharp(7.0)}}},
		},
	}
}

// draws is what a machine draws, and when its water was seen to, days ago.
type draws struct {
	source  string // none: nobody has read it
	kind    machine.Treatment
	since   int
	renewed int
	descale int
	bare    bool // reverse osmosis without any tap water
}

var drawn = map[string]draws{
	"Ferry tea deck":      {source: "Quay main", kind: machine.UnderSink, since: 170, renewed: 12, descale: 40},
	"Observatory kitchen": {source: "Hill main", kind: machine.InTank, since: 160, renewed: 54, descale: 70},
	"Potter's studio":     {source: "Boathouse well", kind: machine.Untreated, since: 150, descale: 150},
	"Corner shop": {
		source:  "Quay main",
		kind:    machine.ReverseOsmosis,
		since:   140,
		renewed: 140,
		descale: 141,
		bare:    true,
	},
	"Bench loaner": {kind: machine.Jug, renewed: 12, descale: 55},
}

func (f *filler) fillWater(ctx context.Context) error {
	for _, s := range springs() {
		if err := f.evening(halfYear).AddSource(ctx, id(s.name), s.name); err != nil {
			return err
		}
		for _, r := range s.readings {
			at := evening(f.now, r.ago, f.zone)
			reading := app.Reading{ID: id(s.name, r.ago), Taken: at, How: r.how, Sample: r.sample}
			if err := f.at(at).AddReading(ctx, id(s.name), reading); err != nil {
				return err
			}
		}
	}
	for _, b := range benches() {
		d := drawn[b.name]
		set := treat.Usual(d.kind)
		if d.bare {
			set.Blend = 0
		}
		if d.since > 0 {
			c := app.WaterChoice{ID: id(b.name, "draws"), MachineID: id(b.name), SourceID: id(d.source), Treatment: set}
			if err := f.evening(d.since).ChooseWater(ctx, c); err != nil {
				return err
			}
		}
		for _, done := range []struct {
			task task.ID
			ago  int
		}{{task.Descale, d.descale}, {task.FilterChange, d.renewed}} {
			if done.ago == 0 {
				continue
			}
			at := evening(f.now, done.ago, f.zone)
			c := app.Care{ID: id(b.name, done.task, done.ago), MachineID: id(b.name), Task: done.task,
				Parts: []machine.Part{{}}, At: at}
			if err := f.at(at).RecordCare(ctx, c); err != nil {
				return err
			}
		}
	}
	return nil
}
