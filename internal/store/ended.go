package store

import (
	"encoding/json"
	"fmt"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// Ended is what a run came to, as it was written down when it ended. It is all that is
// known of it from then on: neither plan nor presses are read again.
type Ended struct {
	Outcome    run.Outcome
	At         time.Time
	Task       task.ID // of what led
	Title      string
	Where      string // its groups in words, or the machine
	Activities []run.Activity
	Groups     []EndedGroup
	Lines      []run.Line
	Finding    *reason.Finding
	Descale    *EndedDescale
	// Note is what is said of it in one sentence, where the rest is not known.
	Note string
}

// EndedGroup is what a run came to in a group that was washed or rinsed.
type EndedGroup struct {
	Part   machine.Part
	Task   task.ID
	Method backflush.MethodID
	Dose   *backflush.Dose // what went in; nil where nothing did
	In     bool            // detergent is in
	Soapy  int
	Rinsed int
	Least  int
	Cups   []backflush.Cup
	First  backflush.Colour
	Blind  int // how often nothing had come out at its drain, over all runs
}

// EndedDescale is what a descale came to.
type EndedDescale struct {
	Program, Product  string
	Measure, Solution reason.Worked // as planned; no name where acid was only rinsed out
	Contact, Most     time.Duration
	Booked            run.Booked
	Circuits          []EndedCircuit
	Came              reason.Worked // scale; no name where nothing was read
	AtLeast           bool
	Share             reason.Worked // as it is now; no name where nothing was learned
	Report            string
	Feed              *descale.Strip
	Findings          []reason.Finding
}

// EndedCircuit is one circuit of it.
type EndedCircuit struct {
	Part     machine.Part
	Title    string
	In, Ever bool
	Left     reason.Worked
	Rinsed   float64
	Least    reason.Worked
	Strips   []descale.Strip
}

// Contents is what the run left in the machine.
func (e Ended) Contents() (in job.Contents) {
	for _, g := range e.Groups {
		if g.In {
			in.Detergent = append(in.Detergent, g.Part)
		}
	}
	if e.Descale != nil {
		for _, c := range e.Descale.Circuits {
			if c.In {
				in.Acid = append(in.Acid, c.Part)
			}
		}
	}
	return in
}

// recordVersion is the form in which what a run came to is kept.
const recordVersion = 1

type (
	endedForm struct {
		Version    int                 `json:"version"`
		Outcome    run.Outcome         `json:"outcome"`
		AtMs       int64               `json:"at_ms"`
		Task       task.ID             `json:"task"`
		Title      string              `json:"title"`
		Where      string              `json:"where"`
		Activities []endedActivityForm `json:"activities"`
		Groups     []endedGroupForm    `json:"groups"`
		Lines      []lineForm          `json:"lines"`
		Finding    *findingForm        `json:"finding,omitempty"`
		Descale    *endedDescaleForm   `json:"descale,omitempty"`
		Note       string              `json:"note,omitempty"`
	}
	endedActivityForm struct {
		ID      string       `json:"id"`
		Task    task.ID      `json:"task"`
		Part    machine.Part `json:"part"`
		Title   string       `json:"title"`
		Outcome run.Outcome  `json:"outcome"`
		Drawn   units.Volume `json:"drawn_ml,omitempty"`
		Used    bool         `json:"used,omitempty"`
	}
	lineForm struct {
		ID     string       `json:"id"`
		Title  string       `json:"title"`
		Note   string       `json:"note"`
		Part   machine.Part `json:"part"`
		Status string       `json:"status"`
	}
	cupForm struct {
		Colour backflush.Colour `json:"colour"`
		Foam   backflush.Foam   `json:"foam"`
		Grains backflush.Grains `json:"grains"`
	}
	endedGroupForm struct {
		Part   machine.Part       `json:"part"`
		Task   task.ID            `json:"task"`
		Method backflush.MethodID `json:"method"`
		Dose   *doseForm          `json:"dose,omitempty"`
		In     bool               `json:"in"`
		Soapy  int                `json:"soapy"`
		Rinsed int                `json:"rinsed"`
		Least  int                `json:"least"`
		Cups   []cupForm          `json:"cups"`
		First  backflush.Colour   `json:"first"`
		Blind  int                `json:"blind,omitempty"`
	}
	stripForm struct {
		PH     units.PH      `json:"ph"`
		Meter  bool          `json:"meter,omitempty"`
		None   bool          `json:"none,omitempty"`
		Cloudy bool          `json:"cloudy,omitempty"`
		Blue   bool          `json:"blue,omitempty"`
		Taste  descale.Taste `json:"taste,omitempty"`
	}
	bookedForm struct {
		Mixed   float64      `json:"mixed"`
		Pushed  units.Litres `json:"pushed_l"`
		Soaks   int          `json:"soaks"`
		LeftOut int          `json:"left_out"`
	}
	endedDescaleForm struct {
		Program  string             `json:"program"`
		Product  string             `json:"product"`
		Measure  workedForm         `json:"measure"`
		Solution workedForm         `json:"solution"`
		Contact  time.Duration      `json:"contact_ns"`
		Most     time.Duration      `json:"most_ns"`
		Booked   bookedForm         `json:"booked"`
		Circuits []endedCircuitForm `json:"circuits"`
		Came     workedForm         `json:"came"`
		AtLeast  bool               `json:"at_least"`
		Share    workedForm         `json:"share"`
		Report   string             `json:"report"`
		Feed     *stripForm         `json:"feed,omitempty"`
		Findings []findingForm      `json:"findings"`
	}
	endedCircuitForm struct {
		Part   machine.Part `json:"part"`
		Title  string       `json:"title"`
		In     bool         `json:"in"`
		Ever   bool         `json:"ever"`
		Left   workedForm   `json:"left"`
		Rinsed float64      `json:"rinsed_l"`
		Least  workedForm   `json:"least"`
		Strips []stripForm  `json:"strips"`
	}
)

func keepActivity(a run.Activity) endedActivityForm { return endedActivityForm(a) }
func (a endedActivityForm) core() run.Activity      { return run.Activity(a) }
func keepLine(l run.Line) lineForm                  { return lineForm(l) }
func (l lineForm) core() run.Line                   { return run.Line(l) }
func keepCup(c backflush.Cup) cupForm               { return cupForm(c) }
func (c cupForm) core() backflush.Cup               { return backflush.Cup(c) }
func keepStrip(s descale.Strip) stripForm           { return stripForm(s) }
func (s stripForm) core() descale.Strip             { return descale.Strip(s) }

func keepEndedGroup(g EndedGroup) endedGroupForm {
	return endedGroupForm{g.Part, g.Task, g.Method, maybe(g.Dose, keepDose), g.In, g.Soapy, g.Rinsed, g.Least,
		each(g.Cups, keepCup), g.First, g.Blind}
}

func (g endedGroupForm) core() EndedGroup {
	return EndedGroup{Part: g.Part, Task: g.Task, Method: g.Method, Dose: maybe(g.Dose, doseForm.core), In: g.In,
		Soapy: g.Soapy, Rinsed: g.Rinsed, Least: g.Least, Cups: each(g.Cups, cupForm.core), First: g.First,
		Blind: g.Blind}
}

func keepEndedCircuit(c EndedCircuit) endedCircuitForm {
	return endedCircuitForm{c.Part, c.Title, c.In, c.Ever, keepWorked(c.Left), c.Rinsed, keepWorked(c.Least),
		each(c.Strips, keepStrip)}
}

func (c endedCircuitForm) core() EndedCircuit {
	return EndedCircuit{Part: c.Part, Title: c.Title, In: c.In, Ever: c.Ever, Left: c.Left.core(), Rinsed: c.Rinsed,
		Least: c.Least.core(), Strips: each(c.Strips, stripForm.core)}
}

func keepEndedDescale(d EndedDescale) endedDescaleForm {
	return endedDescaleForm{d.Program, d.Product, keepWorked(d.Measure), keepWorked(d.Solution), d.Contact, d.Most,
		bookedForm(d.Booked), each(d.Circuits, keepEndedCircuit), keepWorked(d.Came), d.AtLeast, keepWorked(d.Share),
		d.Report, maybe(d.Feed, keepStrip), each(d.Findings, keepFinding)}
}

func (d endedDescaleForm) core() EndedDescale {
	return EndedDescale{Program: d.Program, Product: d.Product, Measure: d.Measure.core(),
		Solution: d.Solution.core(), Contact: d.Contact, Most: d.Most, Booked: run.Booked(d.Booked),
		Circuits: each(d.Circuits, endedCircuitForm.core), Came: d.Came.core(), AtLeast: d.AtLeast,
		Share: d.Share.core(), Report: d.Report, Feed: maybe(d.Feed, stripForm.core),
		Findings: each(d.Findings, findingForm.core)}
}

// keepEnded is what a run came to as it is kept.
func keepEnded(e Ended) (string, error) {
	text, err := json.Marshal(endedForm{recordVersion, e.Outcome, ms(e.At), e.Task, e.Title, e.Where,
		each(e.Activities, keepActivity), each(e.Groups, keepEndedGroup), each(e.Lines, keepLine),
		maybe(e.Finding, keepFinding), maybe(e.Descale, keepEndedDescale), e.Note})
	return string(text), err
}

// readEnded brings it back.
func readEnded(text string) (Ended, error) {
	var f endedForm
	if err := json.Unmarshal([]byte(text), &f); err != nil {
		return Ended{}, err
	}
	if f.Version != recordVersion {
		return Ended{}, fmt.Errorf("it is of version %d, read is %d", f.Version, recordVersion)
	}
	return Ended{Outcome: f.Outcome, At: at(f.AtMs), Task: f.Task, Title: f.Title, Where: f.Where,
		Activities: each(f.Activities, endedActivityForm.core), Groups: each(f.Groups, endedGroupForm.core),
		Lines: each(f.Lines, lineForm.core), Finding: maybe(f.Finding, findingForm.core),
		Descale: maybe(f.Descale, endedDescaleForm.core), Note: f.Note}, nil
}
