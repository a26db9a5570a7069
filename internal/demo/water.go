package demo

import (
	"context"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
	"freshanvil/internal/store"
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

func fillWater(ctx context.Context, db *store.Store, zone *time.Location, now time.Time) error {
	for _, s := range springs() {
		if err := db.AddSource(ctx, id(s.name), s.name, evening(now, halfYear, zone)); err != nil {
			return err
		}
		for _, r := range s.readings {
			at := evening(now, r.ago, zone)
			if err := db.AddReadings(ctx, id(s.name), at,
				store.Reading{ID: id(s.name, r.ago), Taken: at, How: r.how, Sample: r.sample}); err != nil {
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
			if err := db.Draw(ctx, id(b.name),
				store.Draws{ID: id(b.name, "draws"), SourceID: id(d.source), From: evening(now, d.since, zone),
					Treatment: set}); err != nil {
				return err
			}
		}
		for task, ago := range map[care.Task]int{care.Descale: d.descale, care.FilterChange: d.renewed} {
			if ago == 0 {
				continue
			}
			if err := db.AddCare(ctx, id(b.name, task, ago), id(b.name), task, machine.Part{},
				evening(now, ago, zone)); err != nil {
				return err
			}
		}
	}
	return nil
}
