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
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/internal/app"
)

const (
	mark = "made_by"
	ours = "demo"
)

// Ready sees to it that the file is a demo database: made anew, or, where what was tried is kept, as an earlier demo
// left it. It refuses a file that no demo made.
func Ready(ctx context.Context, file string, now time.Time, keep bool) error {
	there, err := made(ctx, file)
	if err != nil || there && keep {
		return err
	}
	if there {
		if err := remove(file); err != nil {
			return err
		}
	}
	return fill(ctx, file, now)
}

// made tells whether a demo database is there.
func made(ctx context.Context, file string) (bool, error) {
	if _, err := os.Stat(file); errors.Is(err, fs.ErrNotExist) {
		return false, nil
	}
	db, err := app.Open(ctx, file, time.Now)
	if err != nil {
		return false, fmt.Errorf("%s is there already and is no demo database (%w); name another with --db", file, err)
	}
	by, err := db.Meta(ctx, mark)
	if err := errors.Join(err, db.Close()); err != nil {
		return false, err
	}
	if by != ours {
		return false, fmt.Errorf("%s is there already and was not made by the demo; name another with --db", file)
	}
	return true, nil
}

func remove(file string) error {
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
	water              app.HardnessAnswer
	washes             []int  // days ago, led through as runs
	recorded           []int  // days ago, put on record
	screens            []int  // screens off and scrubbed, days ago
	soaks, tanks, tips []int  // days ago
	away               [2]int // from so many days ago to so many: nobody there
	firsts             string // first discharges of the led washes: c, p, b, d
	choice             func(machine.Answers) (care.Choice, error)
	chosen             int    // days ago
	taken              []int  // washes, days ago, whose lesson was taken
	holiday            [2]int // entered: from so many days ahead to so many
	closes             [2]int // closed down with visits: from so many days ahead to so many
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
			water:  app.HardnessAnswer{Known: true, Value: 7, Unit: units.GermanDegree},
			washes: every(30, 2, 4), recorded: every(178, 34, 4), firsts: "bppcppcc",
			screens: every(59, 3, 7), soaks: every(59, 3, 7), tanks: every(130, 10, 30), tips: every(59, 3, 7),
			closes: [2]int{40, 75},
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
			water:  app.HardnessAnswer{Known: true, Value: 14, Unit: units.GermanDegree},
			washes: []int{167, 154, 142, 129, 116, 104, 92, 79, 44, 29, 15}, away: [2]int{75, 52},
			firsts: "pbpppccpcpp", chosen: 170,
			screens: []int{160, 131, 100, 44, 15}, soaks: every(48, 6, 7), tanks: []int{150, 118, 88, 44, 15},
			tips:  every(47, 5, 7),
			taken: []int{154, 92}, holiday: [2]int{24, 38},
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
			water:  app.HardnessAnswer{Known: true, Value: 120, Unit: units.MgPerLCaCO3},
			washes: []int{166}, screens: []int{75}, soaks: every(43, 1, 7), tanks: every(145, 25, 30),
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
			water:  app.HardnessAnswer{Known: true, Value: 2.1, Unit: units.MmolPerL},
			washes: []int{2, 1}, recorded: every(181, 3, 1), firsts: "pp",
			screens: every(60, 4, 7), soaks: every(60, 4, 7), tips: every(60, 4, 7),
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
			screens: []int{160, 128, 99, 68, 38, 11}, soaks: every(46, 4, 7), tanks: every(158, 8, 30), tips: every(45, 3, 7),
		},
	}
}

// filler carries the half year out as people would, through the same use cases, with a clock that
// stands where it is put.
type filler struct {
	*app.App
	clock time.Time
	now   time.Time
	zone  *time.Location
}

// at puts the clock to an instant.
func (f *filler) at(t time.Time) *filler {
	f.clock = t
	return f
}

// evening puts the clock to the evening of a day so many days ago.
func (f *filler) evening(ago int) *filler { return f.at(evening(f.now, ago, f.zone)) }

