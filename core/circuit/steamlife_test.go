package circuit

import (
	"errors"
	"math"
	"testing"

	"freshanvil/core/boiler"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// By the balance of boiler-water handbooks: without drawing off 1 + S t ÷ V, with it what package boiler
// steps through; drawn off so, the salts end at three times the feed.
func TestSaltsInTheSteamBoiler(t *testing.T) {
	for _, hot := range []string{"0", "0.5"} {
		f := facts(machine.HXHome, map[string]string{"hot_water_l": hot})
		l, err := LitresADay(f, UseOf(10, 6))
		if err != nil {
			t.Fatal(err)
		}
		got, any := Concentrated(f, l)
		want, err := boiler.Concentration(f.SteamFill().Litres(), units.Litres(l.Steam.Value), units.Litres(l.Hot.Value), 7)
		if err != nil || !any || math.Abs(got.Value-want) > 1e-9 {
			t.Errorf("hot water %s L: %v times, want %v, %v", hot, got.Value, want, err)
		}
		draw := units.Litres(ToDraw(l).Value)
		if c := boiler.Cycles(units.Litres(l.Steam.Value)+draw, draw); math.Abs(c-MostCycles) > 1e-9 {
			t.Errorf("drawn so, %v times", c)
		}
	}
	if _, any := Concentrated(facts(machine.SingleBoiler, nil), Litres{}); any {
		t.Error("a single boiler has no steam boiler")
	}
}

// 1.2 bar is 123 °C (IAPWS-IF97): a colder thermometer means trapped air or a gauge that reads too much.
func TestGaugeAndThermometer(t *testing.T) {
	for thermometer, want := range map[units.Temperature]reason.Verdict{
		123: reason.Fine, 120: reason.Fine, 110: reason.Look, 135: reason.Look} {
		got, boils, err := Saturation(1.2, thermometer)
		if err != nil || got.Verdict != want || math.Abs(float64(boils)-123.3) > 0.3 ||
			(want == reason.Look) != (len(got.Next) > 0) {
			t.Errorf("%v: %+v, %v, %v", thermometer, got, boils, err)
		}
	}
	var bad *units.OutOfRange
	if _, _, err := Saturation(1.2, 400); !errors.As(err, &bad) || bad.Field != "thermometer_c" {
		t.Errorf("400 °C: %v", err)
	}
	if _, _, err := Saturation(-2, 100); !errors.As(err, &bad) || bad.Field != "gauge_bar" {
		t.Errorf("-2 bar: %v", err)
	}
}
