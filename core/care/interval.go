package care

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Task is one kind of care.
type Task string

// The tasks so far. A wash is a detergent backflush; a hand clean is screen
// and seal brushed and scrubbed, without detergent in the group; a rinse gets
// detergent out that was left in, and counts for nothing else.
const (
	Wash           Task = "wash"
	HandClean      Task = "hand_clean"
	Rinse          Task = "rinse"
	WaterBackflush Task = "water_backflush"
	Brush          Task = "brush"
	Tray           Task = "tray"
	Waste          Task = "waste"
	TankWater      Task = "tank_water"
)

var titles = map[Task]string{
	Wash: "Detergent wash", HandClean: "Hand clean of screen and seal", Rinse: "Rinse the detergent out", WaterBackflush: "Water backflush",
	Brush: "Brush seal and screen", Tray: "Empty and wash the tray", Waste: "Hot water down the waste", TankWater: "Fresh water in the tank",
}

// Title is the task in plain words.
func (t Task) Title() string { return titles[t] }

// Interval is how often. A zero limit does not count; whichever runs out
// first decides. Daily means once in each of the machine's days, by its end.
type Interval struct {
	Task    Task            `json:"-"`
	Shots   float64         `json:"shots,omitempty"`
	Coffee  float64         `json:"coffee_g,omitempty"` // grams
	Counter float64         `json:"counter,omitempty"`  // on the machine's own counter
	Litres  float64         `json:"litres,omitempty"`   // through the group
	Days    float64         `json:"days,omitempty"`
	Daily   bool            `json:"daily,omitempty"`
	Because []reason.Reason `json:"-"`
}

// wears says whether it is counted by use, not by the calendar alone.
func (i Interval) wears() bool { return i.Shots > 0 || i.Coffee > 0 || i.Counter > 0 || i.Litres > 0 }

const (
	shotsBetween  = 50
	coffeeBetween = 1000
	monthlyCap    = 30
	halfYear      = 182
	quarter       = 91
	counterLimit  = 200
	lightUse      = 10 // shots a day a group
)

// EveryID names an interval in the contract and in the log.
type EveryID string

// The intervals in use (common practice), all put on one ruler by use.
const (
	EveryDay      EveryID = "day"
	EveryWeek     EveryID = "week"
	EveryTwoWeeks EveryID = "two_weeks"
	EveryMonth    EveryID = "month"
	FiftyOrKilo   EveryID = "fifty_or_kilo"
	FiftyShots    EveryID = "fifty_shots"
	OnCounter     EveryID = "counter"
	EveryKilo     EveryID = "kilogram"
	FiveAYear     EveryID = "five_a_year"
	TwiceAYear    EveryID = "twice_a_year"
	OwnNumbers    EveryID = "own"
)

// Every is one way of saying how often, with its reason.
type Every struct {
	ID       EveryID
	Title    string
	Interval Interval
	Why      string
}

const capped = " Never later than 30 days: oil goes rancid in a group that stands, too (our own cap)."

var everies = []Every{
	{FiftyOrKilo, "50 shots or a kilogram", Interval{Shots: shotsBetween, Coffee: coffeeBetween, Days: monthlyCap}, "50 shots a group, or each kilogram of coffee, whichever comes first: 1000 g are about 56 doubles, so the two schools agree." + capped},
	{EveryDay, "every day", Interval{Daily: true}, "After the last drink, so that nothing dries overnight: what a café needs."},
	{EveryWeek, "every week", Interval{Days: 7}, "A fixed day is easy to keep, however many drinks it was."},
	{EveryTwoWeeks, "every two weeks", Interval{Days: 14}, "The common rhythm of a home that makes three or four drinks a day."},
	{EveryMonth, "every month", Interval{Days: monthlyCap}, "Enough for a drink or two a day."},
	{FiftyShots, "every 50 shots", Interval{Shots: shotsBetween, Days: monthlyCap}, "Oil builds up with use, not with time." + capped},
	{OnCounter, "200 on the counter", Interval{Counter: counterLimit, Days: monthlyCap}, "Where the machine counts by itself and asks: about 100 drinks, where each comes with a flush that counts too." + capped},
	{EveryKilo, "each new kilogram", Interval{Coffee: coffeeBetween, Days: monthlyCap}, "Opening a new bag is the reminder." + capped},
	{FiveAYear, "4 to 5 times a year", Interval{Days: 81}, "For those who backflush with water in between and want as little detergent as possible."},
	{TwiceAYear, "twice a year", Interval{Days: halfYear}, "At most, on a group with a greased cam: detergent strips the grease. A hand clean stands in between."},
}

