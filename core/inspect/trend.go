package inspect

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"freshanvil/core/speak"
)

// Trend is how a thing has looked over time.
type Trend struct {
	Text  string // the last looks in words, oldest first; empty where there are none
	Worse bool   // the last is worse than the one before
	// Reaches is when a number that goes on as it went turns bad; zero where it does not, or nobody can say.
	Reaches time.Time
}

// How many looks are told; how many readings over which time a course is drawn through, and how far ahead it is
// believed (our own engineering choices).
const (
	toldLooks   = 4
	courseFrom  = 3
	courseSpan  = 30 * 24 * time.Hour
	courseAhead = 2 * 365 * 24 * time.Hour
	hoursInADay = 24
	leastDrift  = 1e-9
)

// TrendOf tells how a thing has looked, by the looks at it before now, in any order.
func (r Row) TrendOf(list []Found, c Context, now time.Time, zone *time.Location) Trend {
	list = slices.DeleteFunc(slices.Clone(list), func(f Found) bool {
		_, known := r.Find(f.Verdict)
		return !known || f.At.After(now)
	})
	slices.SortFunc(list, func(a, b Found) int { return cmp.Compare(a.At.UnixMilli(), b.At.UnixMilli()) })
	var out Trend
	if n := len(list); n > 1 {
		out.Worse = r.rank(list[n-1].Verdict) > r.rank(list[n-2].Verdict)
	}
	out.Reaches = r.reaches(list, c, now)
	told := list[max(0, len(list)-toldLooks):]
	words := make([]string, len(told))
	for i, f := range told {
		words[i] = r.brief(f) + " in " + month(f.At.In(zone), now.In(zone))
	}
	if len(words) == 0 {
		return out
	}
	text := strings.Join(words, ", ")
	first, n := utf8.DecodeRuneInString(text) // it may be a minus
	out.Text = string(unicode.ToUpper(first)) + text[n:] + "."
	if !out.Reaches.IsZero() {
		out.Text += " Going on so, it turns bad about " + month(out.Reaches.In(zone), now.In(zone)) + "."
	}
	return out
}

// rank is how bad a verdict is among those of its row.
func (r Row) rank(v Verdict) int {
	return slices.IndexFunc(r.Seen, func(s Seen) bool { return s.Verdict == v })
}

// brief is a look in a word or two, or its number.
func (r Row) brief(f Found) string {
	if read := r.Read(f.Number); read != "" {
		return read
	}
	seen, _ := r.Find(f.Verdict)
	text, _, _ := strings.Cut(seen.Text, ":")
	text, _, _ = strings.Cut(text, ",")
	return speak.Lower(text)
}

// Read is a number as it was read, with its unit; empty for none.
func (r Row) Read(number *float64) string {
	if number == nil || r.Measure == nil {
		return ""
	}
	space := " "
	if r.Measure.Unit == "°" {
		space = ""
	}
	return strings.Replace(fmt.Sprintf("%g", math.Round(*number*10)/10), "-", "−", 1) + space + r.Measure.Unit
}

func month(at, now time.Time) string {
	if at.Year() == now.Year() {
		return at.Format("January")
	}
	return at.Format("January 2006")
}

// reaches is when the line of least squares through the readings comes to where they turn bad.
func (r Row) reaches(list []Found, c Context, now time.Time) time.Time {
	if r.Measure == nil || r.Measure.limit == nil {
		return time.Time{}
	}
	var read []Found
	for _, f := range list {
		if f.Number != nil {
			read = append(read, f)
		}
	}
	n := len(read)
	if n < courseFrom || read[n-1].At.Sub(read[0].At) < courseSpan {
		return time.Time{}
	}
	var sx, sy, sxx, sxy float64
	for _, f := range read {
		x := f.At.Sub(read[0].At).Hours() / hoursInADay
		sx, sy, sxx, sxy = sx+x, sy+*f.Number, sxx+x*x, sxy+x**f.Number
	}
	slope := (float64(n)*sxy - sx*sy) / (float64(n)*sxx - sx*sx)
	if math.Abs(slope) < leastDrift {
		return time.Time{}
	}
	if last, _ := r.Find(read[n-1].Verdict); last.Bad {
		return time.Time{} // it has turned already
	}
	days := (r.Measure.limit(c) - (sy-slope*sx)/float64(n)) / slope
	at := read[0].At.Add(time.Duration(days * hoursInADay * float64(time.Hour)))
	if !at.After(now) || at.Sub(now) > courseAhead {
		return time.Time{}
	}
	return at
}
