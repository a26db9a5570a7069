package api

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	ics "github.com/emersion/go-ical"
)

// event is one of a calendar, as a parser reads it that shares no code with what wrote it.
type event struct {
	uid, day, summary, text string
	sequence                int
	alarms                  int
}

func readCalendar(t *testing.T, text string) map[string]event {
	t.Helper()
	c, err := ics.NewDecoder(strings.NewReader(text)).Decode()
	if err != nil {
		t.Fatalf("%v in %.400s", err, text)
	}
	all := map[string]event{}
	for _, e := range c.Events() {
		said := func(name string) string {
			p := e.Props.Get(name)
			if p == nil {
				return ""
			}
			v, err := p.Text()
			if err != nil {
				return p.Value
			}
			return v
		}
		x := event{uid: said("UID"), day: said("DTSTART"), summary: said("SUMMARY"), text: said("DESCRIPTION")}
		if p := e.Props.Get("SEQUENCE"); p != nil {
			x.sequence, _ = p.Int()
		}
		for _, child := range e.Children {
			if child.Name == "VALARM" {
				x.alarms++
			}
		}
		if _, twice := all[x.uid]; twice || x.uid == "" || x.day == "" || x.summary == "" || x.alarms != 1 ||
			e.Props.Get("DTSTAMP") == nil {
			t.Errorf("event %+v", x)
		}
		all[x.uid] = x
	}
	return all
}

// firstWash is the wash that comes next of all.
func firstWash(all map[string]event) string {
	best, least := "", 0
	for uid := range all {
		var n int
		_, last, is := strings.Cut(uid, "-wash-group-1-")
		if _, err := fmt.Sscanf(last, "%d@", &n); is && err == nil && (best == "" || n < least) {
			best, least = uid, n
		}
	}
	return best
}

// Over a year of use and washes a feed's dates keep their names: what an event says changes only with a higher
// sequence, asked twice it is the same bytes, and what was done leaves and does not come back.
func TestAYearOfAFeed(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	var feeds Feeds
	b.call("PUT", "/api/feeds", fields{"of": "machine", "key": id}, 200, &feeds)
	ask := func() (string, map[string]event) {
		text := b.sent("GET", feeds.Feeds[0].Path, "", nil).Body.String()
		return text, readCalendar(t, text)
	}
	rng := rand.New(rand.NewPCG(1, 2))
	_, was := ask()
	gone := map[string]bool{}
	rose := 0
	for range 52 {
		b.now = b.now.AddDate(0, 0, 7)
		b.call("POST", "/api/machines/"+id+"/use", fields{"id": newID(), "kind": "double", "count": 10 + rng.IntN(30),
			"part": "group-1", "at": b.now}, 201, nil)
		if rng.IntN(2) == 0 {
			b.call("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now},
				201, nil)
			gone[firstWash(was)] = true
		}
		text, now := ask()
		if again, _ := ask(); again != text {
			t.Fatal("asked twice, it says two things")
		}
		for uid, e := range now {
			old, known := was[uid]
			switch same := e.day == old.day && e.summary == old.summary && e.text == old.text; {
			case gone[uid]:
				t.Errorf("%s was done, and is there", uid)
			case known && same && e.sequence != old.sequence, known && e.sequence < old.sequence:
				t.Errorf("%s: sequence %d after %d, and says the same", uid, e.sequence, old.sequence)
			case known && e.day != old.day && e.sequence <= old.sequence:
				t.Errorf("%s: another day, %s after %s, sequence %d after %d", uid, e.day, old.day, e.sequence, old.sequence)
			case known && e.sequence > old.sequence:
				rose++
			}
		}
		was = now
	}
	if rose == 0 || len(gone) == 0 {
		t.Errorf("%d sequences rose, %d washes left", rose, len(gone))
	}
}

// The address of a feed is a secret that can be changed and ended; what is due stays on the day on which it fell due.
func TestTheAddressOfAFeed(t *testing.T) {
	b, first := owner(t)
	id := newID()
	if got := first.ask("POST", "/api/machines", fields{"id": id, "name": "Tea deck", "zone": "Europe/Lisbon",
		"answers": home()}, nil); got != 201 {
		t.Fatal(got)
	}
	var feeds Feeds
	bench := fields{"of": "bench", "key": ""}
	if got := first.ask("PUT", "/api/feeds", bench, &feeds); got != 200 || len(feeds.Feeds) != 1 {
		t.Fatalf("%d %+v", got, feeds)
	}
	var card MachineCard // its tag leads a phone to that machine, where phones are let in
	if got := first.ask("GET", "/api/machines/"+id+"/card", nil, &card); got != 200 || card.Address == nil ||
		!strings.HasSuffix(*card.Address, "/machines/"+id) || !strings.HasPrefix(*card.Address, "https://") ||
		len(*card.Qr) < 21 || len((*card.Qr)[0]) != len(*card.Qr) {
		t.Errorf("%d %+v", got, card.Address)
	}
	stranger := b.browser("198.51.100.7")
	path := feeds.Feeds[0].Path
	if got := stranger.ask("GET", path, nil, nil); got != 200 {
		t.Errorf("by the secret: %d", got)
	}
	if got := stranger.ask("GET", "/api/feeds", nil, nil); got != 401 {
		t.Errorf("the list without a login: %d", got)
	}
	first.ask("PUT", "/api/feeds", bench, &feeds)
	if len(feeds.Feeds) != 1 || feeds.Feeds[0].Path == path {
		t.Errorf("the same address again: %+v", feeds)
	}
	if got := stranger.ask("GET", path, nil, nil); got != 404 {
		t.Errorf("by the old secret: %d", got)
	}
	text := b.sent("GET", feeds.Feeds[0].Path, "", nil).Body.String()
	due := map[string]string{}
	for uid, e := range readCalendar(t, text) {
		if strings.Contains(uid, id) && strings.Contains(e.text, "Due since this day") {
			due[uid] = e.day
		}
	}
	if len(due) == 0 {
		t.Fatalf("nothing is due: %.600s", text)
	}
	b.now = b.now.Add(72 * time.Hour)
	later := readCalendar(t, b.sent("GET", feeds.Feeds[0].Path, "", nil).Body.String())
	for uid, day := range due {
		if e := later[uid]; e.day != day {
			t.Errorf("%s fell due on %s, three days later on %q", uid, day, e.day)
		}
	}
	if got := first.ask("DELETE", "/api/feeds/"+feeds.Feeds[0].Id, nil, &feeds); got != 200 || len(feeds.Feeds) != 0 {
		t.Errorf("ended: %d %+v", got, feeds)
	}
	for key, field := range map[string]string{"owner Nobody": "owner", "machine " + newID(): "machine_id"} {
		of, key, _ := strings.Cut(key, " ")
		var p Problem
		if got := first.ask("PUT", "/api/feeds", fields{"of": of, "key": key}, &p); got != 404 || *p.Field != field {
			t.Errorf("%s %s: %d %+v", of, key, got, p)
		}
	}
}
