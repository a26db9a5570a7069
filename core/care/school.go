package care

import (
	"fmt"
	"slices"
	"strings"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

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
	Task   task.ID
	Method backflush.MethodID // none for a hand clean
	Every  EveryID
	Why    string
}

var schools = []School{
	{
		SchoolFifty,
		"By use",
		task.Wash,
		backflush.HalfTeaspoon,
		FiftyOrKilo,
		"Follows the coffee, not the calendar. The default at home.",
	},
	{
		SchoolClose,
		"Every close",
		task.Wash,
		backflush.HalfTeaspoon,
		EveryDay,
		"After the last drink, every night. The default of a café.",
	},
	{SchoolSoak, "Weekly soak", task.Wash, backflush.Soak, EveryWeek, "Little powder, time to work, a fixed day."},
	{
		SchoolTen,
		"Ten and five, fortnightly",
		task.Wash,
		backflush.TenAndFive,
		EveryTwoWeeks,
		"Many pulses, seldom, with the screen off each time.",
	},
	{SchoolPinch, "A daily pinch", task.Wash, backflush.ShortPulse, EveryDay, "A minute of pulses, but every day."},
	{
		SchoolThree,
		"Three pulses a bag",
		task.Wash,
		backflush.ThreePulse,
		EveryKilo,
		"Opening a bag is the reminder; three pulses and a wiggle.",
	},
	{SchoolTablet, "A tablet a month", task.Wash, backflush.Tablet, EveryMonth, "Nothing to measure, one date a month."},
	{
		SchoolProgram,
		"When the machine asks",
		task.Wash,
		backflush.MachineProgram,
		OnCounter,
		"Its own counter and its own program; its light goes out by itself.",
	},
	{
		SchoolSeldom,
		"Seldom, water between",
		task.Wash,
		backflush.TenAndFive,
		FiveAYear,
		"Water backflushes in between, detergent four or five times a year.",
	},
	{
		SchoolCam,
		"Spare the cam",
		task.Wash,
		backflush.HalfTeaspoon,
		TwiceAYear,
		"Detergent twice a year, by hand in each other quarter. The default of a lever with a cam.",
	},
	{SchoolHand, "By hand, monthly", task.Screen, "", EveryMonth, "Screen off and scrubbed every month: light use."},
	{SchoolHandWk, "By hand, weekly", task.Screen, "", EveryWeek, "Screen off and scrubbed every week."},
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
	return School{}, &units.OutOfRange{
		Field:   "school",
		Value:   string(id),
		Allowed: "one of " + strings.Join(names, ", "),
	}
}

func findEvery(id EveryID) (Every, error) {
	var names []string
	for _, e := range everies {
		if e.ID == id {
			return e, nil
		}
		names = append(names, string(e.ID))
	}
	return Every{}, &units.OutOfRange{
		Field:   "every",
		Value:   string(id),
		Allowed: "one of " + strings.Join(names, ", ") + ", own",
	}
}

// SchoolsFor lists the schools a machine may choose from, the default first:
// by hand where it must not be backflushed, else the washes.
func SchoolsFor(a machine.Answers) []School {
	by := task.Wash
	if backflush.Gate(a.Facts()).Verdict == reason.Refused {
		by = task.Screen
	}
	var list []School
	for _, s := range schools {
		if s.Task == by && (s.ID != SchoolCam || a.Facts().Valve == machine.Cam) {
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
			return pick(
					SchoolHandWk,
				), []reason.Reason{
					{
						Text:   "It cannot be backflushed, so the screen comes off and is scrubbed every week.",
						Source: reason.Trade,
					},
				}
		}
		return pick(SchoolHand), []reason.Reason{
			{
				Text: "It cannot be backflushed, so the screen comes off and is scrubbed: every month in light use, weekly " +
					"otherwise.",
				Source: reason.Trade,
			},
			{Text: fmt.Sprintf("Light use is fewer than %d shots a day a group.", lightUse), Source: reason.Ours},
		}
	case f.Valve == machine.Cam:
		return pick(
				SchoolCam,
			), []reason.Reason{
				{
					Text:   "Detergent twice a year at most: it strips the grease of the lever's cam.",
					Source: reason.Trade,
				},
			}
	case cafe:
		return pick(
				SchoolClose,
			), []reason.Reason{
				{Text: "A café washes every day, after the last drink.", Source: reason.Trade},
				whyCafe,
			}
	}
	return pick(SchoolFifty), []reason.Reason{
		{
			Text: "Every 50 shots a group, or each kilogram of coffee, whichever comes first: 1000 g are about 56 " +
				"doubles, so the two schools agree.",
			Source: reason.Trade,
		},
		{Text: "Never later than 30 days: oil goes rancid in a group that stands, too.", Source: reason.Ours},
	}
}

