package api

import (
	"math"
	"testing"
)

// The calculators answer over the contract: readings sharp or as intervals, what
// was not read is said, and bad input names its field.
// A reading is read by core as somebody writes it, wherever the contract takes one; what
// it cannot be sure of is refused with what it may be.
func TestReadingsAsWritten(t *testing.T) {
	b := newBench(t)
	text := func(s string) fields { return fields{"text": s} }
	for said, want := range map[string][2]float64{
		"12,5-14,5": {12.5 * 17.848, 14.5 * 17.848}, "14": {14 * 17.848, 14 * 17.848}, "4..7": {4 * 17.848, 7 * 17.848},
		"12.5 – 14.5": {12.5 * 17.848, 14.5 * 17.848},
	} {
		t.Run(said, func(t *testing.T) {
			b.t = t
			var w WaterAnswers
			hardness := fields{"text": said, "unit": "dh"}
			b.call("POST", "/api/calc/water", fields{"sample": fields{"hardness": hardness}}, 200, &w)
			if h := w.HardnessMgLCaco3; math.Abs(h.Low-want[0]) > 0.02 || math.Abs(h.High-want[1]) > 0.02 {
				t.Errorf("%+v, want %v", h, want)
			}
		})
	}
	b.t = t
	var w WaterAnswers
	b.call("POST", "/api/calc/water", fields{"sample": fields{"pads": 2, "ph": text("7,4")}}, 200, &w)
	if math.Abs(w.HardnessMgLCaco3.Low-7*17.848) > 0.02 || w.Ph.Likely != 7.4 {
		t.Errorf("two pads, pH 7,4: %+v, %+v", w.HardnessMgLCaco3, w.Ph)
	}
	for field, sample := range map[string]fields{
		"sample.hardness":       {"hardness": fields{"text": "1,250", "unit": "mg_l_caco3"}},
		"sample.ph":             {"ph": text("soft")},
		"sample.ca_mg_l.unit":   {"ca_mg_l": text("78 bushels")},
		"sample.cl_mg_l":        {"cl_mg_l": fields{"text": "5", "value": 5}},
		"sample.pads":           {"pads": 2, "hardness": fields{"value": 5, "unit": "dh"}},
		"sample.alkalinity":     {"alkalinity": fields{"text": "8 dH", "unit": "dh"}},
		"sample.hardness.value": {"hardness": fields{"text": "400", "unit": "dh"}},
	} {
		t.Run(field, func(t *testing.T) {
			b.t = t
			var p Problem
			b.call("POST", "/api/calc/water", fields{"sample": sample}, 422, &p)
			if deref(p.Field) != field || deref(p.Allowed) == "nothing" {
				t.Errorf("%v, %v, allowed %v", deref(p.Field), deref(p.Value), deref(p.Allowed))
			}
		})
	}
}

func TestCalculators(t *testing.T) {
	b := newBench(t)
	value := func(v float64) fields { return fields{"value": v} }
	var w WaterAnswers
	b.call(
		"POST",
		"/api/calc/water",
		fields{
			"sample": fields{
				"ph":         value(7.6),
				"hardness":   fields{"value": 260, "unit": "mg_l_caco3"},
				"alkalinity": fields{"value": 208, "unit": "mg_l_caco3"},
				"ca_mg_l": value(
					0.78 * 260 / 2.4973,
				),
				"so4_mg_l": value(25),
				"na_mg_l":  value(15),
			},
			"temps_c": []float64{93},
		},
		200,
		&w,
	)
	if len(w.At) != 1 || math.Abs(w.At[0].CcppMgL.Likely-81.7) > 0.1 || !w.At[0].Extrapolated ||
		w.At[0].Langelier == nil ||
		w.Usgs.Likely != "very hard" ||
		len(w.Says) != 1 {
		t.Errorf("%+v", w)
	}
	var wide WaterAnswers
	b.call(
		"POST",
		"/api/calc/water",
		fields{"sample": fields{"hardness": fields{"low": 10, "high": 15, "unit": "dh"}}},
		200,
		&wide,
	)
	if len(wide.At) != 2 ||
		wide.HardnessMgLCaco3.Low != 178.47938063166694 && math.Abs(wide.HardnessMgLCaco3.Low-178.48) > 0.01 ||
		wide.At[1].CcppMgL.High-wide.At[1].CcppMgL.Low < 40 ||
		len(wide.Says) != 4 {
		t.Errorf("%+v", wide)
	}
	var s ScaleAnswers
	b.call(
		"POST",
		"/api/calc/scale",
		fields{"surface": "element", "heater_w": 1100, "ccpp_mg_l": fields{"low": 80, "high": 100}, "litres_a_day": 1},
		200,
		&s,
	)
	if math.Abs(s.Days.Value-5500.0/90) > 1e-9 || s.Days.Low >= s.Days.Value || math.Abs(s.HotterK.Likely-16) > 1e-9 {
		t.Errorf("%+v", s)
	}
	b.call(
		"POST",
		"/api/calc/scale",
		fields{"surface": "tube", "feed_mg_l_caco3": value(160), "left_mg_l_caco3": value(20), "litres_a_day": 0.5},
		200,
		&s,
	)
	if s.MgADay.Likely != 80 {
		t.Errorf("a steam boiler's feed: %+v", s.MgADay)
	}
	var boiler BoilerAnswers
	b.call(
		"POST",
		"/api/calc/boiler",
		fields{
			"gauge_bar":       1.2,
			"milk_g":          150,
			"temperature_c":   120.42,
			"boiler_l":        1.8,
			"steam_l_day":     0.5,
			"cycles":          3,
			"drawn_off_l_day": 0.2,
			"days":            7,
			"heel":            0.08,
		},
		200,
		&boiler,
	)
	if math.Abs(*boiler.SteamG-19.5) > 0.05 || math.Abs(*boiler.GaugeOfBar-1) > 1e-3 || *boiler.Draws != 11 ||
		*boiler.DrawOffLDay != 0.25 ||
		*boiler.Emptied >= *boiler.Concentration {
		t.Errorf("%+v", boiler)
	}
	for _, c := range []struct {
		path  string
		body  fields
		field string
	}{
		{"water", fields{"sample": fields{"ph": fields{"low": 8, "high": 7}}}, "sample.ph"},
		{"water", fields{"sample": fields{"ph": fields{"value": 7, "low": 6}}}, "sample.ph"},
		{"water", fields{"sample": fields{"hardness": fields{"value": 1e9, "unit": "dh"}}}, "sample.hardness.value"},
		{"water", fields{"sample": fields{"alkalinity": fields{"value": -1, "unit": "dh"}}}, "sample.alkalinity.value"},
		{"water", fields{"sample": fields{}, "temps_c": []float64{500}}, "temps_c.0"},
		{"scale", fields{"surface": "tube", "litres_a_day": 1}, "ccpp_mg_l"},
		{"scale", fields{"surface": "element", "litres_a_day": 1, "ccpp_mg_l": value(3)}, "heater_w"},
		{"boiler", fields{"gauge_bar": 1e9}, "gauge_bar"},
		{"boiler", fields{"boiler_l": 0}, "boiler_l"},
	} {
		var p Problem
		b.call("POST", "/api/calc/"+c.path, c.body, 422, &p)
		if p.Field == nil || *p.Field != c.field || p.Allowed == nil {
			t.Errorf("%s %v: %+v, want %s", c.path, c.body, p, c.field)
		}
	}
}