// Everies lists the intervals, the usual one first.
func Everies() []Every { return slices.Clone(everies) }

// SchoolID names a school in the contract and in the log.
type SchoolID string

// The schools.
const (
	SchoolFifty   SchoolID = "fifty"
	SchoolClose   SchoolID = "close"
	SchoolSoak    SchoolID = "soak"
	SchoolTen     SchoolID = "ten"
	SchoolPinch   SchoolID = "pinch"
	SchoolThree   SchoolID = "three"
	SchoolTablet  SchoolID = "tablet"
	SchoolProgram SchoolID = "program"
	SchoolSeldom  SchoolID = "seldom"
	SchoolCam     SchoolID = "cam"
	SchoolHand    SchoolID = "hand_monthly"
	SchoolHandWk  SchoolID = "hand_weekly"
	SchoolOwn     SchoolID = "own"
)

// School is a named pairing of a method and an interval, with its reason.
// Methods and intervals are common practice; which goes with which by default
// is our own choice.
type School struct {
	ID     SchoolID
	Title  string
	Task   Task
	Method backflush.MethodID // none for a hand clean
	Every  EveryID
	Why    string
}

var schools = []School{
	{SchoolFifty, "By use", Wash, backflush.HalfTeaspoon, FiftyOrKilo, "Follows the coffee, not the calendar. The default at home."},
	{SchoolClose, "Every close", Wash, backflush.HalfTeaspoon, EveryDay, "After the last drink, every night. The default of a café."},
	{SchoolSoak, "Weekly soak", Wash, backflush.Soak, EveryWeek, "Little powder, time to work, a fixed day."},
	{SchoolTen, "Ten and five, fortnightly", Wash, backflush.TenAndFive, EveryTwoWeeks, "Many pulses, seldom, with the screen off each time."},
	{SchoolPinch, "A daily pinch", Wash, backflush.ShortPulse, EveryDay, "A minute of pulses, but every day."},
	{SchoolThree, "Three pulses a bag", Wash, backflush.ThreePulse, EveryKilo, "Opening a bag is the reminder; three pulses and a wiggle."},
	{SchoolTablet, "A tablet a month", Wash, backflush.Tablet, EveryMonth, "Nothing to measure, one date a month."},
	{SchoolProgram, "When the machine asks", Wash, backflush.MachineProgram, OnCounter, "Its own counter and its own program; its light goes out by itself."},
	{SchoolSeldom, "Seldom, water between", Wash, backflush.TenAndFive, FiveAYear, "Water backflushes in between, detergent four or five times a year."},
	{SchoolCam, "Spare the cam", Wash, backflush.HalfTeaspoon, TwiceAYear, "Detergent twice a year, by hand in each other quarter. The default of a lever with a cam."},
	{SchoolHand, "By hand, monthly", HandClean, "", EveryMonth, "Screen off and scrubbed every month: light use."},
	{SchoolHandWk, "By hand, weekly", HandClean, "", EveryWeek, "Screen off and scrubbed every week."},
}

// FindSchool finds a school by its name in the contract; else *units.OutOfRange.
func FindSchool(id SchoolID) (School, error) {
	var names []string
	for _, s := range schools {
		if s.ID == id {
			return s, nil
		}
		names = append(names, string(s.ID))
	}
	return School{}, &units.OutOfRange{Field: "school", Value: string(id), Allowed: "one of " + strings.Join(names, ", ")}
}

