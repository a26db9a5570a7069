package boiler

import (
	"encoding/csv"
	"errors"
	"math"
	"os"
	"strconv"
	"testing"

	"freshanvil/core/units"
)

// Both ways within 0.01 K of the table (IAPWS-IF97 region 4 by the Debian
// package python3-iapws), and the heat of evaporation within 0.2 %.
func TestSaturationAgainstTheTable(t *testing.T) {
	f, err := os.Open("testdata/saturation.csv")
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	for _, row := range rows[1:] {
		bar, _ := strconv.ParseFloat(row[0], 64)
		want, _ := strconv.ParseFloat(row[1], 64)
		heat, _ := strconv.ParseFloat(row[4], 64)
		got, err := Boils(units.Pressure(bar))
		if err != nil || math.Abs(float64(got)-want) > 0.01 {
			t.Errorf("%v bar: %v °C, %v; the table has %v", bar, got, err, want)
		}
		back, err := Saturated(got)
		if err != nil || math.Abs(float64(back)-bar) > 1e-6 {
			t.Errorf("%v °C: %v bar, %v; want %v", got, back, err, bar)
		}
		if l := Latent(got); math.Abs(l-heat) > 0.002*heat {
			t.Errorf("%v °C: %v kJ/kg, the table has %v", got, l, heat)
		}
	}
	// the release's own check values: 300 K at 3.53658941 kPa, 0.1 MPa at 372.755919 K
	if p, _ := Saturated(300 - 273.15); math.Abs((float64(p)+units.Atmosphere)*100-3.53658941) > 1e-6 {
		t.Errorf("300 K: %v kPa", (float64(p)+units.Atmosphere)*100)
	}
	if c, _ := Boils(1 - units.Atmosphere); math.Abs(float64(c)+273.15-372.755919) > 1e-5 {
		t.Errorf("0.1 MPa: %v K", float64(c)+273.15)
	}
}

// 150 g of milk from 5 to 65 °C at 1.2 bar: by hand 35.37 kJ over 2192 + 4.2 ×
// 58.4 kJ/kg is 14.5 g, and 5 g of purge.
func TestSteamForMilk(t *testing.T) {
	got, err := SteamFor(Milk{Mass: 150, From: 5, To: 65, Purge: 5}, 1.2)
	if err != nil || math.Abs(float64(got)-19.5) > 0.05 {
		t.Errorf("%v g, %v", got, err)
	}
	for _, m := range []Milk{{Mass: -1, From: 5, To: 65}, {Mass: 150, From: 65, To: 5}, {Mass: 150, From: 5, To: 130},
		{Mass: units.Mass(math.NaN()), To: 60}, {Mass: 1, To: 60, Purge: 1e9}} {
		if _, err := SteamFor(m, 1.2); err == nil {
			t.Errorf("%+v was taken", m)
		}
	}
}

// A blow-down example as boiler-water handbooks give it (from memory): feed of
// 250 mg/L, 3000 allowed, 10 000 kg/h of steam: 250 × 10 000 ÷ 2750 = 909 kg/h.
func TestBlowDownByTheHandbook(t *testing.T) {
	got, err := DrawOff(10000, 3000.0/250)
	if err != nil || math.Abs(float64(got)-909.09) > 0.01 {
		t.Errorf("%v kg/h, %v", got, err)
	}
	if c := Cycles(10000+got, got); math.Abs(c-12) > 1e-9 {
		t.Errorf("and that gives %v cycles", c)
	}
	if _, err := DrawOff(1, 1); err == nil {
		t.Error("one cycle can be kept")
	}
}

// Concentration grows without end where nothing is drawn off, else towards its
// cycles; the closed form is what stepping through the balance gives.
func TestConcentrationInTime(t *testing.T) {
	if c, _ := Concentration(1.8, 0.5, 0, 7); math.Abs(c-(1+3.5/1.8)) > 1e-12 {
		t.Errorf("%v", c)
	}
	salt, step := 1.8, 1e-4
	for day := 0.0; day < 7; day += step {
		salt += step * (0.7*1 - 0.2*salt/1.8) // make-up 0.7 at 1, 0.2 drawn off
	}
	c, err := Concentration(1.8, 0.5, 0.2, 7)
	if err != nil || math.Abs(c-salt/1.8) > 1e-3 {
		t.Errorf("a week: %v, stepped through %v", c, salt/1.8)
	}
	if late, _ := Concentration(1.8, 0.5, 0.2, 1e4); math.Abs(late-3.5) > 1e-9 {
		t.Errorf("in the end %v, want 0.7 ÷ 0.2", late)
	}
	if e := Emptied(3, 0.08); math.Abs(e-1.16) > 1e-12 {
		t.Errorf("emptied to a heel of 8 %%: %v", e)
	}
	if _, err := Concentration(0, 1, 1, 1); err == nil {
		t.Error("a boiler of nothing")
	}
}

// 95 % at a quarter a draw takes 11; a large boiler is held to 1.8 L a draw.
func TestTurnover(t *testing.T) {
	draw, n, err := Draws(1.8, 0.95)
	if err != nil || draw != 0.45 || n != 11 || Turnover(1.8, draw, n) < 0.95 || Turnover(1.8, draw, n-1) >= 0.95 {
		t.Errorf("%v L, %d times, %v", draw, n, err)
	}
	if draw, n, _ := Draws(11, 0.95); draw != 1.8 || Turnover(11, draw, n) < 0.95 || Turnover(11, draw, n-1) >= 0.95 {
		t.Errorf("11 L: %v L, %d times", draw, n)
	}
	for _, c := range [][2]float64{{0, 0.9}, {math.NaN(), 0.9}, {2, 1}, {2, 0}} {
		_, _, err := Draws(units.Litres(c[0]), c[1])
		var bad *units.OutOfRange
		if !errors.As(err, &bad) {
			t.Errorf("%v: %v", c, err)
		}
	}
	for _, p := range []units.Pressure{-2, 99, units.Pressure(math.NaN())} {
		if _, err := Boils(p); err == nil {
			t.Errorf("%v bar boils", p)
		}
	}
	if _, err := Saturated(-5); err == nil {
		t.Error("ice boils")
	}
}
