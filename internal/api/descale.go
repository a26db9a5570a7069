package api

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"freshanvil/core/circuit"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
	"freshanvil/internal/app"
)

func (s *Server) products(ctx context.Context) (Products, error) {
	own, err := s.App.Products(ctx)
	return Products{Generic: descale.Products(), Own: own}, err
}

// ListProducts are the descalers.
func (s *Server) ListProducts(ctx context.Context, _ ListProductsRequestObject) (ListProductsResponseObject, error) {
	out, err := s.products(ctx)
	return ListProducts200JSONResponse(out), err
}

// AddProduct keeps a descaler as its label says.
func (s *Server) AddProduct(ctx context.Context, r AddProductRequestObject) (AddProductResponseObject, error) {
	if err := s.App.AddProduct(ctx, *r.Body); err != nil {
		return nil, err
	}
	out, err := s.products(ctx)
	return AddProduct201JSONResponse(out), err
}

// ForgetProduct takes one of the user's own away.
func (s *Server) ForgetProduct(
	ctx context.Context,
	r ForgetProductRequestObject,
) (ForgetProductResponseObject, error) {
	if err := s.App.ForgetProduct(ctx, r.ProductId); err != nil {
		return nil, err
	}
	out, err := s.products(ctx)
	return ForgetProduct200JSONResponse(out), err
}

func cardOut(c descale.Card) DescaleCard {
	out := DescaleCard{
		Product:    c.Product,
		Acid:       DescaleCardAcid(c.Product.Main()),
		StrengthGL: float64(c.Strength),
		Solution:   c.Solution,
		Mixed:      c.Mixed,
		Measure:    c.Measure,
		ALitre:     c.ALitre,
		FreshPh:    c.Fresh,
		SlowGL:     float64(c.Limits.Slow),
		Findings:   append([]Finding{}, c.Findings...),
		Because:    c.Because,
		Cautions:   descale.Cautions(),
		Needs:      []DescaleNeed{},
	}
	if !math.IsInf(float64(c.Limits.Cloudy), 1) {
		out.CloudyGL = ptr(float64(c.Limits.Cloudy))
	}
	if c.Ounces.Name != "" {
		out.Ounces = &c.Ounces
	}
	if c.Spoons.Name != "" {
		out.Spoons = &c.Spoons
	}
	for _, n := range c.Needs {
		out.Needs = append(
			out.Needs,
			DescaleNeed{
				Title:    n.Title,
				Count:    n.Count,
				Litre:    float64(n.Litre),
				Heel:     n.Heel,
				Scale:    n.Scale,
				Fill:     n.Fill,
				Strength: n.Strength,
				Takes:    n.Takes,
				Fills:    n.Fills,
				Rinse:    rinseOut(n.Rinse),
			},
		)
	}
	return out
}

func rinseOut(r descale.Rinse) DescaleRinse {
	out := DescaleRinse{Flush: r.Flush, More: r.More, Advice: r.Advice}
	if r.Refills.Name != "" {
		out.Refills = &r.Refills
	}
	return out
}

// CalcDescale is the dose for circuits, or for a layout.
func (s *Server) CalcDescale(_ context.Context, r CalcDescaleRequestObject) (CalcDescaleResponseObject, error) {
	b := r.Body
	id := "citric"
	if b.Product != nil {
		id = *b.Product
	}
	p, err := app.Among(descale.Products(), id)
	if b.Own != nil {
		p, err = *b.Own, nil
	}
	if err != nil {
		return nil, err
	}
	if b.StrengthGL != nil && *b.StrengthGL <= 0 {
		return nil, &units.OutOfRange{Field: "strength_g_l", Value: fmt.Sprint(*b.StrengthGL),
			Allowed: "above 0; left out, as the label says"}
	}
	var c descale.Card
	switch {
	case b.Layout != nil && b.Circuits == nil:
		c, err = layoutCard(p, *b)
	case b.Circuits != nil && b.Layout == nil:
		c, err = descale.Mix(p, units.Strength(orElse(b.StrengthGL, 0)), circuitsIn(*b.Circuits), materialsIn(*b)...)
	default:
		err = &units.OutOfRange{Field: "circuits", Value: "neither or both", Allowed: "circuits, or a layout"}
	}
	if err != nil {
		return nil, err
	}
	return CalcDescale200JSONResponse(cardOut(c)), nil
}

