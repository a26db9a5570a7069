package api

import (
	"context"
	"errors"
	"fmt"
	"math"
	"time"

	"freshanvil/core/boiler"
	"freshanvil/core/scale"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// readingIn is a reading as a request gives it: a value, low and high, or a text, of
// which it gives the unit that follows there.
func readingIn(field string, r *ReadingIn) (units.Reading, error) {
	switch {
	case r == nil:
		return units.Reading{}, nil
	case r.Text != nil && r.Value == nil && r.Low == nil && r.High == nil:
		return textIn(field, r)
	case r.Text != nil:
	case r.Value != nil && r.Low == nil && r.High == nil:
		return units.Sharp(*r.Value), nil
	case r.Value == nil && r.Low != nil && r.High != nil && *r.Low <= *r.High:
		return units.Between(*r.Low, *r.High), nil
	}
	return units.Reading{}, &units.OutOfRange{
		Field:   field,
		Value:   "neither",
		Allowed: "value alone, or low and high in that order, or text alone",
	}
}

// textIn reads what somebody wrote; a unit that follows it takes the place of none.
func textIn(field string, r *ReadingIn) (units.Reading, error) {
	v, unit, err := units.ParseReadingIn(*r.Text)
	var never *units.OutOfRange
	if errors.As(err, &never) {
		return v, never.Of(field)
	}
	if unit != "" {
		r.Unit = &unit
	}
	return v, err
}

func unitReadingIn(
	field string,
	r *UnitReadingIn,
	toMg func(float64, string) (float64, error),
) (units.Reading, error) {
	if r == nil {
		return units.Reading{}, nil
	}
	plain := ReadingIn{Text: r.Text, Value: r.Value, Low: r.Low, High: r.High}
	v, err := readingIn(field, &plain)
	if err != nil {
		return v, err
	}
	if plain.Unit != nil {
		return v, &units.OutOfRange{Field: field, Value: *r.Text,
			Allowed: "a number without a unit: the unit stands beside it"}
	}
	out, err := v.Through(func(v float64) (float64, error) { return toMg(v, string(r.Unit)) })
	var bad *units.OutOfRange
	if errors.As(err, &bad) {
		return out, bad.Of(field + ".value")
	}
	return out, err
}

// inUnit turns a reading that names a unit into the unit of its field.
func inUnit(field string, from *ReadingIn, to *units.Reading) error {
	if from == nil || from.Unit == nil {
		return nil
	}
	one := func(text string) (float64, error) {
		if field == "conductivity_us_cm" {
			c, err := units.ParseConductivity(text)
			return float64(c), err
		}
		c, err := units.ParseConcentration(text)
		return float64(c), err
	}
	by, err := one("1 " + *from.Unit)
	if field == "ph" || err != nil {
		return &units.OutOfRange{
			Field:   field + ".unit",
			Value:   *from.Unit,
			Allowed: "mg/L, g/L or µg/L; of the conductivity µS/cm, mS/cm or mS/m; none of pH",
		}
	}
	*to = to.Scale(by)
	return nil
}

func readingOut(r units.Reading) ReadingOut {
	return ReadingOut{Low: r.Low, Likely: r.Likely, High: r.High}
}

func sampleIn(in WaterSample) (water.Sample, error) {
	var s water.Sample
	var err error
	if s.Hardness, err = unitReadingIn("hardness", in.Hardness, func(v float64, unit string) (float64, error) {
		h, err := units.NewHardness(v, units.HardnessUnit(unit))
		return h.In(units.MgPerLCaCO3), err
	}); err != nil {
		return s, err
	}
	if in.Pads != nil {
		if in.Hardness != nil {
			return s, &units.OutOfRange{Field: "pads", Value: fmt.Sprint(*in.Pads), Allowed: "pads or hardness, one of them"}
		}
		if s.Hardness, err = water.Turned(*in.Pads); err != nil {
			return s, err
		}
	}
	if s.Alkalinity, err = unitReadingIn("alkalinity", in.Alkalinity, func(v float64, unit string) (float64, error) {
		a, err := units.NewAlkalinity(v, unit)
		return float64(a), err
	}); err != nil {
		return s, err
	}
	if in.PhTempC != nil {
		s.PHTemp = units.Sharp(*in.PhTempC)
	}
	for _, x := range []struct {
		field string
		from  *ReadingIn
		to    *units.Reading
	}{
		{"ph", in.Ph, &s.PH}, {"ca_mg_l", in.CaMgL, &s.Calcium}, {"mg_mg_l", in.MgMgL, &s.Magnesium},
		{"na_mg_l", in.NaMgL, &s.Sodium}, {"k_mg_l", in.KMgL, &s.Potassium},
		{"cl_mg_l", in.ClMgL, &s.Chloride}, {"so4_mg_l", in.So4MgL, &s.Sulfate}, {"tds_mg_l", in.TdsMgL, &s.Solids},
		{"conductivity_us_cm", in.ConductivityUsCm, &s.Conductivity},
	} {
		if *x.to, err = readingIn(x.field, x.from); err != nil {
			return s, err
		}
		if err = inUnit(x.field, x.from, x.to); err != nil {
			return s, err
		}
	}
	return s, nil
}

// CalcWater is what a water does when it is heated.
func (s *Server) CalcWater(_ context.Context, r CalcWaterRequestObject) (CalcWaterResponseObject, error) {
	sample, err := sampleIn(r.Body.Sample)
	if err != nil {
		return nil, under("sample", err)
	}
	f, err := sample.Fill()
	if err != nil {
		return nil, under("sample", err)
	}
	ph := f.PH
	if lost := orElse(r.Body.LostFraction, 0); lost > 0 {
		tank := units.Temperature(orElse(r.Body.TankC, float64(water.OpenAt)))
		if f, err = f.Stood(units.Sharp(lost), tank); err != nil {
			return nil, err
		}
	}
	temps := []float64{25, 93}
	if r.Body.TempsC != nil {
		temps = *r.Body.TempsC
	}
	mmol := func(v float64) units.Hardness { return units.Hardness(v / units.MolarCaCO3) }
	usgs, wrmg := water.Classes(
		units.HardnessReading{Likely: mmol(f.Hardness.Likely), Low: mmol(f.Hardness.Low), High: mmol(f.Hardness.High)},
	)
	out := WaterAnswers{
		HardnessMgLCaco3:   readingOut(f.Hardness),
		AlkalinityMgLCaco3: readingOut(f.Alkalinity),
		CalciumMgLCaco3:    readingOut(f.Calcium),
		Ph:                 readingOut(ph),
		Usgs:               classOut(usgs),
		Wrmg:               classOut(wrmg),
		Says:               f.Taken,
		At:                 []WaterAt{},
	}
	if out.Says == nil {
		out.Says = []Reason{}
	}
	for _, t := range temps {
		at := units.Temperature(t)
		a, err := f.At(at)
		if err != nil {
			return nil, fmt.Errorf("at %v °C: %w", t, err)
		}
		row := WaterAt{
			TempC:        t,
			Ph:           readingOut(a.PH),
			Si:           readingOut(a.SI),
			CcppMgL:      readingOut(a.Precipitates),
			Extrapolated: a.Extrapolated,
		}
		if l, err := f.Langelier(at); err == nil {
			row.Langelier = &l
		}
		out.At = append(out.At, row)
	}
	hot, err := f.At(93)
	if err != nil {
		return nil, err
	}
	out.DegassedCalciteMgL, out.LeftMgLCaco3 = readingOut(hot.Degassed), readingOut(hot.Left)
	out.Corrosion = water.Corrosion(f, hot,
		water.Touches{Stainless: orElse(r.Body.Stainless, true), Copper: orElse(r.Body.Copper, true)})
	return CalcWater200JSONResponse(out), nil
}

// orElse is what was given, or what stands in for it.
func orElse[T any](v *T, usual T) T {
	if v == nil {
		return usual
	}
	return *v
}

// asksSomething refuses a request from which nothing could be worked out.
func asksSomething(b CalcBoiler) error {
	if b.GaugeBar == nil && b.TemperatureC == nil && b.BoilerL == nil && (b.SteamLDay == nil || b.Cycles == nil) {
		return &units.OutOfRange{Field: "gauge_bar", Value: "nothing",
			Allowed: "gauge_bar, temperature_c, boiler_l, or steam_l_day with cycles: what is to be worked out from"}
	}
	if b.MilkG != nil && b.GaugeBar == nil {
		return &units.OutOfRange{Field: "gauge_bar", Value: "nothing", Allowed: "a number with milk_g: the steam's"}
	}
	return nil
}

// CalcBoiler is the boiler side.
func (s *Server) CalcBoiler(_ context.Context, r CalcBoilerRequestObject) (CalcBoilerResponseObject, error) {
	b := r.Body
	if err := asksSomething(*b); err != nil {
		return nil, err
	}
	var out BoilerAnswers
	if b.GaugeBar != nil {
		hot, err := boiler.Boils(units.Pressure(*b.GaugeBar))
		if err != nil {
			return nil, err
		}
		c, heat := float64(hot), boiler.Latent(hot)
		out.BoilsC, out.LatentKjKg = &c, &heat
		if b.MilkG != nil {
			m := boiler.Milk{
				Mass:  units.Mass(*b.MilkG),
				From:  units.Temperature(orElse(b.MilkFromC, 5)),
				To:    units.Temperature(orElse(b.MilkToC, 65)),
				Purge: units.Mass(orElse(b.PurgeG, 5)),
			}
			steam, err := boiler.SteamFor(m, units.Pressure(*b.GaugeBar))
			if err != nil {
				return nil, err
			}
			g := float64(steam)
			out.SteamG = &g
		}
	}
	if b.TemperatureC != nil {
		p, err := boiler.Saturated(units.Temperature(*b.TemperatureC))
		if err != nil {
			return nil, err
		}
		bar := float64(p)
		out.GaugeOfBar = &bar
	}
	if b.BoilerL != nil {
		draw, n, err := boiler.Draws(units.Litres(*b.BoilerL), orElse(b.Share, 0.95))
		if err != nil {
			return nil, err
		}
		renewed := boiler.Turnover(units.Litres(*b.BoilerL), draw, n)
		out.DrawL, out.Draws, out.Renewed = ptr(float64(draw)), &n, &renewed
	}
	if b.SteamLDay != nil && b.Cycles != nil {
		v, err := boiler.DrawOff(units.Litres(*b.SteamLDay), *b.Cycles)
		if err != nil {
			return nil, err
		}
		out.DrawOffLDay = ptr(float64(v))
	}
	if b.SteamLDay != nil && b.BoilerL != nil {
		c, err := boiler.Concentration(units.Litres(*b.BoilerL), units.Litres(*b.SteamLDay),
			units.Litres(orElse(b.DrawnOffLDay, 0)), orElse(b.Days, 7))
		if err != nil {
			return nil, err
		}
		out.Concentration = &c
		if b.Heel != nil {
			e := boiler.Emptied(c, *b.Heel)
			out.Emptied = &e
		}
	}
	return CalcBoiler200JSONResponse(out), nil
}

// CalcScale is how fast scale grows on one surface.
func (s *Server) CalcScale(_ context.Context, r CalcScaleRequestObject) (CalcScaleResponseObject, error) {
	b := r.Body
	surface := scale.Tube()
	if b.Surface == "element" {
		var err error
		if surface, err = scale.Element(units.Power(orElse(b.HeaterW, math.NaN()))); err != nil {
			return nil, err
		}
	}
	share := orElse(b.Share, 1)
	var rate units.Reading
	switch {
	case b.CcppMgL != nil && b.FeedMgLCaco3 == nil:
		ccpp, err := readingIn("ccpp_mg_l", b.CcppMgL)
		if err != nil {
			return nil, err
		}
		through, reached := units.Litres(b.LitresADay), units.Sharp(1)
		if b.HoursOn != nil {
			reached = surface.Reached(through, time.Duration(*b.HoursOn*float64(time.Hour)))
		}
		rate = scale.Brew(ccpp, through, reached, share)
	case b.FeedMgLCaco3 != nil && b.LeftMgLCaco3 != nil && b.CcppMgL == nil:
		feed, err := readingIn("feed_mg_l_caco3", b.FeedMgLCaco3)
		if err != nil {
			return nil, err
		}
		left, err := readingIn("left_mg_l_caco3", b.LeftMgLCaco3)
		if err != nil {
			return nil, err
		}
		rate = scale.Steam(feed, left, units.Litres(b.LitresADay), units.Litres(orElse(b.DrawnOffLDay, 0)), share)
	default:
		return nil, &units.OutOfRange{
			Field:   "ccpp_mg_l",
			Value:   "nothing that can be used",
			Allowed: "ccpp_mg_l alone for a brew circuit, or feed_mg_l_caco3 and left_mg_l_caco3 for a steam boiler",
		}
	}
	d, err := surface.Grows(rate)
	if err != nil {
		return nil, err
	}
	out := ScaleAnswers{
		MgADay:  readingOut(rate),
		Days:    d.Days,
		Inspect: d.Inspect,
		Because: d.Because,
		LimitMm: float64(surface.Limit),
		HoldsG:  float64(surface.Holds()),
	}
	if hot := surface.Hotter(surface.Limit); hot.Known {
		shown := readingOut(hot)
		out.HotterK = &shown
	}
	return CalcScale200JSONResponse(out), nil
}
