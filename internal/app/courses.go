package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/inspect"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// Course is one thing that was read of a machine again and again, oldest first.
type Course struct {
	Title, Unit string
	Grades      []string // what its values stand for, from 0 up; none where they are amounts
	Points      []Point
}

// Point is one reading of a course.
type Point struct {
	At    time.Time
	Value float64
	Text  string
}

// dirty are the grades of the first dirty water, cleanest first.
var dirty = []string{string(backflush.ColourClear), string(backflush.ColourPale), string(backflush.ColourBrown),
	string(backflush.ColourDark)}

// mostLooks is how many looks at one thing make a course.
const mostLooks = 1000

// Courses are the readings of a machine over time: the hardness of its water, its first dirty water, what was measured
// at parts, the scale that spent solutions told of. What was read once only is no course.
func (a *App) Courses(ctx context.Context, m store.Machine) ([]Course, error) {
	var list []Course
	hard, err := a.hardnessCourse(ctx, m)
	if err != nil {
		return nil, err
	}
	list = append(list, hard)
	entries, err := a.store.EntriesBetween(ctx, m.ID, time.Time{}, a.now().Add(24*time.Hour))
	if err != nil {
		return nil, err
	}
	groups := m.Answers.Facts().Groups
	by := map[string]*Course{}
	at := func(key string, begin Course) *Course {
		if by[key] == nil {
			by[key] = &begin
		}
		return by[key]
	}
	for _, e := range entries {
		grade := slices.Index(dirty, string(e.Record.First))
		if e.Task != task.Wash || grade < 0 {
			continue
		}
		c := at("0 "+e.Part.String(), Course{Title: "First dirty water" + care.OfGroup(e.Part, groups),
			Grades: dirty})
		c.Points = append(c.Points, Point{e.At, float64(grade), dirty[grade]})
	}
	looks, err := a.store.Looks(ctx, m.ID, mostLooks)
	if err != nil {
		return nil, err
	}
	for _, l := range slices.Backward(looks) {
		row, _ := inspect.Find(l.Sight)
		if l.Number == nil || row.Measure == nil {
			continue
		}
		c := at("1 "+string(l.Sight)+l.Part.String(), Course{Title: row.Title + care.OfGroup(l.Part, groups),
			Unit: row.Measure.Unit})
		c.Points = append(c.Points, Point{l.At, *l.Number, row.Read(l.Number)})
	}
	shares, err := a.store.Shares(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	for _, s := range slices.Backward(shares) { // they come newest first
		if g := s.Spent.Grams; g.Known {
			c := at("2", Course{Title: "Scale that came out, by the spent solution", Unit: "g"})
			c.Points = append(c.Points, Point{s.At, g.Likely, fmt.Sprintf("about %.2g g", g.Likely)})
		}
		if ph := float64(s.Spent.PH); ph > 0 {
			c := at("3", Course{Title: "pH of the spent solution"})
			c.Points = append(c.Points, Point{s.At, ph, fmt.Sprintf("pH %.1f", ph)})
		}
	}
	keys := make([]string, 0, len(by))
	for k := range by {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	for _, k := range keys {
		list = append(list, *by[k])
	}
	return slices.DeleteFunc(list, func(c Course) bool { return len(c.Points) < 2 }), nil
}

// hardnessCourse is that of the water that a machine draws now.
func (a *App) hardnessCourse(ctx context.Context, m store.Machine) (Course, error) {
	c := Course{Title: "Hardness of its water", Unit: "°dH"}
	sources, err := a.store.Sources(ctx)
	if err != nil {
		return c, err
	}
	draws, err := a.store.Drawn(ctx, m.ID)
	if err != nil || len(draws) == 0 {
		return c, err
	}
	newest := slices.MaxFunc(draws, func(x, y store.Draws) int { return x.From.Compare(y.From) })
	for _, s := range sources {
		for _, r := range s.Samples {
			if h := r.Sample.Hardness; s.ID == newest.SourceID && h.Known {
				read, err := units.NewHardness(h.Likely, units.MgPerLCaCO3)
				if err != nil {
					return c, err
				}
				dh := read.In(units.GermanDegree)
				c.Points = append(c.Points, Point{r.Taken, dh, fmt.Sprintf("%.0f °dH", dh)})
			}
		}
	}
	slices.SortFunc(c.Points, func(x, y Point) int { return cmp.Compare(x.At.UnixMilli(), y.At.UnixMilli()) })
	return c, nil
}
