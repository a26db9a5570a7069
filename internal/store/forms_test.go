package store

import (
	"reflect"
	"testing"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
	"freshanvil/internal/golden"
)

// whole compares what came back with what was kept, field by field.
func whole(t *testing.T, what string, got, want any) {
	t.Helper()
	if !reflect.DeepEqual(got, want) {
		t.Errorf("%s is kept as\n%+v\nand was\n%+v", what, got, want)
	}
}

// Whatever is planned comes back as it was kept, field by field: washes by every method
// of one group and two, a descale with a filter and a wash, a rinse of acid, a filter
// alone, a draw-off.
func TestPlansComeBackAsKept(t *testing.T) {
	plans := map[string]job.Plan{}
	add := func(name string, p job.Plan, err error) {
		t.Helper()
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		plans[name] = p
	}
	cafe := machine.Answers{Layout: machine.HXCafe, Valve: machine.Yes, Drinks: 100, Treatment: machine.UnderSink}
	for _, m := range backflush.Methods() {
		if m.Takes(cafe.Facts()) == nil {
			p, err := job.Wash(cafe, m.ID, backflush.UsualPowder, job.Target{Group: 1, Gone: 2},
				job.Target{Group: 2, Dirty: true})
			add("wash "+string(m.ID), p, err)
		}
	}
	freed, err := job.Unblock(cafe, backflush.UsualPowder, job.Target{Group: 2, Blind: 1})
	add("freed", freed, err)
	home := machine.Answers{Layout: machine.SingleBoiler, Valve: machine.Yes, Drinks: 4, Treatment: machine.InTank,
		Overrides: map[string]string{"brew_material": "stainless"}}
	wash, err := job.Wash(home, backflush.HalfTeaspoon, backflush.UsualPowder, job.Target{Group: 1})
	add("wash at home", wash, err)
	f := home.Facts()
	product := descale.Products()[0]
	card, err := descale.Mix(product, 0, descale.Circuits(f, units.Between(2, 6), units.Sharp(0)))
	if err != nil {
		t.Fatal(err)
	}
	for _, dirty := range []bool{false, true} {
		for _, program := range descale.ProgramsFor(f) {
			in := job.Sitting{Card: card, Program: program.ID, Setting: treat.Usual(machine.InTank), Renew: true, Share: 1,
				Known: true, Dirty: dirty, Now: now, Zone: now.Location()}
			if dirty {
				in.Inside.Acid = []machine.Part{machine.Brew(1)}
			} else {
				in.Wash = &wash
			}
			p, err := job.Descale(home, in)
			add("descale "+string(program.ID), p, err)
		}
	}
	p, err := job.Renew(home, treat.Usual(machine.InTank), now)
	add("renew", p, err)
	p, err = job.DrawOff(cafe, 0)
	add("draw-off", p, err)
	for name, p := range plans {
		t.Run(name, func(t *testing.T) {
			text, err := keepPlan(p)
			if err != nil {
				t.Fatal(err)
			}
			got, err := readPlan(text)
			if err != nil {
				t.Fatal(err)
			}
			whole(t, name, got, p)
		})
	}
}

// What a run came to comes back as it was written down.
func TestRecordsComeBackAsKept(t *testing.T) {
	w := reason.Worked{Name: "n", Value: 2, Low: 1, High: 3, Spread: reason.Tolerance, Unit: "g", Formula: "a",
		Inputs: []reason.Input{{Symbol: "a", Label: "b", Value: 2, Unit: "g", Source: reason.Ours,
			Range:  &reason.Range{Low: 1, High: 3},
			Worked: &reason.Worked{Name: "m", Formula: "1"}}}, Source: reason.Log, WouldChange: []string{"c"}}
	found := reason.Finding{Verdict: reason.Stop, Title: "t", Because: []reason.Reason{{Text: "x", Source: reason.Trade}},
		Next: []string{"y"}}
	dose := backflush.Dose{Form: backflush.Powder, Mass: w}
	strip := descale.Strip{PH: 7, Meter: true, Taste: descale.TasteGone}
	e := Ended{Outcome: run.StoppedUnsafe, At: now, Task: task.Descale, Title: "Descale", Where: "the machine",
		Activities: []run.Activity{{ID: "descale", Task: task.Descale, Title: "Descale", Outcome: run.StoppedUnsafe}},
		Groups: []EndedGroup{{Part: machine.Group(2), Task: task.Wash, Method: backflush.HalfTeaspoon, Dose: &dose, In: true,
			Soapy: 5, Rinsed: 3, Least: 7, Blind: 1, First: "pale",
			Cups: []backflush.Cup{{Colour: "clear", Foam: "none", Grains: "0"}}}},
		Lines: []run.Line{{ID: "a", Title: "b", Part: machine.Group(1), Note: "c", Status: "gone"}}, Finding: &found,
		Note: "as said",
		Descale: &EndedDescale{Program: "p", Product: "q", Measure: w, Solution: w, Contact: 1, Most: 2,
			Booked: run.Booked{Mixed: 9.5, Pushed: 0.3, Soaks: 2, LeftOut: 1}, Came: w, AtLeast: true, Share: w, Report: "r",
			Feed: &strip, Findings: []reason.Finding{found}, Circuits: []EndedCircuit{{Part: machine.Brew(1), Title: "boiler",
				In: true, Ever: true, Left: w, Rinsed: 1.5, Least: w, Strips: []descale.Strip{strip}}}},
	}
	text, err := keepEnded(e)
	if err != nil {
		t.Fatal(err)
	}
	got, err := readEnded(text)
	if err != nil {
		t.Fatal(err)
	}
	got.At = got.At.In(e.At.Location()) // the same instant, in the zone of the test
	whole(t, "a record", got, e)
}

// Each form on disk is as databases have it: a field that is renamed in core no longer compiles in the form, one that
// is renamed in the form differs from its file.
func TestFormsAreAsOnDisk(t *testing.T) {
	for name, form := range map[string]any{
		"sample": new(sampleForm), "setting": new(settingForm), "choice": new(choiceForm), "product": new(productForm),
		"taught": new(taughtForm), "record": new(recordForm), "plan": new(planForm), "press": new(pressForm),
		"ended": new(endedForm),
	} {
		t.Run(name, func(t *testing.T) { golden.Check(t, name, form) })
	}
}

// What somebody said, read or did comes back as it was, field by field; what is kept elsewhere is left out.
func TestWhatWasSaidComesBack(t *testing.T) {
	var (
		sample  water.Sample
		setting treat.Setting
		choice  care.Choice
		product descale.Product
		spent   descale.Spent
		worked  reason.Worked
		record  Record
	)
	for _, v := range []any{&sample, &setting, &choice, &product, &spent, &worked, &record} {
		golden.Fill(v)
	}
	whole(t, "sample", keepSample(sample).core(), sample)
	whole(t, "setting", treat.Setting(settingForm(setting)), setting)
	got := keepChoice(choice).core()
	choice.Shortened, choice.Own.Task, choice.Own.Also, choice.Own.Because = nil, "", nil, nil // by rows, and by its task
	whole(t, "choice", got, choice)
	whole(t, "product", keepProduct(product).core(), product)
	whole(t, "spent", keepTaught(worked, spent).Spent.core(), spent)
	whole(t, "worked", keepTaught(worked, spent).Worked.core(), worked)
	whole(t, "record", keepRecord(record).core(), record)
}