func findEvery(id EveryID) (Every, error) {
	var names []string
	for _, e := range everies {
		if e.ID == id {
			return e, nil
		}
		names = append(names, string(e.ID))
	}
	return Every{}, &units.OutOfRange{Field: "every", Value: string(id), Allowed: "one of " + strings.Join(names, ", ") + ", own"}
}

// SchoolsFor lists the schools a machine may choose from, the default first:
// by hand where it must not be backflushed, else the washes.
func SchoolsFor(a machine.Answers) []School {
	task := Wash
	if backflush.Gate(a.Facts()).Verdict == reason.Refused {
		task = HandClean
	}
	var list []School
	for _, s := range schools {
		if s.Task == task && (s.ID != SchoolCam || a.Facts().Valve == machine.Cam) {
			list = append(list, s)
		}
	}
	first, _ := DefaultSchool(a)
	slices.SortStableFunc(list, func(x, y School) int {
		if x.ID == first.ID {
			return -1
		}
		if y.ID == first.ID {
			return 1
		}
		return 0
	})
	return list
}

// DefaultSchool is the school a machine gets where nobody chose, and why.
func DefaultSchool(a machine.Answers) (School, []reason.Reason) {
	f := a.Facts()
	cafe, whyCafe := a.Cafe()
	pick := func(id SchoolID) School { s, _ := FindSchool(id); return s }
	switch {
	case backflush.Gate(f).Verdict == reason.Refused:
		if a.Drinks/float64(f.Groups) >= lightUse {
			return pick(SchoolHandWk), []reason.Reason{{Text: "It cannot be backflushed, so the screen comes off and is scrubbed every week.", Source: reason.Trade}}
		}
		return pick(SchoolHand), []reason.Reason{
			{Text: "It cannot be backflushed, so the screen comes off and is scrubbed: every month in light use, weekly otherwise.", Source: reason.Trade},
			{Text: fmt.Sprintf("Light use is fewer than %d shots a day a group.", lightUse), Source: reason.Ours},
		}
	case f.Valve == machine.Cam:
		return pick(SchoolCam), []reason.Reason{{Text: "Detergent twice a year at most: it strips the grease of the lever's cam.", Source: reason.Trade}}
	case cafe:
		return pick(SchoolClose), []reason.Reason{{Text: "A café washes every day, after the last drink.", Source: reason.Trade}, whyCafe}
	}
	return pick(SchoolFifty), []reason.Reason{
		{Text: "Every 50 shots a group, or each kilogram of coffee, whichever comes first: 1000 g are about 56 doubles, so the two schools agree.", Source: reason.Trade},
		{Text: "Never later than 30 days: oil goes rancid in a group that stands, too.", Source: reason.Ours},
	}
}

// Choice is what somebody chose for a machine; the zero value is the default.
type Choice struct {
	School SchoolID           `json:"school"`
	Method backflush.MethodID `json:"method"`
	Every  EveryID            `json:"every"`
	Own    Interval           `json:"own"`    // with OwnNumbers
	Factor float64            `json:"factor"` // learned; 0 where nothing was
	// Shortened are oily beans and parties, each until the next wash.
	Shortened []Shortening `json:"-"`
}

// Shortening makes the present interval shorter, until the next wash.
type Shortening struct {
	Kind string // oily, party
	At   int64  // UTC milliseconds
}

// Shortenings: oily beans shorten the present interval as a dark first
// discharge would, a party as a brown one (our own engineering choice).
var shortenings = map[string]struct {
	share float64
	text  string
}{
	"oily":  {0.70, "Oily beans: the present interval is 30 % shorter, as after a dark first discharge."},
	"party": {0.85, "A party: the present interval is 15 % shorter, as after a brown first discharge."},
}

// CheckShortening refuses a kind that does not exist.
func CheckShortening(kind string) error {
	if _, ok := shortenings[kind]; !ok {
		return &units.OutOfRange{Field: "kind", Value: kind, Allowed: "oily, party"}
	}
	return nil
}

