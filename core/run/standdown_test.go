package run

import (
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/standdown"
	"freshanvil/core/task"
)

func restOf(days int, visited bool) standdown.Rest {
	from := time.Date(2026, 1, 5, 4, 0, 0, 0, time.UTC)
	return standdown.Rest{From: from, To: from.AddDate(0, 0, days), Visited: visited}
}

// resting are the three plans of a machine.
func resting(a machine.Answers) map[string]job.Resting {
	return map[string]job.Resting{
		"closing": {Answers: a, Task: task.LayUp, Rest: restOf(35, true)},
		"visit":   {Answers: a, Task: task.Visit, Rest: restOf(35, true)},
		"return":  {Answers: a, Task: task.Return, Stood: standdown.Stood{Days: 12, Visits: 1}},
		"late":    {Answers: a, Task: task.Return, Stood: standdown.Stood{Days: 80}, FilterDue: true},
	}
}

// Every closing, visit and return is cleared on the model for all its hands, on every layout with a pump; a closing
// and a
// visit end with boilers full, unplugged, and no water from outside; a return ends as any other run.
func TestStandDownsAreCleared(t *testing.T) {
	for _, l := range machine.Layouts() {
		if l == machine.LeverManual {
			continue
		}
		for _, treatment := range []machine.Treatment{machine.Untreated, machine.InTank, machine.UnderSink,
			machine.Softener} {
			a := machine.Answers{Layout: l, Valve: machine.Yes, Drinks: 20, MilkDrinks: 10, Treatment: treatment}
			for name, r := range resting(a) {
				t.Run(fmt.Sprintf("%s %s %s", l, treatment, name), func(t *testing.T) {
					p, err := job.StandDown(r)
					if err != nil {
						t.Fatal(err)
					}
					if why, err := Cleared(p); err != nil {
						t.Fatalf("%v %v", err, why)
					}
					play, err := Perform(p, Hands{})
					if err != nil {
						t.Fatal(err)
					}
					x := play.Plant
					dry := x.V[plant.SourceAt].Litres < 0.01 && (!x.Spec.Mains || !x.Supply)
					if down := !x.Plug && dry; down != p.StandDown {
						t.Errorf("ends down %v: plugged %v, supply %v, source %.2f L", down, x.Plug, x.Supply, x.V[plant.SourceAt].Litres)
					}
					for i, v := range x.Spec.Vessels {
						if v.Kind != plant.Catch && v.Kind != plant.Source && x.V[i].Litres < 0.9*v.Working {
							t.Errorf("%s ends with %.2f of %.2f L", v.Title, x.V[i].Litres, v.Working)
						}
					}
				})
			}
		}
	}
}

func TestPrintStandDowns(t *testing.T) {
	if os.Getenv("PRINT") == "" {
		t.Skip()
	}
	for _, l := range []machine.Layout{machine.HXCafe, machine.DualHome, machine.SingleBoiler} {
		a := machine.Answers{Layout: l, Valve: machine.Yes, Drinks: 20, MilkDrinks: 10, Treatment: machine.InTank}
		if l == machine.HXCafe {
			a.Treatment = machine.UnderSink
		}
		for _, name := range []string{"closing", "visit", "late"} {
			p, err := job.StandDown(resting(a)[name])
			fmt.Println("=====", l, name, err, p.Minutes.Value)
			for _, s := range p.Steps() {
				fmt.Printf("-- %s [%s]\n   %s\n", s.Head, s.Button, strings.Join(s.Do, "\n   "))
				for _, c := range s.Cautions {
					fmt.Println("   !", c.Text)
				}
			}
		}
	}
}