// layoutCard is the dose for a layout as a machine of it usually is, if that is led at all.
func layoutCard(p descale.Product, b CalcDescale) (descale.Card, error) {
	f := machine.Answers{Layout: machine.Layout(*b.Layout)}.Facts()
	touched := materialsIn(b)
	for i, m := range touched {
		if m.OfBoilers() {
			f.BrewMaterial, f.SteamMaterial, touched = string(m), string(m), slices.Delete(touched, i, i+1)
			break
		}
	}
	if err := circuit.Judge(f).Refusal(); err != nil {
		return descale.Card{}, err
	}
	list := descale.Circuits(f, units.Sharp(orElse(b.BrewG, 0)), units.Sharp(orElse(b.SteamG, 0)))
	return descale.MixFor(p, units.Strength(orElse(b.StrengthGL, 0)), f, list, touched...)
}

func circuitsIn(given []DescaleCircuit) (list []descale.Circuit) {
	for _, c := range given {
		grams := orElse(c.Grams, 0)
		list = append(list, descale.Circuit{Title: c.Title, Count: c.Count, Litre: units.Litres(c.Litre),
			Heel:  orElse(c.Heel, 0),
			Grams: units.Mass(grams), High: units.Mass(orElse(c.High, grams))})
	}
	return list
}

func materialsIn(b CalcDescale) (list []descale.Material) {
	if b.Materials != nil {
		for _, m := range *b.Materials {
			list = append(list, descale.Material(m))
		}
	}
	return list
}

// CalcAcid is an acid and what it has taken up.
func (s *Server) CalcAcid(_ context.Context, r CalcAcidRequestObject) (CalcAcidResponseObject, error) {
	b := r.Body
	id, acid := descale.AcidID(b.Acid), units.Strength(b.AcidGL)
	var caco3 units.Strength
	switch {
	case b.Caco3DissolvedGL != nil && b.Ph == nil:
		caco3 = units.Strength(*b.Caco3DissolvedGL)
	case b.Ph != nil && b.Caco3DissolvedGL == nil:
		var err error
		if caco3, err = descale.TakenUp(id, acid, units.PH(*b.Ph)); err != nil {
			return nil, err
		}
	default:
		return nil, &units.OutOfRange{
			Field:   "caco3_dissolved_g_l",
			Value:   "neither or both",
			Allowed: "caco3_dissolved_g_l or ph, one of them",
		}
	}
	now, err := descale.Dissolve(id, acid, caco3)
	if err != nil {
		return nil, err
	}
	fresh, err := descale.Dissolve(id, acid, 0)
	if err != nil {
		return nil, err
	}
	limits, err := descale.LimitsOf(id, acid)
	if err != nil {
		return nil, err
	}
	out := AcidAnswers{Caco3DissolvedGL: float64(caco3), Ph: float64(now.PH), FreshPh: float64(fresh.PH),
		SlowGL: float64(limits.Slow)}
	if b.Ph != nil {
		out.Ph = *b.Ph
	}
	if !math.IsInf(now.Cloudy, -1) {
		out.SiCalciumCitrate = &now.Cloudy
	}
	if !math.IsInf(float64(limits.Cloudy), 1) {
		out.CloudyGL = ptr(float64(limits.Cloudy))
	}
	return CalcAcid200JSONResponse(out), nil
}

// CalcRinse is how much rinse.
func (s *Server) CalcRinse(_ context.Context, r CalcRinseRequestObject) (CalcRinseResponseObject, error) {
	b := r.Body
	heel := orElse(b.Heel, 0)
	rinse, err := descale.RinseOf(units.Litres(b.Litre), heel)
	if err != nil {
		return nil, err
	}
	refills := 0
	if b.Refills != nil {
		refills = *b.Refills
	}
	if refills > 0 && heel == 0 {
		return nil, &units.OutOfRange{
			Field:   "refills",
			Value:   fmt.Sprint(refills),
			Allowed: "0 where there is no heel: it is not drained",
		}
	}
	out := RinseAnswers{
		Rinse: rinseOut(rinse),
		Left:  descale.Left(units.Litres(b.Litre), heel, refills, units.Litres(orElse(b.FlushedL, 0))),
		Limit: descale.Clean,
	}
	if b.FeedPh != nil && b.StripPh != nil {
		again, flush, more := descale.More(units.Litres(b.Litre), heel, units.PH(*b.FeedPh), units.PH(*b.StripPh))
		matches := !again
		out.Matches = &matches
		if again {
			out.MoreFlushL = ptr(float64(flush))
			if more > 0 {
				out.MoreRefills = &more
			}
		}
	}
	return CalcRinse200JSONResponse(out), nil
}

