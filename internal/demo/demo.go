// Package demo fills a database with a believable bench: machines that a
// repair bench in a harbour town looks after. Everything in it is invented.
package demo

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"time"

	"github.com/google/uuid"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/supply"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

const (
	mark = "made_by"
	ours = "demo"
)

// Clear takes an older demo database away. It refuses a file that the demo
// did not make; now is when.
func Clear(ctx context.Context, file string, now time.Time) error {
	if _, err := os.Stat(file); errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	db, err := store.Open(ctx, file, now)
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
	name, owner, place string
	answers            machine.Answers
	water              store.HardnessAnswer
	washes             []int  // days ago, led through as runs
	recorded           []int  // days ago, put on record
	cleaned            []int  // hand cleans, days ago
	away               [2]int // from so many days ago to so many: nobody there
	firsts             string // first discharges of the led washes: c, p, b, d
	choice             func(machine.Answers) (care.Choice, error)
	chosen             int    // days ago
	taken              []int  // washes, days ago, whose lesson was taken
	holiday            [2]int // entered: from so many days ahead to so many
}

// every lists the days ago from one to another in steps.
func every(from, to, step int) []int {
	var list []int
	for d := from; d >= to; d -= step {
		list = append(list, d)
	}
	return list
}

// halfYear is how far back the use on record goes, in days.
const halfYear = 182

func benches() []bench {
	return []bench{
		{
			name: "Ferry tea deck", owner: "Ferry line", place: "upper deck, port side",
			answers: machine.Answers{
				Layout:     machine.HXHome,
				Valve:      machine.Yes,
				Drinks:     24,
				MilkDrinks: 15,
				Treatment:  machine.UnderSink,
				Overrides: map[string]string{
					"groups":    "2",
					"steam_l":   "6",
					"water":     "mains",
					"pump":      "rotary",
					"tray_l":    "0",
					"flow_ml_s": "20",
				},
			},
			water:  store.HardnessAnswer{Known: true, Value: 7, Unit: units.GermanDegree},
			washes: every(30, 2, 4), recorded: every(178, 34, 4), firsts: "bppcppcc",
		},
		{
			name: "Observatory kitchen", owner: "Observatory", place: "hill road, kitchen",
			answers: machine.Answers{
				Layout:     machine.DualHome,
				Valve:      machine.Yes,
				Drinks:     4,
				MilkDrinks: 2,
				Treatment:  machine.InTank,
			},
			water:  store.HardnessAnswer{Known: true, Value: 14, Unit: units.GermanDegree},
			washes: []int{167, 154, 142, 129, 116, 104, 92, 79, 44, 29, 15}, away: [2]int{75, 52},
			firsts: "pbpppccpcpp", chosen: 170, taken: []int{154, 92}, holiday: [2]int{24, 38},
			choice: func(a machine.Answers) (care.Choice, error) {
				return care.Pair(a, backflush.HalfTeaspoon, nil, care.FiftyShots, care.Interval{})
			},
		},
		{
			name: "Potter's studio", owner: "Pottery", place: "old boathouse",
			answers: machine.Answers{
				Layout:     machine.LeverCam,
				Valve:      machine.Yes,
				Drinks:     3,
				MilkDrinks: 0,
				Treatment:  machine.Jug,
				Overrides: map[string]string{"handle": "wood", "drain": "plug", "steam_heater": "held_off",
					"brew_material": "copper", "steam_material": "copper"},
			},
			water:  store.HardnessAnswer{Known: true, Value: 120, Unit: units.MgPerLCaCO3},
			washes: []int{166}, cleaned: []int{75},
		},
		{
			name: "Corner shop", owner: "Corner shop", place: "fish market",
			answers: machine.Answers{
				Layout:     machine.HXCafe,
				Valve:      machine.Yes,
				Drinks:     190,
				MilkDrinks: 110,
				Treatment:  machine.UnderSink,
			},
			water:  store.HardnessAnswer{Known: true, Value: 2.1, Unit: units.MmolPerL},
			washes: []int{2, 1}, recorded: every(181, 3, 1), firsts: "pp",
		},
		{
			name: "Bench loaner", owner: "Repair bench", place: "lent to the harbour office",
			answers: machine.Answers{
				Layout:     machine.Thermoblock,
				Valve:      machine.No,
				Drinks:     2,
				MilkDrinks: 1,
				Treatment:  machine.Jug,
				Overrides:  map[string]string{"brew_material": "stainless"},
			},
			cleaned: []int{160, 128, 99, 68, 38, 11},
		},
	}
}

