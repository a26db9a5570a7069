package store

import (
	"encoding/json"
	"fmt"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/inspect"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// planVersion is the form in which plans are kept now. An open run of an older one
// cannot go on: it is ended when the database is opened (upgrade.go). Raise it when a
// plan of the form before would be read otherwise, or not at all.
const planVersion = 5

// The forms below are how a plan is kept. They are types of their own, so that core
// and the contract may change their names without changing what is on disk; a
// conversion that no longer compiles asks for a thought about the version.
type (
	planForm struct {
		Version    int            `json:"version"`
		Setups     []setupForm    `json:"setups"`
		Plant      *plantForm     `json:"plant,omitempty"` // of a wash; a descale has its own
		Cold       bool           `json:"cold,omitempty"`
		LaidUp     bool           `json:"laid_up,omitempty"`
		StandDown  bool           `json:"stand_down,omitempty"`
		AsksFound  bool           `json:"asks_found,omitempty"`
		Activities []activityForm `json:"activities"`
		Steps      []stepForm     `json:"steps"` // in their order
		Minutes    workedForm     `json:"minutes"`
		TankUses   workedForm     `json:"tank_uses"`
		TrayGets   workedForm     `json:"tray_gets"`
	}
	dutyForm struct {
		On  time.Duration `json:"on_ns"`
		Off time.Duration `json:"off_ns"`
	}
	setupForm struct {
		Begin string       `json:"begin"`
		Vents units.Volume `json:"vents_ml"`
		Flow  units.Flow   `json:"flow_ml_s"`
		Tray  units.Volume `json:"tray_ml"`
		Tank  units.Volume `json:"tank_ml"`
		Duty  dutyForm     `json:"duty"`
		Blind string       `json:"blind,omitempty"`
	}
	activityForm struct {
		ID      string         `json:"id"`
		Setup   int            `json:"setup"`
		Task    task.ID        `json:"task"`
		Part    machine.Part   `json:"part"`
		Title   string         `json:"title"`
		Takes   []job.Resource `json:"takes"`
		Wash    *washForm      `json:"wash,omitempty"`
		Descale *descaleForm   `json:"descale,omitempty"`
		// since parts are cared for in runs
		Cares  []string        `json:"cares,omitempty"`
		Looks  []inspect.Sight `json:"looks,omitempty"`
		Uses   *doseForm       `json:"uses,omitempty"`
		By     string          `json:"by,omitempty"`
		Before *believedForm   `json:"before,omitempty"`
	}
	washForm struct {
		Method backflush.MethodID `json:"method"`
		Dose   *doseForm          `json:"dose,omitempty"`
		Rinse  rinseForm          `json:"rinse"`
		More   pulsesForm         `json:"more"`
		Dirty  bool               `json:"dirty"`
		Gone   float64            `json:"gone"`
		Blind  int                `json:"blind"`
		// since a wash ends with the outside wiped
		Soapy   int        `json:"soapy,omitempty"`
		Named   string     `json:"named,omitempty"`
		Left    units.Mass `json:"left_g,omitempty"`
		Morning bool       `json:"morning,omitempty"`
	}
	doseForm struct {
		Form    backflush.Form `json:"form"`
		Mass    workedForm     `json:"mass"`
		Spoon   spoonForm      `json:"spoon"`
		Tablets int            `json:"tablets"`
		Pinch   bool           `json:"pinch"`
		Asked   units.Mass     `json:"asked_g"`
	}
	spoonForm struct {
		Whole int `json:"whole"`
		Num   int `json:"num"`
		Den   int `json:"den"`
	}
	rinseForm struct {
		Least   int          `json:"least"`
		Method  int          `json:"method"`
		Model   workedForm   `json:"model"`
		Shown   workedForm   `json:"shown"`
		Residue workedForm   `json:"residue"`
		Because []reasonForm `json:"because"`
	}
	pulsesForm struct {
		On    time.Duration `json:"on_ns"`
		Off   time.Duration `json:"off_ns"`
		Count int           `json:"count"`
	}
	stepForm struct {
		ID       string        `json:"id"`
		Activity string        `json:"activity"`
		Lane     job.Lane      `json:"lane"`
		After    []string      `json:"after"`
		Part     machine.Part  `json:"part"`
		Title    string        `json:"title"`
		Head     string        `json:"head"`
		Do       []string      `json:"do"`
		Button   string        `json:"button"`
		Cautions []cautionForm `json:"cautions"`
		Effect   job.Effect    `json:"effect,omitempty"`
		Takes    time.Duration `json:"takes_ns"`
		Phase    job.Phase     `json:"phase,omitempty"`
		Round    int           `json:"round,omitempty"`
		Kind     job.StepKind  `json:"kind"`
		Body     bodyForm      `json:"body"`
		Picture  job.Picture   `json:"picture,omitempty"`
		Acts     []actionForm  `json:"acts,omitempty"`
	}
	// bodyForm holds what any of the kinds is made of; Kind says which fields count.
	bodyForm struct {
		Flushes units.Volume  `json:"flushes_ml,omitempty"`
		Draws   units.Volume  `json:"draws_ml,omitempty"`
		Time    *workedForm   `json:"time,omitempty"`
		Measure *workedForm   `json:"measure,omitempty"`
		Water   *workedForm   `json:"water,omitempty"`
		Pulses  *pulsesForm   `json:"pulses,omitempty"`
		For     time.Duration `json:"for_ns,omitempty"`
		Acid    bool          `json:"acid,omitempty"`
		To      string        `json:"to,omitempty"`
		Litres  units.Litres  `json:"litres,omitempty"`
		Count   int           `json:"count,omitempty"`
		On      time.Duration `json:"on_ns,omitempty"`
		Runs    time.Duration `json:"runs_ns,omitempty"`
		Does    []actionForm  `json:"does,omitempty"`
		Read    []actionForm  `json:"read,omitempty"`
		Outlet  string        `json:"outlet,omitempty"`
		Last    bool          `json:"last,omitempty"`
		Early   bool          `json:"early,omitempty"`
		Ends    string        `json:"ends,omitempty"`
		Soapy   int           `json:"soapy,omitempty"`
		Lets    units.Volume  `json:"lets_ml,omitempty"`
		At      job.Sight     `json:"at,omitempty"`
		Ways    []wayForm     `json:"ways,omitempty"`
		Sight   inspect.Sight `json:"sight,omitempty"`
		Reads   job.Reads     `json:"reads,omitempty"`
		Circuit *machine.Part `json:"circuit,omitempty"`
	}
	wayForm struct {
		Answer job.Answer   `json:"answer"`
		Text   string       `json:"text"`
		Tries  [][]stepForm `json:"tries,omitempty"`
		Stop   *findingForm `json:"stop,omitempty"`
		Marks  job.Mark     `json:"marks,omitempty"`
	}
	descaleForm struct {
		Program  descale.ProgramID `json:"program"`
		Title    string            `json:"title"`
		Product  string            `json:"product"`
		Acid     descale.AcidID    `json:"acid"`
		Strength units.Strength    `json:"strength_g_l"`
		Measure  workedForm        `json:"measure"`
		Solution workedForm        `json:"solution"`
		Spoons   workedForm        `json:"spoons"`
		Contact  time.Duration     `json:"contact_ns"`
		Planned  time.Duration     `json:"planned_ns"`
		FeedAlk  units.Alkalinity  `json:"feed_alk_mg_l"`
		Known    bool              `json:"known"`
		Share    float64           `json:"share"`
		Exit     time.Duration     `json:"exit_ns"`
		Costs    []time.Duration   `json:"costs_ns"`
		FeedPH   units.PH          `json:"feed_ph"`
		Circuits []circuitForm     `json:"circuits"`
		Plant    plantForm         `json:"plant"`
		Rounds   int               `json:"rounds"`
		Dirty    bool              `json:"dirty"`
		Filtered bool              `json:"filtered"`
		Tubs     int               `json:"tubs"`
		Catches  int               `json:"catches"`
		Left     units.Mass        `json:"left_g"`
		Findings []findingForm     `json:"findings"`
	}
	circuitForm struct {
		Part    machine.Part `json:"part"`
		Title   string       `json:"title"`
		Working units.Litres `json:"working_l"`
		Drained bool         `json:"drained"`
		Least   workedForm   `json:"least"`
		Outlets []outletForm `json:"outlets"`
		Firsts  []outletForm `json:"firsts"`
		Scale   units.Mass   `json:"scale_g"`
	}
	outletForm struct {
		ID    string     `json:"id"`
		Title string     `json:"title"`
		More  []stepForm `json:"more"`
	}
	actionForm struct {
		Verb   plant.Verb `json:"verb"`
		What   string     `json:"what,omitempty"`
		Amount float64    `json:"amount,omitempty"`
	}
	plantForm struct {
		Vessels   []vesselForm   `json:"vessels"`
		Openings  []openingForm  `json:"openings"`
		Loose     []looseForm    `json:"loose,omitempty"`
		Flow      float64        `json:"flow_l_s"`
		Duty      dutyForm       `json:"duty"`
		PumpsCold machine.Answer `json:"pumps_cold"`
		HasPump   bool           `json:"has_pump"`
		Mains     bool           `json:"mains"`
		Room      float64        `json:"room_c"`
		Feed      float64        `json:"feed_c"`
		Takes     float64        `json:"takes_g_l"`
		Contact   float64        `json:"contact_s"`
		Limit     float64        `json:"limit"`
		Least     time.Duration  `json:"least_ns"`
	}
	vesselForm struct {
		ID       string             `json:"id"`
		Title    string             `json:"title"`
		Kind     plant.Kind         `json:"kind"`
		Capacity float64            `json:"capacity_l"`
		Working  float64            `json:"working_l"`
		Heel     float64            `json:"heel"`
		Covered  float64            `json:"covered_l"`
		Watts    float64            `json:"watts"`
		Set      float64            `json:"set_c"`
		Heater   machine.HeaterFact `json:"heater"`
		Metal    float64            `json:"metal_kg"`
		Tau      float64            `json:"tau_s"`
		Body     int                `json:"body"`
		Probe    bool               `json:"probe"`
		Area     float64            `json:"area_m2"`
		Scale    float64            `json:"scale_g"`
	}
	openingForm struct {
		ID    string            `json:"id"`
		Title string            `json:"title"`
		Kind  plant.OpeningKind `json:"kind"`
		Of    int               `json:"of"`
		Into  int               `json:"into"`
		Lever bool              `json:"lever"`
	}
	believedForm struct {
		Share float64 `json:"share"`
		Grown float64 `json:"grown"`
	}
	looseForm struct {
		ID      string   `json:"id"`
		Title   string   `json:"title"`
		Of      int      `json:"of"`
		Closed  bool     `json:"closed,omitempty"`
		Wet     bool     `json:"wet,omitempty"`
		Over    []string `json:"over,omitempty"`
		In      string   `json:"in,omitempty"`
		Gate    string   `json:"gate,omitempty"`
		Handle  bool     `json:"handle,omitempty"`
		NoBath  bool     `json:"no_bath,omitempty"`
		InPlace bool     `json:"in_place,omitempty"`
	}
	sourceForm struct {
		Kind  reason.Kind `json:"kind"`
		Which string      `json:"which"`
	}
	workedForm struct {
		Name        string        `json:"name"`
		Value       float64       `json:"value"`
		Low         float64       `json:"low"`
		High        float64       `json:"high"`
		Spread      reason.Spread `json:"spread,omitempty"`
		Unit        string        `json:"unit"`
		Formula     string        `json:"formula"`
		Inputs      []inputForm   `json:"inputs"`
		Source      sourceForm    `json:"source"`
		WouldChange []string      `json:"would_change"`
	}
	inputForm struct {
		Symbol string      `json:"symbol"`
		Label  string      `json:"label"`
		Value  float64     `json:"value"`
		Unit   string      `json:"unit"`
		Source sourceForm  `json:"source"`
		Range  *rangeForm  `json:"range,omitempty"`
		Worked *workedForm `json:"worked,omitempty"`
	}
	rangeForm struct {
		Low  float64 `json:"low"`
		High float64 `json:"high"`
	}
	reasonForm struct {
		Text   string     `json:"text"`
		Source sourceForm `json:"source"`
	}
	findingForm struct {
		Verdict reason.Verdict `json:"verdict"`
		Title   string         `json:"title"`
		Because []reasonForm   `json:"because"`
		Next    []string       `json:"next,omitempty"`
		Symptom string         `json:"symptom,omitempty"`
	}
	cautionForm struct {
		Danger string `json:"danger"`
		Text   string `json:"text"`
	}
)

// each converts a list one by one; nil stays nil.
func each[A, B any](list []A, one func(A) B) []B {
	if list == nil {
		return nil
	}
	out := make([]B, len(list))
	for i, v := range list {
		out[i] = one(v)
	}
	return out
}

// maybe converts what is there; nil stays nil.
func maybe[A, B any](v *A, one func(A) B) *B {
	if v == nil {
		return nil
	}
	out := one(*v)
	return &out
}

func keepWorked(w reason.Worked) workedForm {
	return workedForm{w.Name, w.Value, w.Low, w.High, w.Spread, w.Unit, w.Formula, each(w.Inputs, keepInput),
		sourceForm(w.Source), w.WouldChange}
}

func keepInput(in reason.Input) inputForm {
	return inputForm{in.Symbol, in.Label, in.Value, in.Unit, sourceForm(in.Source), (*rangeForm)(in.Range),
		maybe(in.Worked, keepWorked)}
}

func (w workedForm) core() reason.Worked {
	return reason.Worked{Name: w.Name, Value: w.Value, Low: w.Low, High: w.High, Spread: w.Spread, Unit: w.Unit,
		Formula: w.Formula,
		Inputs:  each(w.Inputs, inputForm.core), Source: reason.Source(w.Source), WouldChange: w.WouldChange}
}

func (in inputForm) core() reason.Input {
	return reason.Input{Symbol: in.Symbol, Label: in.Label, Value: in.Value, Unit: in.Unit,
		Source: reason.Source(in.Source), Range: (*reason.Range)(in.Range), Worked: maybe(in.Worked, workedForm.core)}
}

func keepReason(r reason.Reason) reasonForm { return reasonForm{r.Text, sourceForm(r.Source)} }

func (r reasonForm) core() reason.Reason {
	return reason.Reason{Text: r.Text, Source: reason.Source(r.Source)}
}

func keepFinding(f reason.Finding) findingForm {
	return findingForm{f.Verdict, f.Title, each(f.Because, keepReason), f.Next, f.Symptom}
}

func (f findingForm) core() reason.Finding {
	return reason.Finding{Verdict: f.Verdict, Title: f.Title, Because: each(f.Because, reasonForm.core), Next: f.Next,
		Symptom: f.Symptom}
}

func keepCaution(c reason.Caution) cautionForm { return cautionForm(c) }
func (c cautionForm) core() reason.Caution     { return reason.Caution(c) }
func keepAction(a plant.Action) actionForm     { return actionForm(a) }
func (a actionForm) core() plant.Action        { return plant.Action(a) }
func keepOpening(o plant.Opening) openingForm  { return openingForm(o) }
func (o openingForm) core() plant.Opening      { return plant.Opening(o) }
func keepLoose(l plant.Loose) looseForm        { return looseForm(l) }
func (l looseForm) core() plant.Loose          { return plant.Loose(l) }
func keepVessel(v plant.Vessel) vesselForm {
	return vesselForm{v.ID, v.Title, v.Kind, v.Capacity, v.Working, v.Heel, v.Covered, v.Watts, v.Set, v.Heater, v.Metal,
		v.Tau, v.Body, v.Probe, v.Area, v.Scale}
}
func (v vesselForm) core() plant.Vessel {
	return plant.Vessel{ID: v.ID, Title: v.Title, Kind: v.Kind, Capacity: v.Capacity, Working: v.Working, Heel: v.Heel,
		Covered: v.Covered, Watts: v.Watts, Set: v.Set, Heater: v.Heater, Metal: v.Metal, Tau: v.Tau, Body: v.Body,
		Probe: v.Probe, Area: v.Area, Scale: v.Scale}
}
func keepPulses(p backflush.Pulses) pulsesForm { return pulsesForm(p) }
func (p pulsesForm) core() backflush.Pulses    { return backflush.Pulses(p) }

func keepDose(d backflush.Dose) doseForm {
	return doseForm{d.Form, keepWorked(d.Mass), spoonForm(d.Spoon), d.Tablets, d.Pinch, d.Asked}
}

func keepSetup(s job.Setup) setupForm {
	return setupForm{s.Begin, s.Vents, s.Flow, s.Tray, s.Tank, dutyForm(s.Duty), s.Blind}
}

func (d doseForm) core() backflush.Dose {
	return backflush.Dose{Form: d.Form, Mass: d.Mass.core(), Spoon: units.Spoon(d.Spoon), Tablets: d.Tablets,
		Pinch: d.Pinch, Asked: d.Asked}
}

func (s setupForm) core() job.Setup {
	return job.Setup{Begin: s.Begin, Vents: s.Vents, Flow: s.Flow, Tray: s.Tray, Tank: s.Tank,
		Duty: machine.Duty(s.Duty), Blind: s.Blind}
}

func keepPlant(p plant.Spec) plantForm {
	return plantForm{each(p.Vessels, keepVessel), each(p.Openings, keepOpening), each(p.Loose, keepLoose),
		p.Flow, dutyForm(p.Duty), p.PumpsCold,
		p.HasPump, p.Mains, p.Room, p.Feed, p.Solution.Takes, p.Solution.Contact, p.Solution.Limit, p.Least}
}

func (p plantForm) core() plant.Spec {
	return plant.Spec{Vessels: each(p.Vessels, vesselForm.core), Openings: each(p.Openings, openingForm.core),
		Loose: each(p.Loose, looseForm.core), Flow: p.Flow,
		Duty: machine.Duty(p.Duty), PumpsCold: p.PumpsCold, HasPump: p.HasPump, Mains: p.Mains, Room: p.Room, Feed: p.Feed,
		Solution: plant.Solution{Takes: p.Takes, Contact: p.Contact, Limit: p.Limit}, Least: p.Least}
}

func keepWash(w job.Washing) washForm {
	r := w.Rinse
	return washForm{
		w.Method,
		maybe(w.Dose, keepDose),
		rinseForm{r.Least, r.Method, keepWorked(r.Model), keepWorked(r.Shown),
			keepWorked(r.Residue), each(r.Because, keepReason)},
		keepPulses(w.More),
		w.Dirty,
		w.Gone,
		w.Blind,
		w.Soapy,
		w.Named,
		w.Left,
		w.Morning,
	}
}

func (w washForm) core() job.Washing {
	r := w.Rinse
	return job.Washing{Method: w.Method, Dose: maybe(w.Dose, doseForm.core), More: w.More.core(), Dirty: w.Dirty,
		Gone: w.Gone, Blind: w.Blind, Soapy: w.Soapy, Named: w.Named, Left: w.Left, Morning: w.Morning,
		Rinse: backflush.Rinse{Least: r.Least, Method: r.Method, Model: r.Model.core(),
			Shown: r.Shown.core(), Residue: r.Residue.core(), Because: each(r.Because, reasonForm.core)}}
}

func keepDescale(d job.Descaling) descaleForm {
	return descaleForm{d.Program, d.Title, d.Product, d.Acid, d.Strength, keepWorked(d.Measure),
		keepWorked(d.Solution), keepWorked(d.Spoons), d.Contact, d.Planned, d.FeedAlk, d.Known, d.Share, d.Exit, d.Costs,
		d.FeedPH, each(d.Circuits, keepCircuit), keepPlant(d.Plant), d.Rounds, d.Dirty, d.Filtered, d.Tubs, d.Catches,
		d.Left, each(d.Findings, keepFinding)}
}

func (d descaleForm) core(b *reader) job.Descaling {
	outlet := func(o outletForm) job.Outlet { return job.Outlet{ID: o.ID, Title: o.Title, More: each(o.More, b.step)} }
	circuit := func(c circuitForm) job.Circuit {
		return job.Circuit{Part: c.Part, Title: c.Title, Working: c.Working, Drained: c.Drained, Least: c.Least.core(),
			Outlets: each(c.Outlets, outlet), Firsts: each(c.Firsts, outlet), Scale: c.Scale}
	}
	return job.Descaling{Program: d.Program, Title: d.Title, Product: d.Product, Acid: d.Acid, Strength: d.Strength,
		Measure: d.Measure.core(), Solution: d.Solution.core(), Spoons: d.Spoons.core(), Contact: d.Contact,
		Planned: d.Planned, FeedAlk: d.FeedAlk, FeedPH: d.FeedPH, Known: d.Known, Share: d.Share, Exit: d.Exit,
		Costs: d.Costs, Circuits: each(d.Circuits, circuit), Plant: d.Plant.core(), Rounds: d.Rounds, Dirty: d.Dirty,
		Filtered: d.Filtered, Tubs: d.Tubs, Catches: d.Catches, Left: d.Left, Findings: each(d.Findings, findingForm.core)}
}

func keepCircuit(c job.Circuit) circuitForm {
	return circuitForm{c.Part, c.Title, c.Working, c.Drained, keepWorked(c.Least), each(c.Outlets, keepOutlet),
		each(c.Firsts, keepOutlet), c.Scale}
}

func keepOutlet(o job.Outlet) outletForm { return outletForm{o.ID, o.Title, each(o.More, keepStep)} }

func keepStep(s job.Step) stepForm {
	return stepForm{s.ID, s.Activity, s.Lane, s.After, s.Part, s.Title, s.Head, s.Do, s.Button,
		each(s.Cautions, keepCaution), s.Effect, s.Takes, s.Phase, s.Round, s.Kind(), keepBody(s.Body),
		s.Picture, each(s.Acts, keepAction)}
}

// keepBody is the one place, with reader.body, that knows every kind of step.
func keepBody(body job.Body) bodyForm {
	switch b := body.(type) {
	case job.Act:
		form := bodyForm{Flushes: b.Flushes, Draws: b.Draws, Time: maybe(b.FlushTime, keepWorked), Runs: b.Runs}
		if b.Mix != nil {
			form.Measure, form.Water = maybe(&b.Mix.Measure, keepWorked), maybe(&b.Mix.Water, keepWorked)
		}
		return form
	case job.Pulses:
		return bodyForm{Pulses: maybe(&b.Pulses, keepPulses)}
	case job.Push:
		return bodyForm{To: b.To, Litres: b.Litres, Time: maybe(&b.Long, keepWorked)}
	case job.Sips:
		return bodyForm{To: b.To, Litres: b.Litres, Count: b.Count, On: b.On, For: b.Stand,
			Time: maybe(&b.Length, keepWorked)}
	case job.Soak:
		return bodyForm{For: b.For, Acid: b.Acid, Early: b.Early, Ends: b.Ends, Time: maybe(b.Length, keepWorked),
			Read: each(b.Read, keepAction)}
	case job.Wait:
		return bodyForm{For: b.For, Early: b.Early, Ends: b.Ends, Time: maybe(b.Length, keepWorked), Soapy: b.Soapy,
			Lets: b.Lets, Acid: b.Acid, Does: each(b.Does, keepAction), Read: each(b.Read, keepAction)}
	case job.Look:
		return bodyForm{At: b.At}
	case job.Choose:
		return bodyForm{Ways: each(b.Ways, keepWay), Sight: b.Sight}
	case job.Measure:
		return bodyForm{Reads: b.Reads, Circuit: &b.Circuit, Outlet: b.Outlet, Last: b.Last}
	}
	return bodyForm{}
}

func keepWay(w job.Way) wayForm {
	tries := each(w.Tries, func(list []job.Step) []stepForm { return each(list, keepStep) })
	return wayForm{w.Answer, w.Text, tries, maybe(w.Stop, keepFinding), w.Marks}
}

// reader brings steps back and remembers the first that it does not know.
type reader struct{ err error }

func (r *reader) step(s stepForm) job.Step {
	return job.Step{ID: s.ID, Activity: s.Activity, Lane: s.Lane, After: s.After, Part: s.Part, Title: s.Title,
		Head: s.Head, Do: s.Do, Button: s.Button, Cautions: each(s.Cautions, cautionForm.core), Effect: s.Effect,
		Takes: s.Takes, Phase: s.Phase, Round: s.Round, Body: r.body(s),
		Picture: s.Picture, Acts: each(s.Acts, actionForm.core)}
}

func (r *reader) body(s stepForm) job.Body {
	b := s.Body
	switch s.Kind {
	case job.ActKind:
		act := job.Act{Flushes: b.Flushes, Draws: b.Draws, FlushTime: maybe(b.Time, workedForm.core), Runs: b.Runs}
		if b.Measure != nil && b.Water != nil {
			act.Mix = &job.Mix{Measure: b.Measure.core(), Water: b.Water.core()}
		}
		return act
	case job.PulsesKind:
		if b.Pulses != nil {
			return job.Pulses{Pulses: b.Pulses.core()}
		}
	case job.PushKind:
		if b.Time != nil {
			return job.Push{To: b.To, Litres: b.Litres, Long: b.Time.core()}
		}
	case job.SipsKind:
		if b.Time != nil {
			return job.Sips{To: b.To, Litres: b.Litres, Count: b.Count, On: b.On, Stand: b.For, Length: b.Time.core()}
		}
	case job.SoakKind:
		return job.Soak{For: b.For, Acid: b.Acid, Early: b.Early, Ends: b.Ends, Length: maybe(b.Time, workedForm.core),
			Read: each(b.Read, actionForm.core)}
	case job.WaitKind:
		return job.Wait{For: b.For, Early: b.Early, Ends: b.Ends, Length: maybe(b.Time, workedForm.core),
			Soapy: b.Soapy, Lets: b.Lets, Acid: b.Acid, Does: each(b.Does, actionForm.core),
			Read: each(b.Read, actionForm.core)}
	case job.LookKind:
		return job.Look{At: b.At}
	case job.ChooseKind:
		return job.Choose{Ways: each(b.Ways, r.way), Sight: b.Sight}
	case job.MeasureKind:
		if b.Circuit != nil {
			return job.Measure{Reads: b.Reads, Circuit: *b.Circuit, Outlet: b.Outlet, Last: b.Last}
		}
	}
	if r.err == nil {
		r.err = fmt.Errorf("step %s is of kind %q, which is not known in full", s.ID, s.Kind)
	}
	return job.Act{}
}

func (r *reader) way(w wayForm) job.Way {
	tries := each(w.Tries, func(list []stepForm) []job.Step { return each(list, r.step) })
	return job.Way{Answer: w.Answer, Text: w.Text, Tries: tries, Stop: maybe(w.Stop, findingForm.core), Marks: w.Marks}
}

// keepPlan is a plan as it is kept.
func keepPlan(p job.Plan) (string, error) {
	form := planForm{
		Version: planVersion, Setups: each(p.Setups, keepSetup), Plant: maybe(p.Plant, keepPlant), Cold: p.Cold,
		LaidUp: p.LaidUp, StandDown: p.StandDown, AsksFound: p.AsksFound,
		Steps:   each(p.Steps(), keepStep),
		Minutes: keepWorked(p.Minutes), TankUses: keepWorked(p.TankUses), TrayGets: keepWorked(p.TrayGets),
	}
	for _, a := range p.Activities {
		form.Activities = append(form.Activities, activityForm{a.ID, a.Setup, a.Task, a.Part, a.Title, a.Takes,
			maybe(a.Wash, keepWash), maybe(a.Descale, keepDescale), a.Cares, a.Looks, maybe(a.Uses, keepDose), a.By,
			maybe(a.Before, func(b job.Believed) believedForm { return believedForm(b) })})
	}
	text, err := json.Marshal(form)
	return string(text), err
}

// readPlan brings a plan back. One of another version, or with a kind of step that is
// not known, is an error.
func readPlan(text string) (job.Plan, error) {
	var form planForm
	if err := json.Unmarshal([]byte(text), &form); err != nil {
		return job.Plan{}, err
	}
	if form.Version != planVersion {
		return job.Plan{}, fmt.Errorf("it is of version %d, read is %d", form.Version, planVersion)
	}
	r := &reader{}
	p := job.Plan{Setups: each(form.Setups, setupForm.core), Plant: maybe(form.Plant, plantForm.core), Cold: form.Cold,
		LaidUp: form.LaidUp, StandDown: form.StandDown, AsksFound: form.AsksFound,
		Minutes:  form.Minutes.core(),
		TankUses: form.TankUses.core(), TrayGets: form.TrayGets.core()}
	for _, a := range form.Activities {
		made := job.Activity{ID: a.ID, Setup: a.Setup, Task: a.Task, Part: a.Part, Title: a.Title, Takes: a.Takes,
			Wash: maybe(a.Wash, washForm.core), Cares: a.Cares, Looks: a.Looks, Uses: maybe(a.Uses, doseForm.core), By: a.By,
			Before: maybe(a.Before, func(b believedForm) job.Believed { return job.Believed(b) })}
		if a.Descale != nil {
			d := a.Descale.core(r)
			made.Descale = &d
		}
		for _, s := range form.Steps {
			if s.Activity == a.ID {
				made.Steps = append(made.Steps, r.step(s))
			}
		}
		p.Activities = append(p.Activities, made)
	}
	for _, s := range form.Steps {
		p.Order = append(p.Order, s.ID)
	}
	return p, r.err
}
