package care

import (
	"slices"
	"strings"
	"testing"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// outlook is a home dual boiler of which only the hardness was read.
func outlook(hardness units.Reading, how water.How) Outlook {
	a := machine.Answers{Layout: machine.DualHome, Valve: machine.Yes, Drinks: 6, MilkDrinks: 3}
	return Outlook{Answers: a, Sample: water.Sample{Hardness: hardness}, How: how,
		Setting: treat.Usual(machine.Untreated), Use: circuit.UseOf(6, 3)}
}

func worths(t testing.TB, o Outlook) []Worth {
	t.Helper()
	list, err := Worths(o)
	if err != nil {
		t.Fatal(err)
	}
	return list
}

func keys(list []Worth) []string {
	var out []string
	for _, w := range list {
		out = append(out, w.Key)
	}
	return out
}

// What was read or said is worth nothing; what was not is named with what to do and what it moves.
func TestWorthIsOfWhatIsNotKnown(t *testing.T) {
	o := outlook(units.Sharp(160), water.ByDrops)
	all := worths(t, o)
	for i, w := range all {
		if w.Do == "" || w.Says == "" || i > 0 && w.score > all[i-1].score {
			t.Errorf("%d: %+v", i, w)
		}
		if w.Days > 1 && w.Ends[0].Value+w.Days != w.Ends[1].Value {
			t.Errorf("%s moves %v days, from %v to %v", w.Key, w.Days, w.Ends[0].Value, w.Ends[1].Value)
		}
	}
	if got := keys(all); slices.Contains(got, "hardness_mg_l_caco3") || !slices.Contains(got, "alkalinity_mg_l_caco3") ||
		!slices.Contains(got, "hours_on") {
		t.Errorf("by drops: %v", got)
	}
	i := slices.IndexFunc(all, func(w Worth) bool { return w.Key == "alkalinity_mg_l_caco3" })
	if !strings.Contains(all[i].Do, "drop kit") || !strings.Contains(all[i].Says, "moves the descale by") {
		t.Errorf("%+v", all[i])
	}
	v := units.Sharp
	o.Sample = water.Sample{Hardness: v(160), Alkalinity: v(128), Calcium: v(50), PH: v(7.6), Chloride: v(10)}
	o.Answers.Overrides = map[string]string{"hours_on": "6", "heater_w": "1100", "steam_heater_w": "1200", "brew_l": "0.3",
		"steam_l": "1", "brew_material": "stainless", "steam_material": "stainless", "brew_heater": "can_be_off",
		"steam_heater": "can_be_off", "drain": "screws"}
	if got := worths(t, o); len(got) != 0 {
		t.Errorf("all is known: %v", keys(got))
	}
	if o.Sample.Hardness = units.Between(100, 250); !slices.Contains(keys(worths(t, o)), "hardness_mg_l_caco3") {
		t.Error("a hardness read as an interval is not worth reading")
	}
}

// The wider a thing may be, the more it is worth; a range that narrows changes the order.
func TestWorthFollowsTheRange(t *testing.T) {
	wide, narrow := outlook(units.Between(40, 400), water.ByStrip), outlook(units.Between(155, 165), water.ByStrip)
	first, later := keys(worths(t, wide)), keys(worths(t, narrow))
	if a, b := slices.Index(first, "hardness_mg_l_caco3"), slices.Index(later, "hardness_mg_l_caco3"); a < 0 ||
		b >= 0 && b <= a {
		t.Errorf("a wide strip: %v; a narrow one: %v", first, later)
	}
	worthOf := func(o Outlook) float64 {
		for _, w := range worths(t, o) {
			if w.Key == "hardness_mg_l_caco3" {
				return w.score
			}
		}
		return 0
	}
	before := 0.0
	for _, off := range []float64{5, 20, 60, 100} {
		got := worthOf(outlook(units.Between(160-off, 160+off), water.ByStrip))
		if got < before {
			t.Errorf("within %v mg/L: worth %v, narrower %v", off, got, before)
		}
		before = got
	}
}

// What cannot be is passed over: neither a water nor a machine is made up.
func TestWorthOfEveryLayout(t *testing.T) {
	for _, l := range machine.Layouts() {
		for _, k := range machine.Treatments() {
			o := outlook(units.Reading{}, "")
			o.Answers.Layout, o.Setting = l, treat.Usual(k)
			o.Dose = func(f machine.Facts) units.Mass { return units.Mass(f.BrewBoiler) }
			if list := worths(t, o); k == machine.Untreated && len(list) < 2 {
				t.Errorf("%s: %v", l, keys(list))
			}
		}
	}
}

// BenchmarkWorths: what is worth finding out of a machine of which nothing was read, beside the 30 ms it
// may take.
func BenchmarkWorths(b *testing.B) {
	o := outlook(units.Reading{}, "")
	for b.Loop() {
		worths(b, o)
	}
	b.ReportMetric(b.Elapsed().Seconds()*1000/float64(b.N)/30, "of_30_ms")
}