// Pick chooses a school for a machine; a school of another kind of machine is
// a *units.OutOfRange.
func Pick(a machine.Answers, id SchoolID) (Choice, error) {
	s, err := FindSchool(id)
	if err != nil {
		return Choice{}, err
	}
	var names []string
	for _, x := range SchoolsFor(a) {
		if x.ID == id {
			return Choice{School: s.ID, Method: s.Method, Every: s.Every}, nil
		}
		names = append(names, string(x.ID))
	}
	return Choice{}, &units.OutOfRange{Field: "school", Value: string(id), Allowed: "for this machine one of " + strings.Join(names, ", ")}
}

// the ranges of own numbers
var ownRanges = []struct {
	field     string
	low, high float64
	of        func(*Interval) *float64
}{
	{"shots", 5, 1000, func(i *Interval) *float64 { return &i.Shots }},
	{"coffee_g", 100, 20000, func(i *Interval) *float64 { return &i.Coffee }},
	{"counter", 10, 5000, func(i *Interval) *float64 { return &i.Counter }},
	{"litres", 1, 500, func(i *Interval) *float64 { return &i.Litres }},
	{"days", 1, 400, func(i *Interval) *float64 { return &i.Days }},
}

// Pair joins a method with an interval, or with own numbers; what is out of
// range is a *units.OutOfRange.
func Pair(a machine.Answers, method backflush.MethodID, every EveryID, own Interval) (Choice, error) {
	c := Choice{School: SchoolOwn, Method: method, Every: every}
	if backflush.Gate(a.Facts()).Verdict == reason.Refused {
		c.Method = ""
	} else if m, err := backflush.Lookup(method); err != nil {
		return Choice{}, err
	} else if m.Wet() {
		return Choice{}, &units.OutOfRange{Field: "method", Value: string(method), Allowed: "a method with detergent: water only stands beside the wash, not in its place"}
	}
	if every != OwnNumbers {
		_, err := findEvery(every)
		return c, err
	}
	any := false
	for _, r := range ownRanges {
		v := *r.of(&own)
		if v == 0 {
			continue
		}
		any = true
		if !(v >= r.low && v <= r.high) {
			return Choice{}, &units.OutOfRange{Field: r.field, Value: fmt.Sprint(v), Allowed: fmt.Sprintf("%g to %g, or nothing", r.low, r.high)}
		}
	}
	if !any {
		return Choice{}, &units.OutOfRange{Field: "own", Value: "nothing", Allowed: "at least one of shots, coffee_g, counter, litres, days"}
	}
	own.Daily = false
	c.Own = own
	return c, nil
}

// Settled fills in the default school where nobody chose. A choice that the
// machine can no longer follow, because its answers changed, gives way too.
func (c Choice) Settled(a machine.Answers) Choice {
	s, _ := DefaultSchool(a)
	byHand := backflush.Gate(a.Facts()).Verdict == reason.Refused
	if c.Every == "" || byHand != (c.Method == "") {
		c.School, c.Method, c.Every, c.Factor = s.ID, s.Method, s.Every, 0
	}
	if c.Factor == 0 {
		c.Factor = 1
	}
	return c
}

// Title names what was chosen.
func (c Choice) Title() string {
	if s, err := FindSchool(c.School); err == nil {
		return s.Title
	}
	return "Own pairing"
}

// School's own interval, before anything was learned; own numbers get the
// calendar cap where they have none.
func (c Choice) base(a machine.Answers) Interval {
	f := a.Facts()
	if c.Every == OwnNumbers {
		i := c.Own
		i.Because = []reason.Reason{{Text: "Your own numbers.", Source: reason.Said}}
		if i.Days == 0 {
			i.Days = monthlyCap
			if f.Valve == machine.Cam {
				i.Days = halfYear
			}
			i.Because = append(i.Because, reason.Reason{Text: fmt.Sprintf("Never later than %.0f days, since you gave no days.", i.Days), Source: reason.Ours})
		}
		return i
	}
	e, _ := findEvery(c.Every)
	i := e.Interval
	if i.Counter > 0 && f.CounterLimit > 0 {
		i.Counter = f.CounterLimit
	}
	i.Because = []reason.Reason{{Text: e.Why, Source: reason.Trade}}
	if s, why := DefaultSchool(a); s.ID == c.School {
		i.Because = why
	}
	return i
}

