package store

import (
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// The forms below are how what somebody said, read or did is kept. Their names are those that databases have held from
// the first version on; core may call its own fields otherwise. Most have core's very fields in core's order, so that a
// field that is renamed there no longer compiles here.
type (
	readingForm struct {
		Low    float64 `json:"Low"`
		Likely float64 `json:"Likely"`
		High   float64 `json:"High"`
		Known  bool    `json:"Known"`
	}
	// sampleForm is a water as it was read.
	sampleForm struct {
		PH           readingForm `json:"PH"`
		PHTemp       readingForm `json:"PHTemp"`
		Hardness     readingForm `json:"Hardness"`
		Alkalinity   readingForm `json:"Alkalinity"`
		Calcium      readingForm `json:"Calcium"`
		Magnesium    readingForm `json:"Magnesium"`
		Sodium       readingForm `json:"Sodium"`
		Potassium    readingForm `json:"Potassium"`
		Chloride     readingForm `json:"Chloride"`
		Sulfate      readingForm `json:"Sulfate"`
		Solids       readingForm `json:"Solids"`
		Conductivity readingForm `json:"Conductivity"`
	}
	// settingForm is a treatment with its numbers.
	settingForm struct {
		Kind        machine.Treatment `json:"kind"`
		Rated       float64           `json:"rated_l,omitempty"`
		Rating      float64           `json:"rating_mg_l,omitempty"`
		RatedBypass float64           `json:"rated_bypass,omitempty"`
		Bypass      float64           `json:"bypass,omitempty"`
		Takes       float64           `json:"takes,omitempty"`
		Days        float64           `json:"days,omitempty"`
		Resin       float64           `json:"resin_l,omitempty"`
		Salt        float64           `json:"salt_g,omitempty"`
		Pass        float64           `json:"pass,omitempty"`
		Loose       bool              `json:"loose,omitempty"`
		Blend       float64           `json:"blend,omitempty"`
		Price       float64           `json:"price"`
		SaltKg      float64           `json:"salt_kg,omitempty"`
		Litre       float64           `json:"litre"`
		Minutes     float64           `json:"minutes"`
		Hardness    float64           `json:"hardness_mg_l,omitempty"`
		Alkalinity  float64           `json:"alkalinity_mg_l,omitempty"`
	}
	// choiceForm is how somebody cares for something, and how often.
	choiceForm struct {
		School  care.SchoolID      `json:"school"`
		Method  backflush.MethodID `json:"method"`
		Every   care.EveryID       `json:"every"`
		Own     intervalForm       `json:"own"`
		Numbers *numbersForm       `json:"numbers,omitempty"`
		Factor  float64            `json:"factor"`
	}
	intervalForm struct {
		Shots   float64 `json:"shots,omitempty"`
		Coffee  float64 `json:"coffee_g,omitempty"`
		Counter float64 `json:"counter,omitempty"`
		Litres  float64 `json:"litres,omitempty"`
		Days    float64 `json:"days,omitempty"`
		Daily   bool    `json:"daily,omitempty"`
	}
	numbersForm struct {
		Name      string     `json:"name"`
		Grams     units.Mass `json:"grams,omitempty"`
		On        float64    `json:"on_s,omitempty"`
		Off       float64    `json:"off_s,omitempty"`
		Detergent int        `json:"detergent,omitempty"`
		Rinse     int        `json:"rinse,omitempty"`
	}
	// productForm is a descaler by its label.
	productForm struct {
		ID      string            `json:"id"`
		Name    string            `json:"name"`
		Form    descale.Form      `json:"form"`
		Parts   []productPartForm `json:"parts"`
		Litre   float64           `json:"a_litre"`
		Spoon   float64           `json:"spoon_g,omitempty"`
		Minutes int               `json:"minutes,omitempty"`
		Note    string            `json:"note,omitempty"`
	}
	productPartForm struct {
		Acid  descale.AcidID `json:"acid"`
		Grams float64        `json:"grams"`
	}
	// taughtForm is what a spent solution came to, and what that teaches.
	taughtForm struct {
		Worked workedForm `json:"worked"`
		Spent  spentForm  `json:"spent"`
	}
	spentForm struct {
		Grams   readingForm `json:"Grams"`
		AtLeast bool        `json:"AtLeast"`
		PH      units.PH    `json:"PH"`
		Finding findingForm `json:"Finding"`
	}
	// recordForm is what stands in a line of the log beside its part, task and day.
	recordForm struct {
		Method  backflush.MethodID `json:"method,omitempty"`
		Dose    *loggedDoseForm    `json:"dose,omitempty"`
		Soapy   int                `json:"soapy,omitempty"`
		Rinsed  int                `json:"rinsed,omitempty"`
		Cups    []cupForm          `json:"cups,omitempty"`
		First   backflush.Colour   `json:"first,omitempty"`
		Gone    float64            `json:"gone,omitempty"`
		Minutes float64            `json:"minutes,omitempty"`
		Note    string             `json:"note,omitempty"`
		By      string             `json:"by,omitempty"`
		Sent    string             `json:"sent,omitempty"`
		Paper   string             `json:"paper,omitempty"`
		Papered *time.Time         `json:"paper_dated,omitempty"`
		Begun   care.Begun         `json:"begun,omitempty"`
		Dated   *time.Time         `json:"dated,omitempty"`
	}
	// loggedDoseForm is a dose in the log, older than the form of a plan's.
	loggedDoseForm struct {
		Form    backflush.Form  `json:"form"`
		Tablets int             `json:"tablets,omitempty"`
		Pinch   bool            `json:"pinch,omitempty"`
		Mass    workedForm      `json:"mass"`
		Asked   units.Mass      `json:"asked"`
		Spoon   loggedSpoonForm `json:"spoon"`
	}
	loggedSpoonForm struct {
		Whole int `json:"Whole"`
		Num   int `json:"Num"`
		Den   int `json:"Den"`
	}
)

func keepSample(s water.Sample) sampleForm {
	r := func(x units.Reading) readingForm { return readingForm(x) }
	return sampleForm{r(s.PH), r(s.PHTemp), r(s.Hardness), r(s.Alkalinity), r(s.Calcium), r(s.Magnesium), r(s.Sodium),
		r(s.Potassium), r(s.Chloride), r(s.Sulfate), r(s.Solids), r(s.Conductivity)}
}

func (f sampleForm) core() water.Sample {
	r := func(x readingForm) units.Reading { return units.Reading(x) }
	return water.Sample{PH: r(f.PH), PHTemp: r(f.PHTemp), Hardness: r(f.Hardness), Alkalinity: r(f.Alkalinity),
		Calcium: r(f.Calcium), Magnesium: r(f.Magnesium), Sodium: r(f.Sodium), Potassium: r(f.Potassium),
		Chloride: r(f.Chloride), Sulfate: r(f.Sulfate), Solids: r(f.Solids), Conductivity: r(f.Conductivity)}
}

func keepChoice(c care.Choice) choiceForm {
	return choiceForm{c.School, c.Method, c.Every,
		intervalForm{c.Own.Shots, c.Own.Coffee, c.Own.Counter, c.Own.Litres, c.Own.Days, c.Own.Daily},
		(*numbersForm)(c.Numbers), c.Factor}
}

func (f choiceForm) core() care.Choice {
	o := f.Own
	return care.Choice{School: f.School, Method: f.Method, Every: f.Every, Factor: f.Factor,
		Own: care.Interval{Shots: o.Shots, Coffee: o.Coffee, Counter: o.Counter, Litres: o.Litres, Days: o.Days,
			Daily: o.Daily},
		Numbers: (*backflush.Numbers)(f.Numbers)}
}

func keepProduct(p descale.Product) productForm {
	parts := each(p.Parts, func(x descale.Part) productPartForm { return productPartForm(x) })
	return productForm{p.ID, p.Name, p.Form, parts, p.Litre, p.Spoon, p.Minutes, p.Note}
}

func (f productForm) core() descale.Product {
	parts := each(f.Parts, func(x productPartForm) descale.Part { return descale.Part(x) })
	return descale.Product{ID: f.ID, Name: f.Name, Form: f.Form, Parts: parts, Litre: f.Litre, Spoon: f.Spoon,
		Minutes: f.Minutes, Note: f.Note}
}

func keepTaught(w reason.Worked, s descale.Spent) taughtForm {
	return taughtForm{keepWorked(w), spentForm{readingForm(s.Grams), s.AtLeast, s.PH, keepFinding(s.Finding)}}
}

func (f spentForm) core() descale.Spent {
	return descale.Spent{Grams: units.Reading(f.Grams), AtLeast: f.AtLeast, PH: f.PH, Finding: f.Finding.core()}
}

func keepRecord(r Record) recordForm {
	return recordForm{r.Method, maybe(r.Dose, keepLoggedDose), r.Soapy, r.Rinsed, each(r.Cups, keepCup), r.First, r.Gone,
		r.Minutes, r.Note, r.By, r.Sent, r.Paper, r.Papered, r.Begun, r.Dated}
}

func (f recordForm) core() Record {
	return Record{Method: f.Method, Dose: maybe(f.Dose, loggedDoseForm.core), Soapy: f.Soapy, Rinsed: f.Rinsed,
		Cups: each(f.Cups, cupForm.core), First: f.First, Gone: f.Gone, Minutes: f.Minutes, Note: f.Note, By: f.By,
		Sent: f.Sent, Paper: f.Paper, Papered: f.Papered, Begun: f.Begun, Dated: f.Dated}
}

func keepLoggedDose(d backflush.Dose) loggedDoseForm {
	return loggedDoseForm{d.Form, d.Tablets, d.Pinch, keepWorked(d.Mass), d.Asked, loggedSpoonForm(d.Spoon)}
}

func (f loggedDoseForm) core() backflush.Dose {
	return backflush.Dose{Form: f.Form, Tablets: f.Tablets, Pinch: f.Pinch, Mass: f.Mass.core(), Asked: f.Asked,
		Spoon: units.Spoon(f.Spoon)}
}