// CalcCooling is when a boiler is cool enough.
func (s *Server) CalcCooling(_ context.Context, r CalcCoolingRequestObject) (CalcCoolingResponseObject, error) {
	b := r.Body
	c := descale.Cooling{From: units.Temperature(b.FromC), Air: units.Temperature(orElse(b.AirC, 22))}
	switch {
	case b.TauH != nil:
		c.Tau = time.Duration(*b.TauH * float64(time.Hour))
	case b.Litre != nil && *b.Litre > 0 && *b.Litre <= 100:
		c.Tau = machine.UsualTau(units.Litres(*b.Litre))
	case b.Readings == nil:
		return nil, &units.OutOfRange{
			Field:   "litre",
			Value:   "nothing that can be used",
			Allowed: "litre above 0 to 100, or tau_h, or two readings",
		}
	}
	if b.Readings != nil {
		list, from := *b.Readings, c.From
		var err error
		c, err = c.Calibrated(hours(list[0].AfterH), hours(list[1].AfterH),
			units.Temperature(list[0].C), units.Temperature(list[1].C))
		if err != nil {
			return nil, err
		}
		c.From = from
	}
	if err := c.Check(); err != nil {
		return nil, err
	}
	out := CoolingAnswers{TauH: c.Tau.Hours(), Opens: c.Opens(b.DualHome != nil && *b.DualHome)}
	for _, t := range touched {
		out.Touch = append(out.Touch, struct {
			AfterH  float64 `json:"after_h"`
			C       float64 `json:"c"`
			Minutes float64 `json:"minutes"`
		}{c.Below(t.at).Hours(), float64(t.at), t.minutes})
	}
	return CalcCooling200JSONResponse(out), nil
}

func spentIn(b CalcSpent) (descale.Spent, error) {
	return descale.Was(
		descale.AcidID(b.Acid),
		units.Strength(b.AcidGL),
		units.PH(b.Ph),
		units.Litres(b.Litres),
		units.Alkalinity(orElse(b.FeedMgLCaco3, 0)),
		b.Strip == nil || *b.Strip,
		b.Cloudy != nil && *b.Cloudy,
	)
}

func spentOut(x descale.Spent) SpentAnswers {
	out := SpentAnswers{Finding: x.Finding, AtLeast: x.AtLeast}
	if x.Grams.Known {
		grams := readingOut(x.Grams)
		out.Grams = &grams
	}
	return out
}

// CalcSpent is how much scale a spent solution has taken up.
func (s *Server) CalcSpent(_ context.Context, r CalcSpentRequestObject) (CalcSpentResponseObject, error) {
	x, err := spentIn(*r.Body)
	return CalcSpent200JSONResponse(spentOut(x)), err
}