// longest is the calendar cap that learning may not pass: 30 days, a café's
// one day, and on a cam the half year that is its school.
func longest(a machine.Answers) float64 {
	if cafe, _ := a.Cafe(); cafe {
		return 1
	}
	if a.Facts().Valve == machine.Cam {
		return 2 * halfYear
	}
	return monthlyCap
}

// times scales the limits, shots and counts to whole ones. A calendar limit beside use is a cap and stays; a
// calendar interval is never scaled past the cap, or past its own length where
// that is longer already.
func (i Interval) times(share, most float64) Interval {
	i.Shots, i.Coffee, i.Counter, i.Litres = math.Round(i.Shots*share), i.Coffee*share, math.Round(i.Counter*share), i.Litres*share
	if !i.wears() || share < 1 {
		i.Days = math.Min(i.Days*share, math.Max(i.Days, most))
	}
	return i
}

// For is the interval that a choice comes to for this machine's main task.
func (c Choice) For(a machine.Answers) Interval {
	c = c.Settled(a)
	i := c.base(a)
	i.Task = Wash
	if c.Method == "" {
		i.Task = HandClean
	}
	if c.Factor != 1 {
		wears := i.wears()
		whole := i.Days
		i = i.times(c.Factor, longest(a))
		if wears {
			i.Days = whole // the cap is no part of what was learned
		}
		i.Because = append(slices.Clone(i.Because), reason.Reason{Text: fmt.Sprintf("Learned from the first discharge: %.0f %% of the school's interval.", 100*c.Factor), Source: reason.Log})
	}
	return i
}

// shorten applies what shortens the present interval, begun after the last care.
func (c Choice) shorten(i Interval, lastMs int64) Interval {
	for _, s := range c.Shortened {
		if s.At <= lastMs || i.Daily {
			continue
		}
		by := shortenings[s.Kind]
		i = i.times(by.share, 0)
		i.Because = append(slices.Clone(i.Because), reason.Reason{Text: by.text + " It ends with the next wash.", Source: reason.Ours})
	}
	return i
}

// Intervals gives the interval of every task this machine needs, as chosen or
// by default. A machine that must not be backflushed has no wash.
func Intervals(a machine.Answers, c Choice) []Interval {
	list := []Interval{c.For(a)}
	if a.Facts().Valve == machine.Cam && list[0].Task == Wash {
		list = append(list, Interval{Task: HandClean, Days: quarter, Because: []reason.Reason{{Text: "A hand clean in each quarter without a wash, because detergent strips the cam's grease.", Source: reason.Trade}}})
	}
	return list
}

// Warn says what speaks against a choice, for this machine; nothing where
// nothing does.
func (c Choice) Warn(a machine.Answers) []reason.Reason {
	var list []reason.Reason
	i := c.For(a)
	if i.Task != Wash {
		return nil
	}
	if i.Daily {
		return cam(a, 1)
	}
	if cafe, _ := a.Cafe(); cafe {
		list = append(list, reason.Reason{Text: "A café washes every day; this is less often. Oil dries hard overnight.", Source: reason.Trade})
	} else if a.Facts().Valve != machine.Cam && i.Days > monthlyCap {
		list = append(list, reason.Reason{Text: fmt.Sprintf("Longer than the %d days after which oil in a group is taken as rancid.", monthlyCap), Source: reason.Ours})
	}
	return append(list, cam(a, i.Days)...)
}

func cam(a machine.Answers, days float64) []reason.Reason {
	if a.Facts().Valve != machine.Cam || days >= halfYear {
		return nil
	}
	return []reason.Reason{{Text: "More than twice a year strips the cam's grease: a hand clean does instead.", Source: reason.Trade}}
}

