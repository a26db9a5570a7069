package api

import (
	"context"

	"freshanvil/core/sitting"
)

// GetMachineCard is the beats of a machine on a card of four sides.
func (s *Server) GetMachineCard(ctx context.Context, r GetMachineCardRequestObject) (GetMachineCardResponseObject,
	error) {
	c, err := s.App.BeatsOf(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	m := c.Machine
	out := MachineCard{MachineName: m.Name, Owner: m.Owner, Place: m.Place, LayoutTitle: m.Answers.Layout.Title(),
		Zone: m.Zone.String(), BaseDays: c.Base, Every: c.Says(), Sides: make([]CardSide, len(c.Sides)),
		Rounds: make([]CardSeldom, len(c.Rounds)), Daily: orNone(c.Daily)}
	if r := requestOf(ctx); r != nil && !loopback(r.Host) { // a phone would find nothing at the address of this machine
		address := s.originOf(ctx) + "/machines/" + m.ID
		rows, err := qrRows(address)
		if err != nil {
			return nil, err
		}
		out.Address, out.Qr = &address, &rows
	}
	for i, side := range c.Sides {
		of := sitting.Sitting{}
		out.Sides[i] = CardSide{Tasks: make([]CardTask, len(side)), LayOut: orNone(c.LayOut[i])}
		for j, x := range side {
			of.Members = append(of.Members, sitting.Member{Item: x})
			out.Sides[i].Tasks[j] = CardTask{Task: x.Task, Part: x.Part, Title: x.Title}
		}
		out.Sides[i].Minutes = of.Takes()
	}
	for i, x := range c.Rounds {
		out.Rounds[i] = CardSeldom{Task: x.Task, Part: x.Part, Title: x.Title, Rounds: x.Every, Every: x.Says(c.Card)}
	}
	if c.Next != nil {
		out.NextAt, out.Next = ptr(on(s.App.Instant(), c.Next.Day)), ptr(c.Next.Head())
	}
	return GetMachineCard200JSONResponse(out), nil
}
