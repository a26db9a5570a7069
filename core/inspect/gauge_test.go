package inspect

import (
	"errors"
	"testing"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

func madeOf(l machine.Layout) machine.Facts {
	return machine.Answers{Layout: l, Valve: machine.Yes, Drinks: 4, Hardness: units.UnknownHardness()}.Facts()
}

// Each zone of the gauges, with its edges (common practice); over the red mark it stops, and so does a pump that makes
// no pressure; a home's pump may go to 11 bar, a café's to 10.
func TestReadGauge(t *testing.T) {
	home, cafe := madeOf(machine.HXHome), madeOf(machine.HXCafe)
	marked := home
	marked.RedMark = 1.8
	for _, c := range []struct {
		name   string
		f      machine.Facts
		g      Gauge
		bar    units.Pressure
		shakes bool
		want   reason.Verdict
		leads  string
	}{
		{"usual", home, SteamGauge, 1.2, false, reason.Fine, ""}, {"usual from", home, SteamGauge, 1.0, false, reason.Fine,
			""},
		{"usual to", home, SteamGauge, 1.3, false, reason.Fine, ""}, {"a little high", home, SteamGauge, 1.4, false,
			reason.Look, ""},
		{"look", home, SteamGauge, 1.6, false, reason.Look, ""}, {"limit", home, SteamGauge, 2.0, false, reason.Stop,
			"over_pressure"},
		{"its own mark", marked, SteamGauge, 1.8, false, reason.Stop, "over_pressure"},
		{"under its own mark", marked, SteamGauge, 1.7, false, reason.Look, ""},
		{"a little low", home, SteamGauge, 0.9, false, reason.Look, ""},
		{"low", home, SteamGauge, 0.5, false, reason.Look, "weak_steam"},
		{"pump", home, PumpGauge, 9, false, reason.Fine, ""}, {"pump at home", home, PumpGauge, 10.8, false, reason.Fine, ""},
		{"pump in a café", cafe, PumpGauge, 10.8, false, reason.Look, ""}, {"pump low", cafe, PumpGauge, 5, false,
			reason.Look,
			"no_pump_pressure"},
		{"no pressure", cafe, PumpGauge, 0.5, false, reason.Stop, "no_pump_pressure"},
		{"shaking", cafe, PumpGauge, 9, true, reason.Look, "no_pump_pressure"},
	} {
		t.Run(c.name, func(t *testing.T) {
			r, err := ReadGauge(c.f, c.g, c.bar, c.shakes)
			if err != nil || r.Verdict != c.want || r.Symptom != c.leads || len(r.Because) == 0 {
				t.Errorf("%v %+v", err, r)
			}
			if c.want != reason.Fine && len(r.Next) == 0 {
				t.Error("it says nothing of what to do")
			}
		})
	}
	for field, c := range map[string]struct {
		f   machine.Facts
		g   Gauge
		bar units.Pressure
	}{"bar": {home, SteamGauge, -1}, "gauge": {madeOf(machine.Thermoblock), SteamGauge, 1}} {
		var bad *units.OutOfRange
		if _, err := ReadGauge(c.f, c.g, c.bar, false); !errors.As(err, &bad) || bad.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
	var bad *units.OutOfRange
	if _, err := ReadGauge(madeOf(machine.LeverManual), PumpGauge, 9, false); !errors.As(err, &bad) ||
		bad.Field != "gauge" {
		t.Errorf("a lever without a pump: %v", err)
	}
}
