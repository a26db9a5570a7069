package descale

import (
	"fmt"
	"slices"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// The refusals of this package.
const (
	HarmsMaterial   reason.Code = "harms_material"
	TooStrong       reason.Code = "too_strong"
	MaterialNotSaid reason.Code = "material_not_said"
	DoseTooLarge    reason.Code = "dose_too_large"
	NotCleared      reason.Code = "not_cleared"
)

// How long acid may stand in a machine in all, in minutes (our own engineering
// choices; the label goes before them): citric or lactic acid up to mildest g/L,
// sulfamic acid, anything else; on aluminium, whichever acid it is.
const (
	mildContact      = 90
	sulfamicContact  = 30
	otherContact     = 60
	aluminiumContact = 20
	mildest          = 30.0 // g/L
	aluminiumMost    = 20.0 // g/L
)

// Careful is the material that acid is taken to touch in a machine: the one of its
// boilers that bears least, as it was said, or else the worst that its layout is built
// of (our own engineering choice): aluminium where brewing and steam share one small
// heated path, else brass. Said is false where one of them was not.
func Careful(f machine.Facts) (m Material, said bool) {
	m, said = carefully(f, f.BrewMaterial)
	if f.SteamBoiler == 0 {
		return m, said
	}
	steam, steamSaid := carefully(f, f.SteamMaterial)
	if worse := slices.Index(byCare, steam) < slices.Index(byCare, m); worse {
		m = steam
	}
	return m, said && steamSaid
}

// byCare are the materials of boilers, the one that bears least first.
var byCare = []Material{Aluminium, Brass, Copper, Stainless}

// carefully is the material that one of its boilers is taken for.
func carefully(f machine.Facts, material string) (m Material, said bool) {
	if m := Material(material); m.OfBoilers() {
		return m, true
	}
	if f.Layout == machine.Thermoblock || f.Layout == machine.SingleBoiler {
		return Aluminium, false
	}
	return Brass, false
}

// OfBoilers says whether boilers are made of a material.
func (m Material) OfBoilers() bool {
	return m == Copper || m == Brass || m == Stainless || m == Aluminium
}

// has says whether an acid is among the parts of a product.
func (p Product) has(id AcidID) bool {
	return slices.ContainsFunc(p.Parts, func(x Part) bool { return x.Acid == id })
}

// Contact is how long a product of a strength, in g/L of acid, may stand on a
// material in all, from the first drop until less than 1 % is left: what the acid
// and the material bear, or what the label says, whichever is least.
func Contact(p Product, gPerL units.Strength, m Material) time.Duration {
	most := otherContact
	switch {
	case p.has(Sulfamic):
		most = sulfamicContact
	case !p.has(Acetic) && gPerL <= mildest+1e-9:
		most = mildContact
	}
	if m == Aluminium {
		most = min(most, aluminiumContact)
	}
	if p.Minutes > 0 {
		most = min(most, p.Minutes)
	}
	return time.Duration(most) * time.Minute
}

// UsualStrength is what a product is mixed to, in g/L of acid, where nobody asked
// for another: as its label says, but no stronger than what the material bears.
func (p Product) UsualStrength(m Material) units.Strength {
	if m == Aluminium && p.Strength() > aluminiumMost {
		return aluminiumMost
	}
	return p.Strength()
}

// Suits says whether a product of a strength may touch a material.
func (p Product) Suits(m Material, gPerL units.Strength) reason.Finding {
	if no := p.refuses(m, gPerL); no != nil {
		return no.Finding
	}
	minutes := Contact(p, gPerL, m).Minutes()
	finding := func(v reason.Verdict, title string, source reason.Source, because string, next ...string) reason.Finding {
		return reason.Finding{
			Verdict: v, Title: title, Because: []reason.Reason{{Text: because, Source: source}}, Next: next,
		}
	}
	switch {
	case m == Aluminium:
		return finding(reason.Look, "Aluminium: with care", reason.Trade,
			fmt.Sprintf("Only a product its maker approves for it, at most %.0f minutes.", minutes))
	case m == Copper || m == Brass:
		return finding(reason.Look, "Copper and brass: watch the colour", reason.Trade,
			"Deep blue solution is copper coming off: stop and rinse.",
			fmt.Sprintf("%.0f minutes of contact in all at most, never overnight.", minutes))
	case m == Chrome || m == Stone:
		return finding(reason.Look, "Not on "+string(m), reason.Trade, "Acid marks chrome and eats stone.",
			"Sponge every drop off at once, with water.")
	case m == Seals && p.has(Acetic):
		return finding(reason.Look, "Vinegar lingers in seals", reason.Trade, "It smells and tastes for days.")
	}
	return finding(reason.Fine, "May touch "+string(m), reason.Ours,
		fmt.Sprintf("In contact for at most %.0f minutes, rinsed well.", minutes))
}

// refuses is why a product of a strength must not touch a material; nil where it may.
func (p Product) refuses(m Material, gPerL units.Strength) *reason.Refusal {
	switch {
	case m == Aluminium && p.has(Sulfamic):
		return reason.Refuse(HarmsMaterial, "Never on aluminium").
			Of("product", p.ID, "a product without sulfamic acid").
			Why(reason.Trade, "Sulfamic acid eats aluminium.").
			Instead("Choose a product that the maker approves for aluminium.")
	case m == Aluminium && gPerL > aluminiumMost+1e-9:
		return reason.Refuse(TooStrong, fmt.Sprintf("Too strong for aluminium: %.0f g/L", float64(gPerL))).
			Of("strength_g_l", fmt.Sprintf("%.3g", float64(gPerL)), fmt.Sprintf("at most %.0f g/L", aluminiumMost)).
			Why(reason.Ours, fmt.Sprintf("Aluminium bears at most %.0f g/L, for %d minutes.",
				aluminiumMost, aluminiumContact)).
			Instead(fmt.Sprintf("Make it %.0f g/L or weaker, of a product its maker approves.", aluminiumMost))
	}
	return nil
}

// needsMaterial refuses what may only touch a material that somebody has named.
func needsMaterial(f machine.Facts, what, field, value, allowed string) *reason.Refusal {
	if _, said := Careful(f); said {
		return nil
	}
	return reason.Refuse(MaterialNotSaid, "What the boiler is made of is not said: no "+what).
		Of(field, value, allowed+", or the boiler's material said on the machine's page").
		Why(reason.Ours, "What is not known is taken as the worst its layout is built of.").
		Why(reason.Trade, "Aluminium is eaten by sulfamic acid, and by any hot acid.").
		Instead("Find out what the boiler is made of: the maker's manual or the maker says.")
}

// Bears refuses a product of a strength that the machine's boilers, as far as they
// are known, do not bear. The error is a *reason.Refusal.
func (p Product) Bears(f machine.Facts, gPerL units.Strength) error {
	if p.has(Sulfamic) {
		if no := needsMaterial(f, "sulfamic acid", "product", p.ID, "a product without sulfamic acid"); no != nil {
			return no
		}
	}
	m, said := Careful(f)
	no := p.refuses(m, gPerL)
	if no == nil {
		return nil
	}
	if !said {
		no.Code = MaterialNotSaid
		no.Finding.Title = fmt.Sprintf("%.0f g/L is too strong while the boiler's material is not said", float64(gPerL))
		no.Why(reason.Ours, "Nobody has said what the boiler is made of, so it is taken as aluminium.").
			Instead("Or say on the machine's page what it is made of.")
	}
	return no
}

// MixFor is the dose for a machine's circuits, of a strength in g/L, or of 0 for as strong
// as is usual there: its boilers must bear it, by what they are said to be made of or are
// taken for; touched is what else the acid gets to. The error is a *reason.Refusal.
func MixFor(p Product, gPerL units.Strength, f machine.Facts, circuits []Circuit, touched ...Material) (Card, error) {
	material, said := Careful(f)
	asked := gPerL
	if asked == 0 {
		asked = p.UsualStrength(material)
	}
	if err := p.Bears(f, asked); err != nil {
		return Card{}, err
	}
	c, err := Mix(p, gPerL, circuits, append([]Material{material}, touched...)...)
	if err == nil && asked > plenty {
		c.Findings = append(c.Findings, Strong(asked))
	}
	if err == nil && !said {
		c.Findings = append([]reason.Finding{NotSaid(material)}, c.Findings...)
	}
	return c, err
}

// plenty is the strength above which something is said (common practice: about 30 g/L, an ounce to a quart).
const plenty units.Strength = 50

// Strong is what there is to say of a solution that is stronger than practice mixes it.
func Strong(s units.Strength) reason.Finding {
	return reason.Finding{
		Verdict: reason.Look, Title: fmt.Sprintf("%.0f g/L is stronger than it needs to be", float64(s)),
		Because: []reason.Reason{
			{Text: "Practice mixes about 30 g/L. How fast scale comes off goes by the surface and the time, hardly " +
				"by more acid.",
				Source: reason.Trade},
			{Text: "It is harder on metal, skin and stone, and takes longer to rinse out.", Source: reason.Ours},
		},
		Next: []string{"Mix 30 g/L, unless the label of the product says otherwise."},
	}
}

// NotSaid is what there is to say where nobody has said what a machine's boilers are
// made of, and they are taken as a material.
func NotSaid(taken Material) reason.Finding {
	return reason.Finding{
		Verdict: reason.Look, Title: "What the boiler is made of is not said: taken as " + string(taken),
		Because: []reason.Reason{{
			Text:   "What is not known is taken as the worst its layout is built of.",
			Source: reason.Ours,
		}},
		Next: []string{"Find out, and say so on the machine's page: it may bear more."},
	}
}
