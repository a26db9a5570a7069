package scale

import (
	"errors"
	"math"
	"math/rand/v2"
	"testing"

	"freshanvil/core/reason"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// What practice does (common practice of the trade): one litre a day at 93 °C
// through a boiler of 1000 to 1200 W: very hard water every 2 to 3 months, hard
// 4 to 6, moderate or soft the yearly cap. Worked out: 2.0 to 2.4, 5.0 to 6.0,
// the cap; by the newer constants 1.6 to 2.0, 3.6 to 4.3, the cap.
func TestPracticeIsReproduced(t *testing.T) {
	const month = 30.44
	for hardness, want := range map[float64][4]float64{260: {2.0, 2.4, 1.6, 2.0}, 160: {5.0, 6.0, 3.6, 4.3},
		85: {12, 12, 12, 12}} {
		s := units.Sharp
		f, err := water.Sample{
			PH:         s(7.6),
			Hardness:   s(hardness),
			Alkalinity: s(0.8 * hardness),
			Calcium:    s(0.78 * hardness / water.CalciumAs),
			Sulfate:    s(25),
			Sodium:     s(15),
		}.Fill()
		if err != nil {
			t.Fatal(err)
		}
		hot, err := f.At(93)
		if err != nil {
			t.Fatal(err)
		}
		for i, watts := range []units.Power{1000, 1200} {
			surface, err := Element(watts)
			if err != nil {
				t.Fatal(err)
			}
			d, err := surface.Grows(Brew(hot.Precipitates, 1, units.Sharp(1), 1))
			if err != nil || math.Abs(d.Days.Value/month-want[i]) > 0.06 ||
				math.Abs(d.Days.Low/month-want[2+i]) > 0.12 {
				t.Errorf(
					"%v mg/L, %v W: %.2f months, from %.2f, %v; want %v",
					hardness,
					watts,
					d.Days.Value/month,
					d.Days.Low/month,
					err,
					want,
				)
			}
			if d.Inspect || len(d.Because) == 0 {
				t.Errorf("%v mg/L: %+v", hardness, d.Because)
			}
		}
	}
}

// By hand: 0.2 mm of 2 g/cm³ on 137.5 cm² are 5.5 g; 8 W/cm² through 0.2 mm of
// 1 W/(m K) are 16 K; a tube of 125 cm² holds 7.5 g at 0.3 mm.
func TestThicknessByHand(t *testing.T) {
	s, _ := Element(1100)
	if math.Abs(float64(s.Holds())-5.5) > 1e-12 || math.Abs(float64(s.Thickness(5.5))-0.2) > 1e-12 ||
		math.Abs(s.Hotter(0.2).Likely-16) > 1e-9 {
		t.Errorf("%v g, %v mm, %+v K", s.Holds(), s.Thickness(5.5), s.Hotter(0.2))
	}
	if tube := Tube(); math.Abs(float64(tube.Holds())-7.5) > 1e-12 || tube.Hotter(0.3).Known {
		t.Errorf("tube: %v g, %+v", tube.Holds(), tube.Hotter(0.3))
	}
	for _, w := range []float64{0, -1, math.NaN(), 1e9} {
		_, err := Element(units.Power(w))
		var bad *units.OutOfRange
		if !errors.As(err, &bad) || bad.Field != "heater_w" {
			t.Errorf("%v W: %v", w, err)
		}
	}
}

// The steam side: with nothing drawn off all of the smaller one falls out;
// drawing off carries away what stays dissolved.
func TestSteamSide(t *testing.T) {
	feed, left := units.Between(150, 170), units.Between(11, 24)
	if got := Steam(feed, left, 0.5, 0, 1); got.Likely != 80 {
		t.Errorf("nothing drawn off: %+v", got)
	}
	got := Steam(feed, left, 0.7, 0.2, 1)
	if math.Abs(got.Likely-(0.7*160-0.2*17.5)) > 1e-12 || got.Low >= got.Likely || got.Likely >= got.High {
		t.Errorf("%+v", got)
	}
	// the least scale is of the softest feed, of which most stays dissolved, and the most of
	// the hardest, of which least does: by hand 0.7 × 40 − 0.2 × 30 and 0.7 × 120 − 0.2 × 10
	wide := Steam(units.Between(40, 120), units.Between(10, 30), 0.7, 0.2, 1)
	if math.Abs(wide.Low-22) > 1e-9 || math.Abs(wide.High-82) > 1e-9 {
		t.Errorf("from %v to %v, want 22 to 82", wide.Low, wide.High)
	}
	if got := Steam(units.Sharp(5), units.Sharp(20), 1, 1, 1); got.Likely != 0 {
		t.Errorf("soft feed, all drawn off: %+v", got)
	}
}

// Days fall with hardness and with use; a water that dissolves scale is looked
// at, not descaled.
func TestDaysFall(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 9))
	s, _ := Element(1100)
	days := func(hardness, litres float64) float64 {
		f, err := water.Sample{Hardness: units.Sharp(hardness), PH: units.Sharp(7.6)}.Fill()
		if err != nil {
			t.Fatal(err)
		}
		hot, err := f.At(93)
		if err != nil {
			t.Fatal(err)
		}
		d, err := s.Grows(Brew(hot.Precipitates, units.Litres(litres), units.Sharp(1), 1))
		if err != nil {
			t.Fatal(err)
		}
		return d.Days.Value
	}
	for range 60 {
		h, l := 30+370*r.Float64(), 0.1+4*r.Float64()
		if days(h*1.1, l) > days(h, l) || days(h, l*1.1) > days(h, l) {
			t.Fatalf("%.0f mg/L, %.1f L: the days grow with hardness or use", h, l)
		}
	}
	d, err := s.Grows(Brew(units.Between(-30, -10), 1, units.Sharp(1), 1))
	if err != nil || !d.Inspect || d.Days.Value != MostDays || d.Because[0].Source.Kind == reason.Kind("") {
		t.Errorf("%+v, %v", d, err)
	}
	for _, bad := range []units.Reading{units.Sharp(-1), units.Sharp(math.NaN()), units.Sharp(math.Inf(1)),
		{Low: 3, Likely: 2, High: 4}} {
		if _, err := s.Grows(bad); err == nil {
			t.Errorf("%+v was taken", bad)
		}
	}
	if _, err := (Surface{}).Grows(units.Sharp(1)); err == nil {
		t.Error("scale on no surface")
	}
}
