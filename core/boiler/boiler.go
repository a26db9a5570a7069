// Package boiler knows what happens in a steam boiler: the temperature that
// belongs to a gauge, the steam a drink takes, how salts concentrate and what
// drawing off does about it.
//
// It does not know the chemistry of the water (package water) nor what falls
// out of it (package scale).
package boiler

import (
	"fmt"
	"math"

	"freshanvil/core/units"
)

// coefficients of IAPWS-IF97 region 4 (International Association for the
// Properties of Water and Steam, Revised Release on the Industrial Formulation
// 1997, table 34)
var region4 = [...]float64{0,
	0.11670521452767e4, -0.72421316703206e6, -0.17073846940092e2, 0.12020824702470e5, -0.32325550322333e7,
	0.14915108613530e2, -0.48232657361591e4, 0.40511340542057e6, -0.23855557567849, 0.65017534844798e3}

// Hottest is the highest temperature computed, °C: far above any relief valve.
const Hottest = 250.0

// Saturated is the gauge pressure at which water boils at a temperature; below
// 0 where it boils under vacuum. Range 0 to 250 °C; else *units.OutOfRange.
// Source: IAPWS-IF97 region 4, equation 30.
func Saturated(t units.Temperature) (units.Pressure, error) {
	if !(t >= 0 && t <= Hottest) {
		return 0, &units.OutOfRange{
			Field:   "temperature",
			Value:   fmt.Sprint(float64(t)),
			Allowed: fmt.Sprintf("0 to %g °C", Hottest),
		}
	}
	n := region4
	kelvin := float64(t) + units.KelvinZero
	theta := kelvin + n[9]/(kelvin-n[10])
	a := theta*theta + n[1]*theta + n[2]
	b := n[3]*theta*theta + n[4]*theta + n[5]
	c := n[6]*theta*theta + n[7]*theta + n[8]
	root := 2 * c / (-b + math.Sqrt(b*b-4*a*c))
	return units.Pressure(10*math.Pow(root, 4) - units.Atmosphere), nil
}

// Boils is the temperature at which water boils under a gauge pressure, from
// just above vacuum to 38 bar; else *units.OutOfRange. Source: IAPWS-IF97
// region 4, equation 31.
func Boils(p units.Pressure) (units.Temperature, error) {
	if !(p > -units.Atmosphere+0.006112 && p <= 38) {
		return 0, &units.OutOfRange{Field: "gauge_bar", Value: fmt.Sprint(float64(p)), Allowed: "-1 to 38 bar"}
	}
	n := region4
	beta := math.Pow((float64(p)+units.Atmosphere)/10, 0.25)
	e := beta*beta + n[3]*beta + n[6]
	f := n[1]*beta*beta + n[4]*beta + n[7]
	g := n[2]*beta*beta + n[5]*beta + n[8]
	d := 2 * g / (-f - math.Sqrt(f*f-4*e*g))
	return units.Temperature((n[10]+d-math.Sqrt((n[10]+d)*(n[10]+d)-4*(n[9]+n[10]*d)))/2 - units.KelvinZero), nil
}

// Latent is the heat of evaporation at a temperature, kJ/kg: Watson's relation
// through 2256.54 at 99.97 °C with exponent 0.321 (our own fit, within 0.2 %
// of IAPWS-IF97 from 100 to 152 °C).
func Latent(t units.Temperature) float64 {
	const critical, at, heat = 647.096, 373.1243, 2256.54
	return heat * math.Pow((1-(float64(t)+units.KelvinZero)/critical)/(1-at/critical), 0.321)
}

// Milk is what a milk drink asks of the steam boiler.
type Milk struct {
	Mass     units.Mass
	From, To units.Temperature
	Purge    units.Mass // of steam, before and after
}

// milkHeat is the specific heat of milk, kJ/(kg K) (handbook value, from memory).
const milkHeat = 3.93

