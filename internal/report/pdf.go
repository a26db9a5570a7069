package report

import (
	_ "embed"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"codeberg.org/go-pdf/fpdf"
)

// Archivo, SIL Open Font License (fonts/OFL.txt); scripts/paper-fonts made the files.
var (
	//go:embed fonts/archivo-head.ttf
	headFont []byte
	//go:embed fonts/archivo-text.ttf
	textFont []byte
	//go:embed fonts/archivo-bold.ttf
	boldFont []byte
)

// Size is the size of the paper.
type Size string

// The sizes.
const (
	A4     Size = "a4"
	Letter Size = "letter"
)

// How a page is laid out, in mm (our own engineering choices): the margins of what a desk printer leaves.
const (
	margin  = 16.0
	foot    = 14.0
	picture = 19.0 // side of a drawing
	gap     = 4.5
	dateCol = 46.0 // of dates beside what they date
)

// writer writes a paper.
type writer struct {
	pdf           *fpdf.Fpdf
	width, height float64
}

// PDF writes a paper as a PDF whose text can be selected; made is the instant that stands in it, so that the same paper
// gives the same bytes.
func PDF(to io.Writer, p Paper, size Size, made time.Time) error {
	name := "A4"
	if size == Letter {
		name = "Letter"
	}
	w := &writer{pdf: fpdf.New("P", "mm", name, "")}
	f := w.pdf
	f.SetCatalogSort(true)
	f.SetCreationDate(made.UTC())
	f.SetModificationDate(made.UTC())
	f.SetProducer("Fresh Anvil", true)
	f.SetTitle(clean(strings.TrimSpace(p.Title+", "+p.Owner)), true)
	f.SetLang("en-GB")
	f.AddUTF8FontFromBytes("head", "", headFont)
	f.AddUTF8FontFromBytes("text", "", textFont)
	f.AddUTF8FontFromBytes("text", "B", boldFont)
	f.SetCellMargin(0)
	f.SetMargins(margin, margin, margin)
	f.SetAutoPageBreak(true, margin+foot)
	f.AliasNbPages("{pages}")
	w.width, w.height = f.GetPageSize()
	f.SetFooterFunc(func() {
		f.SetY(w.height - margin)
		w.ink("grey")
		w.text(8.5, false)
		said := fmt.Sprintf("Written by Fresh Anvil on %s. Page %d of {pages}", p.Made, f.PageNo())
		f.CellFormat(0, 4, clean(said), "", 0, "L", false, 0, "")
	})
	f.AddPage()
	w.top(p)
	for i, m := range p.Machines {
		if i > 0 {
			f.AddPage()
		}
		w.machine(m)
	}
	w.signature(p)
	return f.Output(to)
}

func (w *writer) top(p Paper) {
	w.ink("ink")
	w.head(30)
	w.lines(11, p.Title)
	w.text(11, false)
	who := p.Period
	if p.Owner != "" {
		who = "For " + p.Owner + ". " + who
	}
	w.lines(5.4, who)
	w.rule("ink", 0.7, 2)
}

func (w *writer) machine(m Part) {
	w.ink("ink")
	w.head(22)
	w.lines(8.6, m.Name)
	w.ink("grey")
	w.text(10, false)
	w.lines(4.8, m.Head())
	w.ink("ink")
	for _, text := range m.Inside {
		w.warning(text)
	}
	w.section("What was found", len(m.Found) > 0)
	for _, x := range m.Found {
		w.found(x)
	}
	w.section("What was done", true)
	for _, x := range m.Done {
		w.done(x)
	}
	if len(m.Done) == 0 {
		w.text(10, false)
		w.lines(4.8, "Nothing is on record for these days.")
	}
	w.section("What comes next", len(m.Next) > 0)
	for _, x := range m.Next {
		w.beside(x.When, func() {
			for _, j := range x.Jobs {
				w.text(10.5, true)
				w.lines(4.9, j.Title)
				if j.Why != "" {
					w.text(9.5, false)
					w.lines(4.5, j.Why)
				}
			}
			if x.Between != "" {
				w.text(9.5, false)
				w.lines(4.5, x.Between)
			}
		})
	}
	w.section("Yours to do, every day", len(m.Daily) > 0)
	for _, x := range m.Daily {
		w.text(9.5, false)
		w.keep(4.7 + 4.4*w.count(x.How, margin+5.5)) // a box with what it is for
		w.text(10, true)
		w.pdf.SetX(margin)
		w.pdf.Rect(margin, w.pdf.GetY()+0.9, 3, 3, "D")
		w.pdf.SetLeftMargin(margin + 5.5)
		w.lines(4.7, x.Title)
		w.text(9.5, false)
		w.lines(4.4, x.How)
		w.pdf.SetLeftMargin(margin)
	}
	w.section("Mind", len(m.Cautions) > 0)
	w.text(9.5, false)
	for _, c := range m.Cautions {
		w.keep(9)
		w.stroke(inks["stop"])
		w.pdf.SetLineWidth(1.1)
		top := w.pdf.GetY() + 0.4
		w.pdf.SetLeftMargin(margin + 4)
		w.lines(4.4, c)
		w.pdf.SetLeftMargin(margin)
		w.pdf.Line(margin+1, top, margin+1, w.pdf.GetY()-0.4)
	}
}

