package report

import (
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"freshanvil/core/care"
	"freshanvil/core/inspect"
	"freshanvil/core/record"
	"freshanvil/core/task"
	"freshanvil/internal/app"
)

// Paper is what an owner is handed, in sentences: a page on the screen and one of paper say the same.
type Paper struct {
	Title    string // such as "Service report"
	Owner    string // empty where nobody was named
	Period   string
	Made     string // when it was written
	Machines []Part
}

// Part is what a paper says of one machine.
type Part struct {
	ID, Name, Place, Model, Serial, Layout string
	Inside                                 []string // before anything else: what is in it, or stops it
	Found                                  []Found
	Done                                   []Done
	Next                                   []Next
	Daily                                  []Daily
	Cautions                               []string
	By                                     []string // who did what is told
}

// Found is one thing that was looked at.
type Found struct {
	Sight   inspect.Sight
	Verdict inspect.Verdict
	Title   string
	Text    string // what was seen
	Means   string
	Bad     bool
}

// Done is one thing that was done.
type Done struct {
	When, Title string
	Did         []string
	Proof       string // empty where nothing showed it
	By          string
	Ended       record.Outcome // empty for a sum
}

// Next is what comes next on one day.
type Next struct {
	When, Between string // Between is empty where the date is sharp to a day
	Jobs          []Job
	Now           bool
}

// Job is one of them, and, of one that is due now, why.
type Job struct{ Title, Why string }

// Daily is what the owner does.
type Daily struct{ Title, How string }

// fewDays is up to how many days each line of the log is told by itself; over more, what they come to.
const fewDays = 7

// Of is the paper of some visits, of one machine or of all of an owner.
func Of(owner string, visits []app.Visit, now time.Time) Paper {
	p := Paper{Title: "Service report", Owner: owner}
	for _, v := range visits {
		zone := v.Machine.Zone
		from, to := dated(v.From, zone), dated(v.To, zone)
		p.Made = dated(now, zone)
		p.Period = from
		if from != to {
			p.Title, p.Period = "What was done", from+" to "+to
		}
		if p.Owner == "" {
			p.Owner = v.Machine.Owner
		}
		p.Machines = append(p.Machines, partOf(v))
	}
	return p
}

func partOf(v app.Visit) Part {
	m := v.Machine
	groups, zone := m.Answers.Facts().Groups, m.Zone
	out := Part{ID: m.ID, Name: m.Name, Place: m.Place, Model: v.Plate.Model, Serial: v.Plate.Serial, Layout: v.Layout,
		Inside: v.Inside}
	for _, l := range v.Found {
		row, _ := inspect.Find(l.Sight)
		seen := l.Seen()
		text := seen.Text
		if number := row.Read(l.Number); number != "" {
			text = number + " (" + inSentence(text) + ")"
		}
		out.Found = append(out.Found, Found{l.Sight, l.Verdict, row.Title + care.OfGroup(l.Part, groups), text,
			seen.Means, seen.Bad})
	}
	slices.SortStableFunc(out.Found, func(a, b Found) int { return rank(a.Bad) - rank(b.Bad) })
	out.Done = doneOf(v, groups, zone)
	for _, e := range v.Done {
		if e.By != "" && !slices.Contains(out.By, e.By) {
			out.By = append(out.By, e.By)
		}
	}
	out.Next = nextOf(v.Next, groups, v.Now, zone)
	for _, c := range v.Daily {
		out.Daily = append(out.Daily, Daily{c.OnPaper(), c.How})
	}
	for _, c := range v.Cautions {
		out.Cautions = append(out.Cautions, c.Text)
	}
	return out
}

// inSentence is a line as it stands after other words.
func inSentence(line string) string {
	first, size := utf8.DecodeRuneInString(line)
	return string(unicode.ToLower(first)) + line[size:]
}

// nextOf gathers what comes next by the day: the groups of one task in one job, and what is more than a year ahead
// under one head.
func nextOf(list []care.Standing, groups int, now time.Time, zone *time.Location) []Next {
	var out []Next
	for i, s := range list {
		first := func(o care.Standing) bool {
			return o.Task == s.Task && o.State == s.State && o.Falls(zone) == s.Falls(zone)
		}
		if slices.ContainsFunc(list[:i], first) {
			continue // it stands with the first of its groups
		}
		var of []int
		for _, o := range list[i:] {
			if n := o.Part.GroupNumber(); first(o) && n > 0 {
				of = append(of, n)
			}
		}
		slices.Sort(of)
		j := Job{Title: s.Title}
		if len(of) > 0 && groups > 1 {
			j.Title += ", " + care.Groups(of)
		}
		if s.State != care.Later {
			j.Why = s.Why
		}
		n := Next{When: s.Falls(zone), Between: s.Between(zone), Now: s.State != care.Later}
		if s.Likely.After(now.AddDate(1, 0, 0)) {
			j.Title += ", " + s.Likely.In(zone).Format("January 2006")
			n.When, n.Between = "In more than a year.", ""
		}
		at := slices.IndexFunc(out, func(o Next) bool { return o.When == n.When && o.Between == n.Between })
		if at < 0 {
			out, at = append(out, n), len(out)
		}
		out[at].Jobs = append(out[at].Jobs, j)
	}
	return out
}

func rank(bad bool) int {
	if bad {
		return 0
	}
	return 1
}

// doneOf tells each line where there are few days, and what they come to where there are many: then what did not end
// well, was signed or noted stands by itself.
func doneOf(v app.Visit, groups int, zone *time.Location) []Done {
	var list []Done
	few := v.To.Sub(v.From) < fewDays*24*time.Hour
	if !few {
		for _, s := range record.Sums(v.Done) {
			list = append(list, Done{When: s.Count(), Title: s.Title + care.OfGroup(s.Part, groups),
				Did: s.Words(func(t time.Time) string { return dated(t, zone) })})
		}
	}
	for _, e := range v.Done {
		special := e.Outcome == record.Unsafe || e.Outcome == record.SignedOff || e.Outcome == record.Noted
		if !few && !special || few && e.Task.Row().Way == task.Small && e.Outcome == record.Said {
			continue
		}
		did := e.Did()
		if e.Outcome == record.Said {
			did = append([]string{"Put on record by hand, not led."}, did...)
		}
		if e.Paper != "" {
			did = append(did, "Paper "+e.Paper+" was left.")
		}
		list = append(list, Done{When: e.At.In(zone).Format("2 January 2006, 15:04"),
			Title: e.Title + care.OfGroup(e.Part, groups), Did: did, Proof: e.Proof(), By: e.By, Ended: e.Outcome})
	}
	return list
}

func dated(t time.Time, zone *time.Location) string { return t.In(zone).Format("2 January 2006") }

// Head is the machine in one line: where it stands, how it is built, what its plate says.
func (p Part) Head() string {
	var said []string
	for _, x := range []string{p.Place, p.Layout, p.Model} {
		if x != "" {
			said = append(said, x)
		}
	}
	if p.Serial != "" {
		said = append(said, "serial number "+p.Serial)
	}
	return strings.Join(said, " · ")
}