// Span is the time between two cares of one group at a use of so many shots a
// day, in days: whichever limit runs out first. Rate is a shots-a-day Worked.
func (i Interval) Span(f machine.Facts, rate reason.Worked) reason.Worked {
	w := reason.Worked{Name: "days between two of them", Unit: "days", Source: reason.Ours, Value: math.Inf(1), WouldChange: []string{"more or fewer drinks", "another interval"}}
	var terms []string
	add := func(term string, days float64, in ...reason.Input) {
		terms = append(terms, term)
		w.Value = math.Min(w.Value, days)
		w.Inputs = append(w.Inputs, in...)
	}
	limit := func(symbol, label, unit string, v float64) reason.Input {
		return reason.Input{Symbol: symbol, Label: label, Value: v, Unit: unit, Source: reason.Trade}
	}
	if i.Daily {
		add("days", 1, limit("days", "once in each day", "days", 1))
	}
	if i.Days > 0 {
		add("days", i.Days, limit("days", "never later than", "days", i.Days))
	}
	if i.wears() {
		w.Inputs = append(w.Inputs, rate.AsInput("rate"))
	}
	if i.Shots > 0 {
		add("shots ÷ rate", i.Shots/rate.Value, limit("shots", "every so many shots", "shots", i.Shots))
	}
	if i.Coffee > 0 {
		add("coffee ÷ (rate × double)", i.Coffee/(rate.Value*float64(f.Double)), limit("coffee", "every so much coffee", "g", i.Coffee), limit("double", "coffee in a double", "g", float64(f.Double)))
	}
	if i.Counter > 0 {
		add("counter ÷ (rate × groups × each)", i.Counter/(rate.Value*float64(f.Groups)*f.CountsADrink()),
			limit("counter", "on the machine's counter", "counts", i.Counter), limit("groups", "groups", "", float64(f.Groups)), limit("each", "counts a drink, its flush too", "counts", f.CountsADrink()))
	}
	if i.Litres > 0 {
		add("litres ÷ (rate × water)", i.Litres/(rate.Value*f.BrewWater.Litres()), limit("litres", "every so much water", "L", i.Litres), limit("water", "water a drink takes through the group", "L", f.BrewWater.Litres()))
	}
	w.Formula = terms[0]
	if len(terms) > 1 {
		w.Formula = "min(" + strings.Join(terms, ", ") + ")"
	}
	return w.Exact()
}

// Declared is the drinks a day of one group, as somebody said.
func Declared(a machine.Answers) reason.Worked {
	f := a.Facts()
	return reason.Worked{Name: "shots a day a group", Value: math.Max(leastRate, a.Drinks/float64(f.Groups)), Unit: "shots/day", Formula: "max(least, drinks ÷ groups)", Source: reason.Said,
		Inputs: []reason.Input{
			{Symbol: "drinks", Label: "drinks a day, as you said", Value: a.Drinks, Unit: "drinks/day", Source: reason.Said},
			{Symbol: "groups", Label: "groups", Value: float64(f.Groups), Source: reason.Said},
			{Symbol: "least", Label: "taken at least, so that a date can be given", Value: leastRate, Unit: "shots/day", Source: reason.Ours},
		}, WouldChange: []string{"logging drinks", "other answers"}}.Exact()
}

// PerDay is how many washes a machine takes a day, over all its groups, at the
// declared use; 0 where it has none.
func PerDay(a machine.Answers, c Choice) reason.Worked {
	f := a.Facts()
	w := reason.Worked{Name: "washes a day", Unit: "a day", Source: reason.Ours, WouldChange: []string{"more or fewer drinks", "another interval"}}
	i := c.For(a)
	if i.Task != Wash {
		return w
	}
	span := i.Span(f, Declared(a))
	w.Value, w.Formula = float64(f.Groups)/span.Value, "groups ÷ days"
	w.Inputs = []reason.Input{{Symbol: "groups", Label: "groups", Value: float64(f.Groups), Unit: "", Source: reason.Said}, span.AsInput("days")}
	return w.Exact()
}
