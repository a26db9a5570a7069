package app

import (
	"fmt"

	"freshanvil/core/backflush"
	"freshanvil/core/inspect"
	"freshanvil/core/photo"
)

// PhotoCup is what a photo of a cup is nearest to, and what that proposes for a look.
type PhotoCup struct {
	photo.Cup
	Says              string
	AsCup, AsFirstOut inspect.Verdict
}

// JudgeCup looks at a photo of a cup, and keeps nothing of it. What cannot be judged is a *reason.Refusal.
func JudgeCup(data []byte) (p PhotoCup, err error) {
	img, err := photo.Decode(data)
	if err != nil {
		return p, err
	}
	if p.Cup, err = photo.JudgeCup(img); err != nil {
		return p, err
	}
	p.Says = fmt.Sprintf("Nearest to %s, %s", p.Colour, sureWords[p.Sure])
	if p.Sure == photo.Between {
		p.Says = fmt.Sprintf("Between %s and %s: look yourself", p.Colour, p.Or)
	}
	switch p.Counted {
	case -1:
		p.Says += ". Too dark to count grains."
	case 1:
		p.Says += ". One grain."
	default:
		p.Says += fmt.Sprintf(". %d grains.", p.Counted)
	}
	p.AsFirstOut = map[backflush.Colour]inspect.Verdict{backflush.ColourClear: inspect.Clear,
		backflush.ColourPale: inspect.Pale, backflush.ColourBrown: inspect.Brown,
		backflush.ColourDark: inspect.Dark}[p.Colour]
	switch {
	case p.Colour != backflush.ColourClear:
		p.AsCup = inspect.Brown
	case p.Grains == backflush.GrainsSome || p.Grains == backflush.GrainsMany:
		p.AsCup = inspect.Grainy
	default:
		p.AsCup = inspect.Clear
	}
	return p, nil
}

var sureWords = map[photo.Sure]string{photo.FairlySure: "fairly sure", photo.Likely: "likely"}

// PhotoStrip is what a pad of a strip is nearest to on its own chart.
type PhotoStrip struct {
	photo.Strip
	Says string
}

// JudgeStrip looks at a photo of a strip beside its chart, and keeps nothing of it.
func JudgeStrip(data []byte, white, pad photo.Point, chart []photo.Patch) (p PhotoStrip, err error) {
	img, err := photo.Decode(data)
	if err != nil {
		return p, err
	}
	if p.Strip, err = photo.JudgeStrip(img, white, pad, chart); err != nil {
		return p, err
	}
	p.Says = fmt.Sprintf("Nearest to %g, %s.", p.Value, sureWords[p.Sure])
	if p.Sure == photo.Between {
		p.Says = fmt.Sprintf("Nearest to %g, but not by far: look yourself.", p.Value)
	}
	if p.Low < p.High {
		p.Says = fmt.Sprintf("Between %g and %g.", p.Low, p.High)
	}
	return p, nil
}
