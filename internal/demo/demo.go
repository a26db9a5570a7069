// Package demo fills a database with a believable bench: machines that a
// repair bench in a harbour town looks after. Everything in it is invented.
package demo

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"time"

	"github.com/google/uuid"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

const (
	mark = "made_by"
	ours = "demo"
)

// Clear takes an older demo database away. It refuses a file that the demo
// did not make.
func Clear(ctx context.Context, file string) error {
	if _, err := os.Stat(file); errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	db, err := store.Open(ctx, file)
	if err != nil {
		return fmt.Errorf("%s is there already and is no demo database (%w); name another with --db", file, err)
	}
	by, err := db.Meta(ctx, mark)
	if err := errors.Join(err, db.Close()); err != nil {
		return err
	}
	if by != ours {
		return fmt.Errorf("%s is there already and was not made by the demo; name another with --db", file)
	}
	for _, end := range []string{"", "-wal", "-shm"} {
		if err := os.Remove(file + end); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return nil
}

// id is the same for the same words at every start.
func id(words ...any) string {
	return uuid.NewSHA1(uuid.NameSpaceOID, []byte(fmt.Sprint(words...))).String()
}

// bench is one machine of the demo and how it is used.
type bench struct {
	name    string
	answers machine.Answers
	water   store.HardnessAnswer
	since   int   // days of use on record
	washes  []int // days ago
	cleaned []int // hand cleans, days ago
}

func benches() []bench {
	return []bench{
		{
			name:    "Observatory kitchen",
			answers: machine.Answers{Layout: machine.DualHome, Valve: machine.Yes, Drinks: 4, MilkDrinks: 2, Treatment: machine.InTank},
			water:   store.HardnessAnswer{Known: true, Value: 14, Unit: units.GermanDegree},
			since:   63, washes: []int{44, 29, 15},
		},
		{
			name:    "Bench loaner",
			answers: machine.Answers{Layout: machine.Thermoblock, Valve: machine.No, Drinks: 2, MilkDrinks: 1, Treatment: machine.Jug},
			since:   40, cleaned: []int{38, 11},
		},
	}
}

// Fill adds the demo machines with use that ends now. The same instant gives
// the same data.
func Fill(ctx context.Context, db *store.Store, now time.Time) error {
	now = now.UTC().Truncate(time.Second)
	if err := db.SetMeta(ctx, mark, ours); err != nil {
		return err
	}
	zone, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		return err
	}
	for i, b := range benches() {
		m := store.Machine{ID: id(b.name), Name: b.name, Zone: zone, Answers: b.answers, Hardness: b.water}
		if m.Answers.Hardness, err = b.water.Reading(); err != nil {
			return err
		}
		begin := now.AddDate(0, 0, -b.since)
		if err := db.AddMachine(ctx, m, begin.Add(time.Duration(i)*time.Second)); err != nil {
			return err
		}
		if err := db.AddUse(ctx, m.ID, "demo", "", use(b, m, begin, now)...); err != nil {
			return err
		}
		for _, ago := range b.washes {
			if err := wash(ctx, db, m, evening(now, ago, zone)); err != nil {
				return err
			}
		}
		for _, ago := range b.cleaned {
			if err := db.AddCare(ctx, id(b.name, "clean", ago), m.ID, care.HandClean, 1, evening(now, ago, zone)); err != nil {
				return err
			}
		}
	}
	return nil
}

func evening(now time.Time, daysAgo int, zone *time.Location) time.Time {
	d := now.In(zone).AddDate(0, 0, -daysAgo)
	return time.Date(d.Year(), d.Month(), d.Day(), 18, 40, 0, 0, zone).UTC()
}

// use is a few drinks a day, more of them before noon.
func use(b bench, m store.Machine, begin, now time.Time) []care.UseEvent {
	random := rand.New(rand.NewPCG(uint64(len(b.name)), 1))
	var list []care.UseEvent
	for day := care.Day(begin, m.Zone); day.Before(now); day = care.NextDay(day, m.Zone) {
		drinks := int(b.answers.Drinks) + random.IntN(3) - 1
		for n := range drinks {
			at := day.Add(3*time.Hour + time.Duration(n*n)*35*time.Minute + time.Duration(random.IntN(50))*time.Minute)
			kind := care.Double
			if random.Float64()*b.answers.Drinks < b.answers.MilkDrinks {
				kind = care.Milk
			}
			if at.After(now) || at.Before(begin) {
				continue
			}
			at = at.UTC()
			list = append(list, care.UseEvent{ID: id(b.name, at.Unix(), n), Kind: kind, Count: 1, From: at, To: at})
		}
	}
	return list
}

// wash carries a wash out as a person would, through the same door.
func wash(ctx context.Context, db *store.Store, m store.Machine, at time.Time) error {
	plan, err := job.Wash(m.Answers, backflush.HalfTeaspoon, 1, false)
	if err != nil {
		return err
	}
	r := store.Run{ID: id(m.Name, "wash", at.Unix()), MachineID: m.ID, Device: "demo", Group: 1, Speed: 1, Plan: plan, Started: at}
	if err := db.StartRun(ctx, r); err != nil {
		return err
	}
	random := rand.New(rand.NewPCG(uint64(at.Unix()), 2))
	cups := []backflush.Cup{{Colour: backflush.ColourClear, Foam: backflush.FoamNone, Grains: backflush.GrainsFew}}
	if random.IntN(2) == 0 {
		cups = append([]backflush.Cup{{Colour: backflush.ColourPale, Foam: backflush.FoamSome, Grains: backflush.GrainsNone}}, cups...)
	}
	for n := 0; n < 100; n++ {
		s := r.At(at)
		if s.Outcome != "" {
			return nil
		}
		p := run.Press{ID: id(r.ID, n), Device: "demo", Step: s.Step.ID, Segment: s.Segment.Index, At: at}
		switch {
		case s.Segment.Kind == run.On || s.Segment.Kind == run.Off:
			at = s.Schedule[len(s.Schedule)-1].End
			continue
		case s.Step.Kind == job.Act:
			p.Kind = run.Done
		case s.Step.Kind == job.Look:
			p.Kind, p.Cup, cups = run.Reading, &cups[0], cups[1:]
		default:
			p.Kind = run.Begin
		}
		at = at.Add(s.Step.Takes + time.Duration(5+random.IntN(15))*time.Second)
		p.At = at
		if r, err = db.Accept(ctx, r.ID, p, at); err != nil {
			return err
		}
	}
	return fmt.Errorf("demo wash of %s does not end", m.Name)
}