// found is a drawing with what it says beside it.
func (w *writer) found(x Found) {
	w.keep(picture + 2)
	y := w.pdf.GetY() + 1
	w.sight(x.Sight, x.Verdict, margin, y, picture)
	w.pdf.SetLeftMargin(margin + picture + gap)
	w.pdf.SetXY(margin+picture+gap, y)
	w.ink("ink")
	w.text(10.5, true)
	w.lines(5, x.Title+": "+inSentence(x.Text))
	w.text(10, false)
	w.lines(4.7, x.Means)
	w.pdf.SetLeftMargin(margin)
	w.pdf.SetXY(margin, max(w.pdf.GetY(), y+picture)+1.5)
}

func (w *writer) done(x Done) {
	w.beside(x.When, func() {
		w.text(10.5, true)
		w.lines(4.9, x.Title)
		w.text(10, false)
		for _, t := range x.Did {
			w.lines(4.7, t)
		}
		if x.Proof != "" {
			w.lines(4.7, x.Proof)
		}
		if x.By != "" {
			w.lines(4.7, "By "+x.By+".")
		}
	})
}

// beside writes a date at the left and what it dates at the right, both on one page.
func (w *writer) beside(when string, write func()) {
	w.keep(16)
	y := w.pdf.GetY() + 1.2
	page := w.pdf.PageNo()
	bottom := y
	if when != "" {
		w.text(9.5, false)
		w.pdf.SetXY(margin, y+0.3)
		w.pdf.MultiCell(dateCol-3, 4.4, clean(when), "", "L", false)
		bottom = w.pdf.GetY()
	}
	w.pdf.SetLeftMargin(margin + dateCol)
	w.pdf.SetXY(margin+dateCol, y)
	write()
	w.pdf.SetLeftMargin(margin)
	if w.pdf.PageNo() == page {
		w.pdf.SetXY(margin, max(bottom, w.pdf.GetY()))
	}
	w.rule("rule", 0.2, 1)
}

// warning stands in a frame of stop ink.
func (w *writer) warning(text string) {
	w.keep(14)
	w.pdf.Ln(2)
	top := w.pdf.GetY()
	w.pdf.SetLeftMargin(margin + 4)
	w.pdf.SetRightMargin(margin + 4)
	w.pdf.SetXY(margin+4, top+2)
	w.text(12, true)
	w.lines(5.6, text+".")
	w.pdf.SetLeftMargin(margin)
	w.pdf.SetRightMargin(margin)
	w.stroke(inks["stop"])
	w.pdf.SetLineWidth(1.6)
	w.pdf.Rect(margin, top, w.width-2*margin, w.pdf.GetY()-top+2, "D")
	w.pdf.SetXY(margin, w.pdf.GetY()+4)
}

func (w *writer) signature(p Paper) {
	var by []string
	for _, m := range p.Machines {
		by = append(by, m.By...)
	}
	w.keep(24)
	w.pdf.Ln(12)
	y := w.pdf.GetY()
	w.stroke(inks["ink"])
	w.pdf.SetLineWidth(0.3)
	half := (w.width - 2*margin - 8) / 2
	w.pdf.Line(margin, y, margin+half, y)
	w.pdf.Line(margin+half+8, y, w.width-margin, y)
	w.text(9, false)
	who := "Who did the work"
	if len(by) > 0 {
		who += ": " + strings.Join(unique(by), ", ")
	}
	w.pdf.SetXY(margin, y+1)
	w.pdf.CellFormat(half, 4.4, clean(who), "", 0, "L", false, 0, "")
	w.pdf.SetXY(margin+half+8, y+1)
	w.pdf.CellFormat(half, 4.4, "The owner, and the day", "", 0, "L", false, 0, "")
}

func unique(list []string) []string {
	var out []string
	for _, x := range list {
		if !slices.Contains(out, x) {
			out = append(out, x)
		}
	}
	return out
}

// section begins a part of the paper, unless it is empty.
func (w *writer) section(title string, any bool) {
	if !any {
		return
	}
	w.keep(22)
	w.pdf.Ln(4)
	w.ink("ink")
	w.head(15)
	w.lines(6.6, title)
	w.rule("ink", 0.4, 0.6)
}

// count is how many lines a text takes from so far from the left.
func (w *writer) count(text string, left float64) float64 {
	return float64(len(w.pdf.SplitText(text, w.width-margin-left)))
}

// keep begins a page where less than so many mm are left on this one.
func (w *writer) keep(mm float64) {
	if w.pdf.GetY()+mm > w.height-margin-foot {
		w.pdf.AddPage()
	}
}

func (w *writer) rule(ink string, width, after float64) {
	w.stroke(inks[ink])
	w.pdf.SetLineWidth(width)
	y := w.pdf.GetY() + 1
	w.pdf.Line(margin, y, w.width-margin, y)
	w.pdf.SetXY(margin, y+after)
}

func (w *writer) lines(height float64, text string) {
	w.pdf.MultiCell(0, height, clean(text), "", "L", false)
}

func (w *writer) head(pt float64) { w.pdf.SetFont("head", "", pt) }

func (w *writer) text(pt float64, bold bool) {
	style := ""
	if bold {
		style = "B"
	}
	w.pdf.SetFont("text", style, pt)
}

func (w *writer) ink(name string) {
	c := inks[name]
	w.pdf.SetTextColor(c[0], c[1], c[2])
}

func (w *writer) stroke(c colour) { w.pdf.SetDrawColor(c[0], c[1], c[2]) }

// clean replaces what the fonts of the paper do not have: they hold the letters of Europe's latin scripts.
func clean(s string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\u00a0' || r == '\u202f' || r == '\u2009':
			return ' '
		case r == '\u2212' || r == '\u2011':
			return '-'
		case r > 0x24f && (r < 0x2010 || r > 0x2026) && r != '€' && r != '™':
			return '?'
		}
		return r
	}, s)
}