// fill makes a database with the demo machines and half a year of use that ends now. The same
// instant gives the same data.
func fill(ctx context.Context, file string, now time.Time) (err error) {
	now = now.UTC().Truncate(time.Second)
	zone, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		return err
	}
	f := &filler{clock: now, now: now, zone: zone}
	if f.App, err = app.Open(ctx, file, func() time.Time { return f.clock }); err != nil {
		return err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	if err := f.SetMeta(ctx, mark, ours); err != nil {
		return err
	}
	if err := f.KeepCopies(ctx, 0); err != nil { // it is made anew at every start
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
	if err := f.at(now.AddDate(0, 0, -25)).SayTub(ctx, id("tub"), tub); err != nil {
		return err
	}
	for i, b := range benches() {
		begin := now.AddDate(0, 0, -halfYear).Add(time.Duration(i) * time.Second)
		if err := b.fill(ctx, f, begin); err != nil {
			return fmt.Errorf("%s: %w", b.name, err)
		}
	}
	if err := f.fillWater(ctx); err != nil {
		return err
	}
	if err := f.fillParts(ctx); err != nil {
		return err
	}
	return f.at(now).TurnDay(ctx)
}

func (b bench) fill(ctx context.Context, f *filler, begin time.Time) error {
	n := app.NewMachine{ID: id(b.name), Name: b.name, Owner: b.owner, Place: b.place, Zone: f.zone.String(),
		Answers: b.answers, Hardness: b.water}
	var err error
	if n.Answers.Hardness, err = b.water.Reading(); err != nil {
		return err
	}
	if err := f.at(begin).CreateMachine(ctx, n); err != nil {
		return err
	}
	if sum, err := f.at(f.now).ImportUse(ctx, n.ID, drinks(b, f.zone, begin, f.now), false); err != nil ||
		len(sum.Bad) > 0 {
		return errors.Join(err, fmt.Errorf("%d rows are bad", len(sum.Bad)))
	}
	if b.choice != nil {
		err := f.evening(b.chosen).ChooseSchool(ctx, id(b.name, "choice"), n.ID, "demo",
			func(m app.Machine) (care.Choice, error) { return b.choice(m.Answers) })
		if err != nil {
			return err
		}
	}
	for _, x := range []struct {
		app.Away
		days [2]int
	}{
		{app.Away{ID: id(b.name, "away"), Note: "dome closed"}, b.holiday},
		{app.Away{ID: id(b.name, "closes"), Note: "in the dry dock", Stands: app.Visited}, b.closes},
	} {
		if x.days[1] == 0 {
			continue
		}
		day := func(ahead int) func(*time.Location) time.Time {
			return func(zone *time.Location) time.Time { return use.Day(f.now, zone).AddDate(0, 0, ahead) }
		}
		if err := f.at(f.now).SayAway(ctx, n.ID, x.Away, day(x.days[0]), day(x.days[1]-1)); err != nil {
			return err
		}
	}
	if err := b.wash(ctx, f, n); err != nil {
		return err
	}
	return b.record(ctx, f, n)
}

// groups are those of a machine.
func groups(n app.NewMachine) []machine.Part {
	list := make([]machine.Part, n.Answers.Facts().Groups)
	for g := range list {
		list[g] = machine.Group(g + 1)
	}
	return list
}

// wash leads the washes through that were led, and takes the lessons that were taken.
func (b bench) wash(ctx context.Context, f *filler, n app.NewMachine) error {
	for g, part := range groups(n) {
		for i, ago := range b.washes {
			first := backflush.Unseen
			if i < len(b.firsts) {
				first = map[byte]backflush.Colour{'c': backflush.ColourClear, 'p': backflush.ColourPale,
					'b': backflush.ColourBrown, 'd': backflush.ColourDark}[b.firsts[i]]
			}
			at := evening(f.now, ago, f.zone)
			if err := f.wash(ctx, n, part, first, at.Add(time.Duration(g)*15*time.Minute)); err != nil {
				return err
			}
			if slices.Contains(b.taken, ago) {
				err := f.at(at.Add(time.Hour)).ChangeInterval(ctx, id(b.name, "lesson", ago), n.ID, "take")
				if err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// record puts on record what was done without a run.
func (b bench) record(ctx context.Context, f *filler, n app.NewMachine) error {
	whole := []machine.Part{{}}
	for _, done := range []struct {
		task  task.ID
		ago   []int
		parts []machine.Part
	}{
		{task.Wash, b.recorded, groups(n)}, {task.Screen, b.screens, groups(n)}, {task.Soak, b.soaks, whole},
		{task.Tank, b.tanks, whole}, {task.Tip, b.tips, whole}, {task.Grinder, every(150, 60, 90), whole},
		{task.BrushHead, []int{70}, whole},
	} {
		for _, ago := range done.ago {
			at := evening(f.now, ago, f.zone)
			err := f.at(at).RecordCare(ctx, app.Care{ID: id(b.name, done.task, ago), MachineID: n.ID, Task: done.task,
				Parts: done.parts, At: at})
			if err != nil {
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

// drinks is a file of what was made over the hours of each day, more of it before noon, less on
// a Sunday, nothing while nobody is there.
func drinks(b bench, zone *time.Location, begin, now time.Time) string {
	random := rand.New(rand.NewPCG(uint64(len(b.name)), 1))
	text := "date,double,milk\n"
	hours := []float64{7, 8, 8.5, 10, 11, 13, 15, 17}
	for day := use.Day(begin, zone); day.Before(now); day = use.NextDay(day, zone) {
		ago := int(now.Sub(day).Hours() / 24)
		if ago < b.away[0] && ago >= b.away[1] {
			continue
		}
		made := b.answers.Drinks * (0.8 + 0.4*random.Float64())
		if day.Weekday() == time.Sunday {
			made *= 0.7
		}
		each := max(1, math.Round(made/float64(len(hours))))
		for i, hour := range hours {
			if float64(i)*each >= math.Round(made) {
				break
			}
			at := day.Add(time.Duration((hour-4)*float64(time.Hour)) + time.Duration(random.IntN(20))*time.Minute +
				time.Duration(i)*time.Second).UTC()
			milk := random.Float64()*b.answers.Drinks < b.answers.MilkDrinks
			if at.After(now) || at.Before(begin) {
				continue
			}
			row := fmt.Sprintf("%s,%g,\n", at.Format(time.RFC3339), each)
			if milk {
				row = fmt.Sprintf("%s,,%g\n", at.Format(time.RFC3339), each)
			}
			text += row
		}
	}
	return text
}

// wash carries a wash out as a person would, through the same door.
func (f *filler) wash(ctx context.Context, n app.NewMachine, part machine.Part, first backflush.Colour, at time.Time,
) error {
	b := app.Begun{ID: id(n.Name, "run", part, at.Unix()), MachineID: n.ID, Device: "demo", Speed: 1, Task: task.Wash,
		Parts: []machine.Part{part}, Method: backflush.HalfTeaspoon}
	if err := f.at(at).StartRun(ctx, b); err != nil {
		return err
	}
	r, err := f.Run(ctx, b.ID)
	if err != nil {
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
		case s.Step.Kind() == job.ChooseKind: // as it should be
			which, _ := job.BodyOf[job.Choose](s.Step)
			p.Kind, p.Answer = run.Heard, which.Ways[0].Answer
		default:
			p.Kind = run.Begin
		}
		at = at.Add(s.Step.Takes + time.Duration(5+random.IntN(15))*time.Second)
		p.At = at
		if r, err = f.at(at).Press(ctx, r.ID, p); err != nil {
			return err
		}
	}
	return fmt.Errorf("demo wash of %s does not end", n.Name)
}
