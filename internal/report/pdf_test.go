package report

import (
	"bytes"
	"slices"
	"strings"
	"testing"
	"time"
	"unicode"

	"github.com/ledongthuc/pdf"

	"freshanvil/core/inspect"
)

// words are those of a text, in its order, without the signs between them.
func words(text string) []string {
	return strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
}

// read is the text of a PDF by a library that shares no code with the one that wrote it, and its pages.
func read(t *testing.T, raw []byte) (string, int) {
	t.Helper()
	r, err := pdf.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		t.Fatal(err)
	}
	var all strings.Builder
	for n := 1; n <= r.NumPage(); n++ {
		text, err := r.Page(n).GetPlainText(nil)
		if err != nil {
			t.Fatal(err)
		}
		all.WriteString(text + "\n")
	}
	return all.String(), r.NumPage()
}

func handed() Paper {
	return Paper{Title: "Service report", Owner: "Äänekari Ferry Line", Period: "9 March 2026", Made: "10 March 2026",
		Machines: []Part{{Name: "Tea deck", Place: "main deck", Layout: "Heat exchanger, café", Serial: "A-17",
			Inside: []string{"Detergent is in group 2"},
			Found: []Found{{inspect.Screen, "blocked", "Screen, group 1", "Holes are blocked",
				"Water comes through unevenly.", true}},
			Done: []Done{{When: "9 March 2026, 18:40", Title: "Detergent wash, group 1",
				Did: []string{"3 g of powder, 5 pulses with it, 7 of water."}, Proof: "In the cup: no colour.", By: "RM"}},
			Next:     []Next{{When: "About 15 March 2026.", Jobs: []Job{{Title: "Wipe the tank out"}}}},
			Daily:    []Daily{{"Brush seal and screen", "Dry brush, round the seal."}},
			Cautions: []string{"Hot water and steam. The maker's manual goes first."}, By: []string{"RM"}}}}
}

func pdfOf(t *testing.T, p Paper, size Size) []byte {
	t.Helper()
	var out bytes.Buffer
	if err := PDF(&out, p, size, time.Date(2026, 3, 10, 0, 0, 0, 0, time.UTC)); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// What is on paper is what was to be said, word by word, as another library reads it; the same paper is the same bytes.
func TestThePaperSaysItAll(t *testing.T) {
	p := handed()
	for _, size := range []Size{A4, Letter} {
		raw := pdfOf(t, p, size)
		if !bytes.Equal(raw, pdfOf(t, p, size)) {
			t.Errorf("%s: the same paper, other bytes", size)
		}
		got, pages := read(t, raw)
		if pages != 1 {
			t.Errorf("%s: %d pages", size, pages)
		}
		m := p.Machines[0]
		want := []string{p.Title, p.Owner, p.Period, p.Made, m.Name, m.Place, m.Layout, m.Serial, m.Inside[0],
			m.Found[0].Means, m.Done[0].When, m.Done[0].Title, m.Done[0].Did[0], m.Done[0].Proof, m.Next[0].When,
			m.Next[0].Jobs[0].Title, m.Daily[0].Title, m.Daily[0].How, m.Cautions[0], "Page 1 of 1"}
		in := words(got)
		for _, text := range want {
			for _, word := range words(text) {
				if !slices.Contains(in, word) {
					t.Errorf("%s: %q of %q is not on the paper", size, word, text)
				}
			}
		}
		for _, said := range []string{"/Lang (en-GB)", "/Title ", "/MediaBox"} {
			if !bytes.Contains(raw, []byte(said)) {
				t.Errorf("%s: no %s", size, said)
			}
		}
	}
}

// Every sight has its drawing, and none of them is empty.
func TestEverySightIsDrawn(t *testing.T) {
	for _, row := range inspect.All() {
		for _, seen := range row.Seen {
			list := shapes[string(row.Sight)+" "+string(seen.Verdict)]
			lines := 0
			for _, s := range list {
				if len(parsePath(s.D)) > 0 && (s.Ink != "" || s.Fill != "") {
					lines++
				}
				if _, known := inks[s.Ink]; s.Ink != "" && !known {
					t.Errorf("%s %s: an ink %q", row.Sight, seen.Verdict, s.Ink)
				}
			}
			if lines == 0 {
				t.Errorf("%s %s: nothing is drawn; make sights", row.Sight, seen.Verdict)
			}
		}
	}
}

// Every word is in an ink that shows on paper, whatever was drawn before it: as another library reads the page, the
// colour of text is what it was before a drawing whose ink held within that alone.
func TestEveryWordIsInInk(t *testing.T) {
	p := handed()
	p.Machines[0].Found = nil
	for _, row := range inspect.All() {
		for _, seen := range row.Seen {
			p.Machines[0].Found = append(p.Machines[0].Found, Found{row.Sight, seen.Verdict, "Screen, group 1",
				"Holes are blocked", "Water comes through unevenly.", true})
		}
	}
	raw := pdfOf(t, p, A4)
	r, err := pdf.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		t.Fatal(err)
	}
	shown := 0
	for n := 1; n <= r.NumPage(); n++ {
		fill, kept := "0", []string{}
		pdf.Interpret(r.Page(n).V.Key("Contents"), func(stack *pdf.Stack, op string) {
			args := make([]string, stack.Len())
			for i := range args {
				args[len(args)-1-i] = stack.Pop().String()
			}
			switch op {
			case "q":
				kept = append(kept, fill)
			case "Q":
				fill, kept = kept[len(kept)-1], kept[:len(kept)-1]
			case "g", "rg":
				fill = strings.Join(args, " ")
			case "Tj", "TJ":
				if shown++; strings.HasPrefix(fill, "1") {
					t.Errorf("page %d: words in the colour of the paper", n)
				}
			}
		})
	}
	if shown < 2*len(p.Machines[0].Found) {
		t.Errorf("only %d lines were seen", shown)
	}
}

// A long record goes on to further pages, each with its foot; a letter that the fonts have not is a question mark.
func TestALongPaper(t *testing.T) {
	p := handed()
	p.Owner = "茶 Bar"
	for range 60 {
		p.Machines[0].Done = append(p.Machines[0].Done, p.Machines[0].Done[0])
	}
	got, pages := read(t, pdfOf(t, p, A4))
	if pages < 3 || !strings.Contains(strings.ReplaceAll(got, " ", ""), "?Bar") {
		t.Errorf("%d pages: %.300s", pages, got)
	}
	if strings.Count(strings.ReplaceAll(got, " ", ""), "WrittenbyFreshAnvil") != pages {
		t.Errorf("%d pages, a foot on %d", pages, strings.Count(got, "Written by"))
	}
}
