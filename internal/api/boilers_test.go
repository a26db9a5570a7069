package api

import (
	"math"
	"strings"
	"testing"

	"freshanvil/core/machine"
	"freshanvil/core/treat"
)

// What goes on in the boilers of a machine: salts, draws, cooling; two readings set its time constant,
// and a thermometer is compared with the gauge.
func TestBoilerLife(t *testing.T) {
	b := newBench(t)
	id := b.add(with("layout", "dual_home"))
	var life BoilerLife
	b.call("GET", "/api/machines/"+id+"/boiler", nil, 200, &life)
	if life.Cooling.TauH <= 0 || len(life.Cooling.Touch) != 3 || len(life.Cooling.Curve) < 10 || life.Cooling.Said {
		t.Fatalf("%+v", life.Cooling)
	}
	last := life.Cooling.Curve[0].C + 1
	for _, p := range life.Cooling.Curve {
		if p.C >= last {
			t.Fatalf("it does not cool: %+v", life.Cooling.Curve)
		}
		last = p.C
	}
	for _, h := range life.Hotter {
		if h.Points[len(h.Points)-1].High <= h.Points[0].High {
			t.Errorf("%+v", h)
		}
	}
	// by hand: from 100 °C after an hour to 61 after three in a room of 22: 2 h ÷ ln(78 ÷ 39)
	var cools CoolingShown
	b.call("POST", "/api/machines/"+id+"/boiler/cooling", fields{"first": fields{"after_h": 1, "c": 100},
		"second": fields{"after_h": 3, "c": 61}}, 200, &cools)
	if math.Abs(cools.TauH-2/math.Ln2) > 1e-9 {
		t.Errorf("%v h, want %v", cools.TauH, 2/math.Ln2)
	}
	var bad Problem
	b.call("POST", "/api/machines/"+id+"/boiler/cooling", fields{"first": fields{"after_h": 1, "c": 60},
		"second": fields{"after_h": 3, "c": 61}}, 422, &bad)
	if *bad.Field != "readings" {
		t.Errorf("%+v", bad)
	}
	var found SaturationAnswer
	b.call("POST", "/api/machines/"+id+"/boiler/saturation", fields{"gauge_bar": 1.2, "thermometer_c": 108}, 200, &found)
	if math.Abs(found.BoilsC-123.4) > 0.3 || found.Finding.Verdict != "look" ||
		!strings.Contains(found.Finding.Title, "Air") {
		t.Errorf("%+v", found)
	}
}

// The water page says which rule decides, what would help most to know, and what another day would do.
func TestWaterSaysWhatDecides(t *testing.T) {
	b := newBench(t)
	id := b.add(with("layout", "dual_home"))
	var w WaterAtWork
	b.call("POST", "/api/machines/"+id+"/water/if", fields{"worth": true}, 200, &w)
	if w.DecidedBy == "" || w.Decided.Text == "" || w.Measured || w.HoursOn <= 0 || w.Worth == nil || len(*w.Worth) == 0 ||
		len(*w.Worth) > 3 {
		t.Fatalf("%s %+v, worth %+v", w.DecidedBy, w.Decided, w.Worth)
	}
	sample := fields{"hardness": fields{"value": 260, "unit": "mg_l_caco3"},
		"alkalinity": fields{"value": 208, "unit": "mg_l_caco3"}, "ph": fields{"value": 7.6}, "cl_mg_l": fields{"value": 12}}
	var measured, longer, jug WaterAtWork
	b.call("POST", "/api/machines/"+id+"/water/if", fields{"sample": sample}, 200, &measured)
	b.call("POST", "/api/machines/"+id+"/water/if", fields{"sample": sample, "hours_on": 24}, 200, &longer)
	b.call("POST", "/api/machines/"+id+"/water/if", fields{"sample": sample, "treatment": treat.Usual(machine.Jug)}, 200,
		&jug)
	if !measured.Measured || measured.DecidedBy != "scale" || longer.Every.Value >= measured.Every.Value ||
		jug.Every.Value <= measured.Every.Value {
		t.Errorf("measured %v days by %s, on all day %v, behind a jug %v", measured.Every.Value, measured.DecidedBy,
			longer.Every.Value, jug.Every.Value)
	}
	// a water that stood open drops more: 81.7 and 93.2 mg/L (PHREEQC)
	for lost, want := range map[float64]float64{0: 81.7, 0.85: 93.2} {
		var a WaterAnswers
		b.call("POST", "/api/calc/water", fields{"lost_fraction": lost, "temps_c": []float64{93}, "sample": fields{
			"ph": fields{"value": 7.6}, "hardness": fields{"value": 260, "unit": "mg_l_caco3"},
			"alkalinity": fields{"value": 208, "unit": "mg_l_caco3"}, "ca_mg_l": fields{"value": 81.2},
			"so4_mg_l": fields{"value": 25}, "na_mg_l": fields{"value": 15}}}, 200, &a)
		if got := a.At[0].CcppMgL.Likely; math.Abs(got-want) > 0.3 {
			t.Errorf("%v lost: %v mg/L, want %v", lost, got, want)
		}
	}
	// 19.65 L a day through a tube, on for 12 h: 0.24 of it reaches the surface
	var all, some ScaleAnswers
	tube := fields{"surface": "tube", "litres_a_day": 19.65, "ccpp_mg_l": fields{"value": 81.7}}
	b.call("POST", "/api/calc/scale", tube, 200, &all)
	tube["hours_on"] = 12
	b.call("POST", "/api/calc/scale", tube, 200, &some)
	if share := some.MgADay.Likely / all.MgADay.Likely; math.Abs(share-0.240) > 0.001 {
		t.Errorf("%v of it reaches the surface", share)
	}
}