// Choice is what somebody chose for a machine; the zero value is the default.
type Choice struct {
	School SchoolID           `json:"school"`
	Method backflush.MethodID `json:"method"`
	Every  EveryID            `json:"every"`
	Own    Interval           `json:"own"` // with OwnNumbers
	// Numbers are one's own of the method; nil for the method's.
	Numbers *backflush.Numbers `json:"numbers,omitempty"`
	Factor  float64            `json:"factor"` // learned; 0 where nothing was
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
	"oily":  {0.70, "Oily beans: the present interval is 30 % shorter, as after a dark first water."},
	"party": {0.85, "A party: the present interval is 15 % shorter, as after a brown first water."},
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
	return Choice{}, &units.OutOfRange{
		Field:   "school",
		Value:   string(id),
		Allowed: "for this machine one of " + strings.Join(names, ", "),
	}
}

// ownRanges are the ranges within which somebody may set an interval of their own.
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

// Pair joins a method, with one's own numbers where there are any, with an interval or with
// own numbers of that; what is out of range is a *units.OutOfRange.
func Pair(a machine.Answers, method backflush.MethodID, numbers *backflush.Numbers, every EveryID, own Interval) (
	Choice, error,
) {
	c := Choice{School: SchoolOwn, Method: method, Every: every, Numbers: numbers}
	if backflush.Gate(a.Facts()).Verdict == reason.Refused {
		c.Method, c.Numbers = "", nil
	} else if m, err := backflush.Lookup(method); err != nil {
		return Choice{}, err
	} else if m.Wet() {
		return Choice{}, &units.OutOfRange{Field: "method", Value: string(method),
			Allowed: "a method with detergent: water only stands beside the wash, not in its place"}
	} else if err := m.CheckNumbers(numbers, a.Facts()); err != nil {
		return Choice{}, err
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
			return Choice{}, &units.OutOfRange{
				Field:   r.field,
				Value:   fmt.Sprint(v),
				Allowed: fmt.Sprintf("%g to %g, or nothing", r.low, r.high),
			}
		}
	}
	if !any {
		return Choice{}, &units.OutOfRange{
			Field:   "own",
			Value:   "nothing",
			Allowed: "at least one of shots, coffee_g, counter, litres, days",
		}
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
		c.School, c.Method, c.Every, c.Factor, c.Numbers = s.ID, s.Method, s.Every, 0, nil
	}
	if c.Factor == 0 {
		c.Factor = 1
	}
	return c
}

// By is the method with one's own numbers; an error where there is none: it is cleaned by hand.
func (c Choice) By() (backflush.Method, error) {
	m, err := backflush.Lookup(c.Method)
	return m.With(c.Numbers), err
}

// Title names what was chosen.
func (c Choice) Title() string {
	if c.Numbers != nil {
		return c.Numbers.Name
	}
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
			i.Because = append(
				i.Because,
				reason.Reason{
					Text:   fmt.Sprintf("Never later than %.0f days, since you gave no days.", i.Days),
					Source: reason.Ours,
				},
			)
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

// For is the interval that a choice comes to for this machine's main task.
func (c Choice) For(a machine.Answers) Interval {
	c = c.Settled(a)
	i := c.base(a)
	i.Task = task.Wash
	if c.Method == "" {
		i.Task = task.Screen
	}
	if c.Factor != 1 {
		wears := i.wears()
		whole := i.Days
		i = i.times(c.Factor, longest(a))
		if wears {
			i.Days = whole // the cap is no part of what was learned
		}
		i.Because = append(
			slices.Clone(i.Because),
			reason.Reason{
				Text:   Moved(c.Factor) + " than usual, by what the first dirty water showed.",
				Source: reason.Log,
			},
		)
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
		i.Because = append(
			slices.Clone(i.Because),
			reason.Reason{Text: by.text + " It ends with the next wash.", Source: reason.Ours},
		)
	}
	return i
}

// Warn says what speaks against a choice, for this machine; nothing where
// nothing does.
func (c Choice) Warn(a machine.Answers) []reason.Reason {
	var list []reason.Reason
	i := c.For(a)
	if i.Task != task.Wash {
		return nil
	}
	if i.Daily {
		return cam(a, 1)
	}
	if cafe, _ := a.Cafe(); cafe && i.Span(a.Facts(), Declared(a)).Value <= 1 {
		return cam(a, 1) // at least as often as every day
	} else if cafe {
		list = append(
			list,
			reason.Reason{
				Text:   "A café washes every day; this is less often. Oil dries hard overnight.",
				Source: reason.Trade,
			},
		)
	} else if a.Facts().Valve != machine.Cam && i.Days > monthlyCap {
		list = append(list, reason.Reason{Text: fmt.Sprintf("Longer than the %d days after which oil in a group is "+
			"taken as rancid.", monthlyCap), Source: reason.Ours})
	}
	return append(list, cam(a, i.Days)...)
}

func cam(a machine.Answers, days float64) []reason.Reason {
	if a.Facts().Valve != machine.Cam || days >= halfYear {
		return nil
	}
	return []reason.Reason{
		{Text: "More than twice a year strips the cam's grease: a hand clean does instead.", Source: reason.Trade},
	}
}