// Fill adds the demo machines with half a year of use that ends now. The same
// instant gives the same data.
func Fill(ctx context.Context, db *store.Store, now time.Time) error {
	now = now.UTC().Truncate(time.Second)
	if err := db.SetMeta(ctx, mark, ours); err != nil {
		return err
	}
	zone, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		return err
	}
	tub := supply.Tub{
		Form:    backflush.Powder,
		Amount:  260,
		Holds:   500,
		GramTsp: 6,
		Opened:  now.AddDate(0, -14, 0),
		Price:   14,
	}
	if err := db.SayTub(ctx, id("tub"), tub, now.AddDate(0, 0, -25)); err != nil {
		return err
	}
	for i, b := range benches() {
		begin := now.AddDate(0, 0, -halfYear).Add(time.Duration(i) * time.Second)
		if err := b.fill(ctx, db, zone, begin, now); err != nil {
			return fmt.Errorf("%s: %w", b.name, err)
		}
	}
	return fillWater(ctx, db, zone, now)
}

func (b bench) fill(ctx context.Context, db *store.Store, zone *time.Location, begin, now time.Time) error {
	m := store.Machine{
		ID:       id(b.name),
		Name:     b.name,
		Owner:    b.owner,
		Place:    b.place,
		Zone:     zone,
		Answers:  b.answers,
		Hardness: b.water,
	}
	var err error
	if m.Answers.Hardness, err = b.water.Reading(); err != nil {
		return err
	}
	if err := db.AddMachine(ctx, m, begin); err != nil {
		return err
	}
	if err := db.AddUse(ctx, m.ID, "demo", "", use(b, m, begin, now)...); err != nil {
		return err
	}
	if m, err = db.Machine(ctx, m.ID); err != nil { // now with use on record
		return err
	}
	if b.choice != nil {
		c, err := b.choice(m.Answers)
		if err != nil {
			return err
		}
		if err := db.ChangeInterval(ctx, m.ID,
			store.Change{ID: id(b.name, "choice"), What: store.Chosen, At: evening(now, b.chosen, zone), Choice: c,
				Why: "chosen"}); err != nil {
			return err
		}
	}
	if b.holiday[1] > 0 {
		day := care.Day(now, zone)
		away := store.Away{
			ID:   id(b.name, "away"),
			From: day.AddDate(0, 0, b.holiday[0]),
			To:   day.AddDate(0, 0, b.holiday[1]),
			Note: "dome closed",
		}
		if err := db.SayAway(ctx, m.ID, away, now); err != nil {
			return err
		}
	}
	for group := 1; group <= m.Answers.Facts().Groups; group++ {
		for _, ago := range b.recorded {
			if err := db.AddCare(ctx, id(b.name, "wash", group, ago), m.ID, care.Wash, machine.Group(group),
				evening(now, ago, zone)); err != nil {
				return err
			}
		}
		for i, ago := range b.washes {
			first := backflush.Unseen
			if i < len(b.firsts) {
				first = map[byte]backflush.Colour{'c': backflush.ColourClear, 'p': backflush.ColourPale,
					'b': backflush.ColourBrown, 'd': backflush.ColourDark}[b.firsts[i]]
			}
			if err := wash(ctx, db, m, group, first,
				evening(now, ago, zone).Add(time.Duration(group-1)*15*time.Minute)); err != nil {
				return err
			}
			if slices.Contains(b.taken, ago) {
				if err := take(ctx, db, m, evening(now, ago, zone).Add(time.Hour)); err != nil {
					return err
				}
			}
		}
		for _, ago := range b.cleaned {
			if err := db.AddCare(ctx, id(b.name, "clean", group, ago), m.ID, care.HandClean, machine.Group(group),
				evening(now, ago, zone)); err != nil {
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

// use is drinks over the hours of each day, more of them before noon, fewer on
// a Sunday, none while nobody is there. Where many are made, an hour's drinks
// are one entry.
func use(b bench, m store.Machine, begin, now time.Time) []care.UseEvent {
	random := rand.New(rand.NewPCG(uint64(len(b.name)), 1))
	var list []care.UseEvent
	hours := []float64{7, 8, 8.5, 10, 11, 13, 15, 17}
	for day := care.Day(begin, m.Zone); day.Before(now); day = care.NextDay(day, m.Zone) {
		ago := int(now.Sub(day).Hours() / 24)
		if ago < b.away[0] && ago >= b.away[1] {
			continue
		}
		drinks := b.answers.Drinks * (0.8 + 0.4*random.Float64())
		if day.Weekday() == time.Sunday {
			drinks *= 0.7
		}
		each := max(1, math.Round(drinks/float64(len(hours))))
		for i, hour := range hours {
			if float64(i)*each >= math.Round(drinks) {
				break
			}
			at := day.Add(time.Duration((hour-4)*float64(time.Hour)) + time.Duration(random.IntN(45))*time.Minute).
				UTC()
			if at.After(now) || at.Before(begin) {
				continue
			}
			kind := care.Double
			if random.Float64()*b.answers.Drinks < b.answers.MilkDrinks {
				kind = care.Milk
			}
			list = append(list, care.UseEvent{ID: id(b.name, at.Unix(), i), Kind: kind, Count: each, From: at, To: at})
		}
	}
	return list
}

// take takes what the first discharges propose.
func take(ctx context.Context, db *store.Store, m store.Machine, at time.Time) error {
	all, err := db.Histories(ctx, []store.Machine{m}, at)
	if err != nil {
		return err
	}
	h := all[m.ID]
	graded, err := db.Graded(ctx, m.ID, h.ChoiceSince)
	if err != nil {
		return err
	}
	lesson := care.Learn(m.Answers, h.Choice, graded)
	if !lesson.Proposed {
		return fmt.Errorf(
			"%s teaches nothing on %s: %s",
			m.Name,
			at.Format(time.DateOnly),
			lesson.Finding.Because[0].Text,
		)
	}
	c := store.Change{
		ID:     id(m.Name, "lesson", at.Unix()),
		What:   store.Learned,
		At:     at,
		Choice: h.Choice.Settled(m.Answers),
		Why:    lesson.Finding.Because[0].Text,
	}
	c.Choice.Factor = lesson.Factor.Value
	return db.ChangeInterval(ctx, m.ID, c)
}

// wash carries a wash out as a person would, through the same door.
func wash(
	ctx context.Context,
	db *store.Store,
	m store.Machine,
	group int,
	first backflush.Colour,
	at time.Time,
) error {
	plan, err := job.Wash(m.Answers, backflush.HalfTeaspoon, backflush.UsualPowder, job.Target{Group: group})
	if err != nil {
		return err
	}
	h, err := db.Histories(ctx, []store.Machine{m}, at)
	if err != nil {
		return err
	}
	for _, d := range care.AllDue(m.Answers, h[m.ID], at, m.Zone) {
		if d.Task == care.Wash && d.Part == machine.Group(group) {
			plan.Activities[0].Wash.Gone = d.Gone()
		}
	}
	r := store.Run{
		ID:       id(m.Name, "run", group, at.Unix()),
		Machines: []string{m.ID},
		Device:   "demo",
		Speed:    1,
		Plan:     plan,
		Started:  at,
	}
	if err := db.StartRun(ctx, r); err != nil {
		return err
	}
	random := rand.New(rand.NewPCG(uint64(at.Unix()), 2))
	cups := []backflush.Cup{{Colour: backflush.ColourClear, Foam: backflush.FoamNone, Grains: backflush.GrainsFew}}
	if random.IntN(2) == 0 {
		cups = append(
			[]backflush.Cup{{Colour: backflush.ColourPale, Foam: backflush.FoamSome, Grains: backflush.GrainsNone}},
			cups...)
	}
	for n := 0; n < 100; n++ {
		if r.Ended != nil {
			return nil
		}
		s := r.At(at)
		look, _ := job.BodyOf[job.Look](s.Step)
		p := run.Press{ID: id(r.ID, n), Device: "demo", Step: s.Step.ID, Segment: s.Segment.Index, At: at}
		switch {
		case s.Segment.Kind == run.On || s.Segment.Kind == run.Off:
			at = s.Schedule[len(s.Schedule)-1].End
			continue
		case s.Step.Kind() == job.ActKind:
			p.Kind = run.Done
		case look.At == job.FirstWater:
			p.Kind, p.First = run.Graded, first
		case look.At == job.RinseCup:
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