// DescaleCard is what a descale of a machine takes, and the sitting as it would be
// led.
func (s *Server) DescaleCard(ctx context.Context, r DescaleCardRequestObject) (DescaleCardResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	now := s.App.Instant()
	m.Answers.Entitled = strings.TrimSpace(orElse(r.Params.Entitled, "")) != ""
	d, err := s.App.Scale(ctx, m, now)
	if err != nil {
		return nil, err
	}
	f := m.Answers.Facts()
	cool, err := descale.CoolingOf(f)
	if err != nil {
		return nil, err
	}
	opens := cool.Opens(f.Layout == machine.DualHome)
	out := MachineDescale{
		MachineId:   m.ID,
		Version:     m.Version,
		MachineName: m.Name,
		Zone:        m.Zone.String(),
		Way:         MachineDescaleWay(d.Suits.Way),
		Verdict:     d.Suits.Finding,
		Opens:       opens,
		OpensBelowC: float64(descale.SafeToDrain),
		AirC:        float64(cool.Air),
		OpensAt: now.Add(
			time.Duration(opens.Value * float64(time.Hour)),
		),
		Due:   dueOut(d.Due, f.Groups, now),
		Share: 1,
		Spent: []SpentShown{},
	}
	out.ByEntitled = ptr(m.Answers.Layout.Commercial())
	out.Instead, out.Programs = offersOut(d.Descaling, f)
	out.Asks = slices.DeleteFunc(factsOut(m.Answers), func(f Fact) bool { return !slices.Contains(d.Suits.Asks, f.Key) })
	if share := d.History.ShareAt(now); share > 0 {
		out.Share = share
	}
	if err := s.standsOf(ctx, m.ID, &out); err != nil {
		return nil, err
	}
	in, err := s.App.Inside(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	p := r.Params
	a := app.Asked{
		Program:  orElse(p.Program, ""),
		Product:  orElse(p.Product, "citric"),
		Strength: p.StrengthGL,
		Renew:    orElse(p.Renew, false),
		Wash:     orElse(p.Wash, false),
	}
	sit, err := s.App.Sitting(ctx, m, d, a, in, now)
	var no *reason.Refusal
	if errors.As(err, &no) {
		out.Refused = &no.Finding
		return DescaleCard200JSONResponse(out), nil
	}
	if err != nil {
		return nil, err
	}
	if task, any := job.Renews(sit.Setting); any && job.RenewsBeside(sit.Setting) {
		out.Renews = ptr(MachineDescaleRenews(task))
	}
	out.Washable = d.History.Choice.Settled(m.Answers).Method != ""
	shown := cardOut(sit.Card)
	if f, any := d.Unknown(); any {
		shown.Findings = append([]Finding{f}, shown.Findings...)
	}
	if len(out.Programs) == 0 && !sit.Dirty { // not for whoever keeps it: no dose is shown
		return DescaleCard200JSONResponse(out), nil
	}
	out.Card = &shown
	plan, err := s.App.DescalePlan(ctx, m, d, sit, a)
	if err == nil {
		out.Jug = jugAsked(m.Answers, plan)
	}
	err = s.putPlan(&out, plan, err, sit, now)
	return DescaleCard200JSONResponse(out), err
}

// putPlan puts the plan on the card, or why there is none.
func (s *Server) putPlan(out *MachineDescale, plan job.Plan, err error, sit job.Sitting, now time.Time) error {
	var no *reason.Refusal
	switch {
	case errors.As(err, &no) && !sit.Dirty && job.NeverLed(no):
		out.Refused, out.Card = &no.Finding, nil // a dose that nobody is led through is not shown
	case errors.As(err, &no):
		out.Unready = &no.Finding
	case err != nil:
		return err
	default:
		shown := out.Card
		if opens, below, cools := plan.Cooling(); cools { // a machine whose pump heats begins colder
			out.Opens, out.OpensBelowC = opens, below
			out.OpensAt = now.Add(time.Duration(opens.Value * float64(time.Hour)))
		}
		cleared, _ := s.App.Cleared(plan)
		if out.Plan = descalePlanOut(plan, cleared, now); out.Plan.Solution != nil { // with what stays in the tank
			d := plan.Descaling().Descale
			shown.Measure, shown.Solution = d.Measure, d.Solution
			shown.Mixed = sit.Card.Product.MakesUp(d.Measure, sit.Card.ALitre, d.Solution)
			if shown.Spoons != nil {
				shown.Spoons = &d.Spoons
			}
		}
	}
	return nil
}

// standsOf is what spent solutions have said of a machine, and the run that is open on it.
func (s *Server) standsOf(ctx context.Context, id string, out *MachineDescale) error {
	shares, err := s.App.Shares(ctx, id)
	if err != nil {
		return err
	}
	for _, x := range shares {
		out.Spent = append(out.Spent, SpentShown{Id: x.ID, At: x.At, Share: x.Worked})
	}
	open, err := s.App.OpenRuns(ctx, id)
	for _, o := range open {
		if slices.Contains(o.Machines, id) {
			out.OpenRun = &o.ID
		}
	}
	return err
}

// AddSpent keeps what a spent solution said.
func (s *Server) AddSpent(ctx context.Context, r AddSpentRequestObject) (AddSpentResponseObject, error) {
	if _, err := s.App.Find(ctx, r.MachineId); err != nil {
		return nil, err
	}
	x, err := spentIn(r.Body.Reading)
	if err != nil {
		return nil, under("reading", err)
	}
	out := spentOut(x)
	if !x.Grams.Known {
		return AddSpent201JSONResponse(out), nil
	}
	taught, err := s.App.AddSpent(ctx, r.Body.Id, r.MachineId, r.Body, x)
	out.PredictedG, out.Share = ptr(float64(taught.Predicted)), taught.Share
	return AddSpent201JSONResponse(out), err
}

// ForgetSpent takes it back.
func (s *Server) ForgetSpent(ctx context.Context, r ForgetSpentRequestObject) (ForgetSpentResponseObject, error) {
	if err := s.App.ForgetSpent(ctx, r.MachineId, r.SpentId); err != nil {
		return nil, err
	}
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	now := s.App.Instant()
	h, err := s.App.History(ctx, m, now)
	out := ShareNow{Share: 1}
	if share := h.ShareAt(now); share > 0 {
		out.Share = share
	}
	return ForgetSpent200JSONResponse(out), err
}
