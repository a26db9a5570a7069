package api

import (
	"context"
	"slices"

	"freshanvil/core/care"
	"freshanvil/internal/app"
)

// GetLog is what was done, newest first, with the next date of each machine.
func (s *Server) GetLog(ctx context.Context, r GetLogRequestObject) (GetLogResponseObject, error) {
	q := app.LogQuery{MachineID: orElse(r.Params.MachineId, ""), Owner: orElse(r.Params.Owner, ""),
		By: orElse(r.Params.By, ""), Text: orElse(r.Params.Text, ""), Task: orElse(r.Params.Task, ""),
		Small: orElse(r.Params.Small, false), Year: orElse(r.Params.Year, 0), Month: orElse(r.Params.Month, 0),
		Limit: orElse(r.Params.Limit, 100)}
	book, err := s.App.Logbook(ctx, q)
	if err != nil {
		return nil, err
	}
	out := Log{Entries: make([]LogEntry, len(book.Entries)), More: book.More, Years: book.Years, Tasks: []TaskName{},
		People: orNone(book.People), Owners: []string{}, Bands: make([]Band, len(book.Bands)), Machines: []NextDate{}}
	if out.Years == nil {
		out.Years = []int{}
	}
	for _, t := range book.Tasks {
		out.Tasks = append(out.Tasks, TaskName{Task: t, Title: t.Title()})
	}
	for i, b := range book.Bands {
		out.Bands[i] = Band{MachineId: b.Machine.ID, Name: b.Machine.Name, Times: b.Times[:], Unsafe: b.Unsafe[:]}
	}
	for i, l := range book.Entries {
		out.Entries[i] = lineOut(l)
	}
	var standing []app.Machine
	for _, m := range book.Machines {
		if m.Owner != "" && !slices.Contains(out.Owners, m.Owner) {
			out.Owners = append(out.Owners, m.Owner)
		}
		if !m.Archived {
			standing = append(standing, m)
		}
	}
	slices.Sort(out.Owners)
	now := s.App.Instant()
	kept, err := s.App.Standings(ctx, standing, now)
	if err != nil {
		return nil, err
	}
	for _, m := range standing {
		line := NextDate{Id: m.ID, Name: m.Name, Zone: m.Zone.String()}
		if jobs, _ := care.Split(kept[m.ID].List); len(jobs) > 0 {
			line.Next = standingOut(jobs[0], m.Answers.Facts().Groups, now)
		}
		out.Machines = append(out.Machines, line)
	}
	return GetLog200JSONResponse(out), nil
}

func lineOut(l app.LogLine) LogEntry {
	out := entryOut(l.Entry, l.Machine)
	out.Sitting = l.Sitting
	if l.Jobs != "" {
		out.Jobs = &l.Jobs
	}
	return out
}

// GetCourses is what was read of a machine over time.
func (s *Server) GetCourses(ctx context.Context, r GetCoursesRequestObject) (GetCoursesResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	list, err := s.App.Courses(ctx, m)
	if err != nil {
		return nil, err
	}
	out := Courses{Zone: m.Zone.String(), Courses: make([]Course, len(list))}
	for i, c := range list {
		out.Courses[i] = Course{Title: c.Title, Unit: c.Unit, Points: make([]CoursePoint, len(c.Points))}
		if len(c.Grades) > 0 {
			out.Courses[i].Grades = &c.Grades
		}
		for n, p := range c.Points {
			out.Courses[i].Points[n] = CoursePoint{At: p.At, Value: p.Value, Text: p.Text}
		}
	}
	return GetCourses200JSONResponse(out), nil
}