// SteamFor is the steam one milk drink takes, in grams, its purge too: the heat
// the milk takes up over what a gram of steam gives as it condenses and cools to
// the milk's end. Bad input is *units.OutOfRange.
func SteamFor(m Milk, gauge units.Pressure) (units.Mass, error) {
	hot, err := Boils(gauge)
	if err != nil {
		return 0, err
	}
	switch {
	case !(m.Mass >= 0 && m.Mass <= 5000):
		return 0, &units.OutOfRange{Field: "milk_g", Value: fmt.Sprint(float64(m.Mass)), Allowed: "0 to 5000 g"}
	case !(m.From >= 0 && m.To >= m.From && m.To < 100 && m.To < hot):
		return 0, &units.OutOfRange{
			Field:   "milk_to_c",
			Value:   fmt.Sprint(float64(m.To)),
			Allowed: "from the temperature of the cold milk to below 100 °C and below the steam's",
		}
	case !(m.Purge >= 0 && m.Purge <= 200):
		return 0, &units.OutOfRange{Field: "purge_g", Value: fmt.Sprint(float64(m.Purge)), Allowed: "0 to 200 g"}
	}
	takes := milkHeat * float64(m.To-m.From)                   // kJ a kg of milk
	gives := Latent(hot) + units.HeatOfWater*float64(hot-m.To) // kJ a kg of steam
	return m.Mass*units.Mass(takes/gives) + m.Purge, nil
}

// Cycles is how many times the feed's salts are concentrated where so much is
// made up and so much drawn off, both litres a day; with nothing drawn off there
// is no end to it. Source: boiler-water handbooks.
func Cycles(makeUp, drawnOff units.Litres) float64 { return float64(makeUp / drawnOff) }

// DrawOff is the water to draw off for so many cycles at so much steam, both over the same
// time: steam ÷ (cycles − 1). Cycles must be above 1. Source: boiler-water
// handbooks, where it is written F S ÷ (B − F).
func DrawOff(steam units.Litres, cycles float64) (units.Litres, error) {
	if !(cycles > 1) || !(steam >= 0) || math.IsInf(float64(steam), 0) {
		return 0, &units.OutOfRange{
			Field:   "cycles",
			Value:   fmt.Sprint(cycles),
			Allowed: "above 1, with steam of 0 or more",
		}
	}
	return steam / units.Litres(cycles-1), nil
}

// Concentration is how many times the feed a boiler of so many litres has
// concentrated after a time, begun as feed: steam and drawn-off litres a day.
func Concentration(boiler, steam, drawnOff units.Litres, days float64) (float64, error) {
	if !(boiler > 0) || !(steam >= 0) || !(drawnOff >= 0) || !(days >= 0) {
		return 0, &units.OutOfRange{
			Field:   "boiler_l",
			Value:   fmt.Sprint(float64(boiler)),
			Allowed: "above 0, with steam, drawn-off water and days of 0 or more",
		}
	}
	if drawnOff == 0 {
		return 1 + float64(steam/boiler)*days, nil
	}
	most := float64((steam + drawnOff) / drawnOff)
	return most - (most-1)*math.Exp(-float64(drawnOff/boiler)*days), nil
}

// Emptied is the concentration after a boiler was emptied to a heel and filled
// with feed: 1 + heel (C − 1).
func Emptied(concentration, heel float64) float64 { return 1 + heel*(concentration-1) }

// The most that is drawn at once, so that the element stays covered: a quarter
// of the boiler, and 1.8 L (our own engineering choices).
const (
	mostShare              = 0.25
	mostDraw  units.Litres = 1.8
)

// WellRenewed is the share of a boiler after which its water counts as renewed (our own
// engineering choice).
const WellRenewed = 0.95

// Turnover is what n draws of so many litres renew of a boiler, refilled
// between: 1 − (1 − V ÷ Vb)^n.
func Turnover(boiler, draw units.Litres, n int) float64 {
	return 1 - math.Pow(float64(1-draw/boiler), float64(n))
}

// Draws is the largest safe draw of a boiler, and how many of them it
// takes to renew a share of it.
func Draws(boiler units.Litres, share float64) (draw units.Litres, n int, err error) {
	if !(boiler > 0 && boiler <= 100) {
		return 0, 0, &units.OutOfRange{Field: "boiler_l", Value: fmt.Sprint(float64(boiler)), Allowed: "above 0, to 100 L"}
	}
	if !(share > 0 && share < 1) {
		return 0, 0, &units.OutOfRange{Field: "share", Value: fmt.Sprint(share), Allowed: "above 0, below 1"}
	}
	draw = min(mostShare*boiler, mostDraw)
	return draw, int(math.Ceil(math.Log(1-share)/math.Log(float64(1-draw/boiler)) - 1e-9)), nil
}
