package app

import (
	"context"
	"slices"

	"freshanvil/core/care"
	"freshanvil/core/sitting"
	"freshanvil/internal/store"
)

// BeatCard is a machine's own beats on a card, and what comes next.
type BeatCard struct {
	sitting.Card
	Machine store.Machine
	LayOut  [][]string // of each side: tools, parts and what is measured out
	Daily   []string
	Next    *sitting.Sitting
}

// BeatsOf puts the beats of a machine on a card.
func (a *App) BeatsOf(ctx context.Context, machineID string) (c BeatCard, err error) {
	if c.Machine, err = find(ctx, a.store, machineID); err != nil {
		return c, err
	}
	m, now := c.Machine, a.now()
	h, err := a.History(ctx, m, now)
	if err != nil {
		return c, err
	}
	list, _ := care.Standings(m.Answers, h, now, m.Zone)
	placed, err := a.store.Placings(ctx, m.ID)
	if err != nil {
		return c, err
	}
	items := sitting.ItemsOf(list, now, placed[m.ID]...)
	c.Card = sitting.CardOf(items)
	if next := sitting.Together(items); len(next) > 0 {
		c.Next = &next[0]
	}
	c.Daily = care.EachDay(m.Answers, list)
	in, err := a.Inside(ctx, m.ID)
	if err != nil {
		return c, err
	}
	for _, side := range c.Sides {
		var lay []string
		s := sitting.Sitting{}
		for _, i := range side {
			s.Members = append(s.Members, sitting.Member{Item: i})
		}
		if wants := s.Wants(); len(wants) > 0 {
			composed, err := a.composed(ctx, m, wants, How{}, in, now)
			if _, known := whyNot(err); err != nil && !known {
				return c, err
			}
			if err == nil {
				lay = composed.Plan.LayOut()
			}
		}
		c.LayOut = append(c.LayOut, slices.Clip(lay))
	}
	return c, nil
}
