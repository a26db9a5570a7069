package api

import (
	"context"
	"errors"
	"math"
	"time"

	"github.com/oapi-codegen/runtime/types"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/reason"
	"freshanvil/core/supply"
	"freshanvil/internal/app"
)

// GetMix is the dose card of a machine.
func (s *Server) GetMix(ctx context.Context, r GetMixRequestObject) (GetMixResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	f := m.Answers.Facts()
	in, err := s.App.Detergent(ctx)
	if err != nil {
		return nil, err
	}
	out := GetMix200JSONResponse{
		MachineId:   m.ID,
		MachineName: m.Name,
		Zone:        m.Zone.String(),
		Groups:      f.Groups,
		Gate:        backflush.Gate(f),
		Why:         []reason.Reason{},
		Cautions:    job.DetergentCautions(),
	}
	soak, err := backflush.SoakDose(in)
	if err != nil {
		return nil, err
	}
	out.Soak, out.SoakWhy = *doseOut(&soak), backflush.SoakBath(f.Handle)
	dose := soak
	if out.Gate.Verdict != reason.Refused {
		h, err := s.App.History(ctx, m, s.App.Instant())
		if err != nil {
			return nil, err
		}
		method, err := h.Choice.Settled(m.Answers).By()
		if err != nil {
			return nil, err
		}
		if dose, err = backflush.DoseFor(method, in); err != nil {
			return nil, err
		}
		all := dose.ForGroups(f.Groups)
		out.Dose, out.InAll = doseOut(&dose), &all
		out.Why = dose.Because(method)
	}
	t, err := s.App.Tub(ctx)
	if errors.Is(err, app.ErrNotFound) {
		return out, nil
	}
	if err != nil {
		return nil, err
	}
	needs, err := s.needs(ctx, in)
	if err != nil {
		return nil, err
	}
	now := s.App.Instant()
	if dose.Form != t.Form {
		dose = soak // the tub's own measure: this machine's method takes tablets
	}
	o := t.Look(t.Used, dose.Amount(), needs)
	look := Outlook{Left: o.Left, Washes: o.Washes, FullShare: math.Min(1, o.Left.Value/t.Holds)}
	if o.Uses {
		empty := now.Add(time.Duration(o.Days.Value * 24 * float64(time.Hour)))
		look.Days, look.EmptyAt = &o.Days, &empty
	}
	if o.Wash.Name != "" {
		look.Price = &o.Wash
	}
	fresh := t.Freshness(t.Tests, now)
	tub := tubOut(t.ID, t.Tub)
	out.Tub, out.Outlook, out.Freshness = &tub, &look, &fresh
	return out, nil
}

// needs is what every machine in use takes out of the tub.
func (s *Server) needs(ctx context.Context, in backflush.Detergent) ([]supply.Need, error) {
	list, err := s.App.Machines(ctx, false)
	if err != nil {
		return nil, err
	}
	var needs []supply.Need
	for _, m := range list {
		c, err := s.App.Choice(ctx, m)
		if err != nil {
			return nil, err
		}
		method, err := c.By()
		if err != nil {
			continue // cleaned by hand: takes none
		}
		dose, err := backflush.DoseFor(method, in)
		if err != nil {
			return nil, err
		}
		if dose.Form == in.Form { // a tablet does not come out of a tub of powder
			needs = append(needs, supply.Need{Machine: m.Name, PerDay: care.PerDay(m.Answers, c), Dose: dose.Amount()})
		}
	}
	return needs, nil
}

func tubOut(id string, t supply.Tub) Tub {
	return Tub{
		Id:         id,
		Form:       TubForm(t.Form),
		Amount:     t.Amount,
		Holds:      t.Holds,
		PowderGTsp: &t.GramTsp,
		Opened:     types.Date{Time: t.Opened},
		Price:      &t.Price,
	}
}

// SayTub keeps a new word about the tub.
func (s *Server) SayTub(ctx context.Context, r SayTubRequestObject) (SayTubResponseObject, error) {
	b := r.Body
	t := supply.Tub{Form: backflush.Form(b.Form), Amount: b.Amount, Holds: b.Holds, GramTsp: 6, Opened: b.Opened.Time}
	if b.PowderGTsp != nil {
		t.GramTsp = *b.PowderGTsp
	}
	if b.Price != nil {
		t.Price = *b.Price
	}
	if err := s.App.SayTub(ctx, b.Id, t); err != nil {
		return nil, err
	}
	return SayTub201JSONResponse(tubOut(b.Id, t)), nil
}

// TestFoam keeps a foam test and says what it means.
func (s *Server) TestFoam(ctx context.Context, r TestFoamRequestObject) (TestFoamResponseObject, error) {
	if err := s.App.TestFoam(ctx, r.Body.Id, r.TubId, r.Body.Foams); err != nil {
		return nil, err
	}
	t, err := s.App.Tub(ctx)
	return TestFoam201JSONResponse(t.Freshness(t.Tests, s.App.Instant())), err
}

// GetPreferences is how numbers are written.
func (s *Server) GetPreferences(
	ctx context.Context,
	_ GetPreferencesRequestObject,
) (GetPreferencesResponseObject, error) {
	p, err := s.App.Preferences(ctx)
	return GetPreferences200JSONResponse{Units: PreferencesUnits(p.Units), Hardness: PreferencesHardness(p.Hardness),
		Currency: p.Currency, Clock: PreferencesClock(p.Clock)}, err
}

// SetPreferences keeps how numbers are written.
func (s *Server) SetPreferences(
	ctx context.Context,
	r SetPreferencesRequestObject,
) (SetPreferencesResponseObject, error) {
	b := r.Body
	return SetPreferences200JSONResponse(*b), s.App.SetPreferences(ctx, app.Preferences{Units: string(b.Units),
		Hardness: string(b.Hardness), Currency: b.Currency, Clock: string(b.Clock)})
}
