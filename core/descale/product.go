package descale

import (
	"fmt"
	"math"
	"slices"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Form is how a product is measured out.
type Form string

// The forms: powder in grams, sachets by the piece, liquid in millilitres.
const (
	Powder  Form = "powder"
	Sachets Form = "sachets"
	Liquid  Form = "liquid"
)

// Part is one acid of a product: grams of it, anhydrous, in a unit of the product.
type Part struct {
	Acid  AcidID  `json:"acid"`
	Grams float64 `json:"grams"` // in a gram of powder, a sachet, a millilitre
}

// Product is what is measured out, as its label says.
type Product struct {
	ID    string  `json:"id"`
	Name  string  `json:"name"`
	Form  Form    `json:"form"`
	Parts []Part  `json:"parts"`
	Litre float64 `json:"a_litre"` // units of the product a litre of water, by its label
	// Spoon is the grams of powder in a level teaspoon; 0 for the others.
	Spoon float64 `json:"spoon_g,omitempty"`
	// Minutes is the longest contact by its label; 0 where it names none.
	Minutes int    `json:"minutes,omitempty"`
	Note    string `json:"note,omitempty"`
}

// monohydrate is how much more of citric acid's monohydrate it takes (molar masses
// 210.14 and 192.124).
const monohydrate = 210.14 / 192.124

// products are the generic ones: strengths by their chemistry, a litre's dose by
// common practice, sachet and ready liquid invented.
var products = []Product{
	{
		ID:    "citric",
		Name:  "citric acid, anhydrous",
		Form:  Powder,
		Parts: []Part{{Citric, 1}},
		Litre: 30,
		Spoon: 4.5,
		Note:  "What most kits are. Food grade only.",
	},
	{
		ID:    "citric_hydrate",
		Name:  "citric acid, monohydrate",
		Form:  Powder,
		Parts: []Part{{Citric, 1 / monohydrate}},
		Litre: 30 * monohydrate,
		Spoon: 4.5,
		Note:  "Carries water of its own: a tenth more of it.",
	},
	{
		ID:    "lactic",
		Name:  "lactic acid, 80 %",
		Form:  Liquid,
		Parts: []Part{{Lactic, 0.96}},
		Litre: 31.25,
		Note:  "Never turns cloudy, milder on metal.",
	},
	{
		ID:    "sulfamic",
		Name:  "sulfamic acid",
		Form:  Powder,
		Parts: []Part{{Sulfamic, 1}},
		Litre: 30,
		Spoon: 6,
		Note:  "Strong: never on aluminium, rinse at once.",
	},
	{
		ID:    "vinegar",
		Name:  "vinegar, 5 %",
		Form:  Liquid,
		Parts: []Part{{Acetic, 0.05}},
		Litre: 1000,
		Note:  "Weak, and it smells for days: supported because some use it, not recommended.",
	},
	{
		ID:    "sachet",
		Name:  "sachets, one a litre",
		Form:  Sachets,
		Parts: []Part{{Citric, 28}},
		Litre: 1,
		Note:  "As the label says: one for each litre, not one for the machine.",
	},
	{
		ID:    "mark",
		Name:  "liquid, to the tank's mark",
		Form:  Liquid,
		Parts: []Part{{Citric, 0.15}, {Lactic, 0.10}},
		Litre: 125,
		Note:  "A blend: 125 mL a litre by its label.",
	},
}

// Products lists the generic products.
func Products() []Product { return slices.Clone(products) }

// Check refuses a product that cannot be; the error is a *units.OutOfRange.
func (p Product) Check() error {
	if p.Name == "" {
		return &units.OutOfRange{Field: "name", Value: "nothing", Allowed: "a name"}
	}
	most := map[Form]float64{Powder: 1, Sachets: 500, Liquid: 1.5}[p.Form]
	if most == 0 {
		return &units.OutOfRange{Field: "form", Value: string(p.Form), Allowed: "powder, sachets, liquid"}
	}
	if len(p.Parts) == 0 || len(p.Parts) > 4 {
		return &units.OutOfRange{Field: "parts", Value: fmt.Sprint(len(p.Parts)), Allowed: "1 to 4 acids"}
	}
	all := 0.0
	for _, x := range p.Parts {
		if _, err := find(x.Acid); err != nil {
			return err
		}
		if !(x.Grams > 0) {
			return &units.OutOfRange{Field: "grams", Value: fmt.Sprint(x.Grams), Allowed: "above 0"}
		}
		all += x.Grams
	}
	if all > most {
		return &units.OutOfRange{
			Field:   "grams",
			Value:   fmt.Sprint(all),
			Allowed: fmt.Sprintf("at most %g g of acid in a unit of it", most),
		}
	}
	if strength := p.Strength(); !(strength >= 2 && strength <= strongest) {
		return &units.OutOfRange{
			Field:   "a_litre",
			Value:   fmt.Sprint(p.Litre),
			Allowed: fmt.Sprintf("what makes 2 to %g g of acid a litre; this makes %.3g", strongest, strength),
		}
	}
	if p.Minutes < 0 || p.Minutes > 600 {
		return &units.OutOfRange{Field: "minutes", Value: fmt.Sprint(p.Minutes), Allowed: "0 to 600 minutes"}
	}
	if p.Spoon < 0 || p.Spoon > 20 {
		return &units.OutOfRange{Field: "spoon_g", Value: fmt.Sprint(p.Spoon), Allowed: "0 to 20 g"}
	}
	return nil
}

// Strength is the acid of a litre by the label, g/L anhydrous.
func (p Product) Strength() units.Strength {
	sum := 0.0
	for _, x := range p.Parts {
		sum += x.Grams * p.Litre
	}
	return units.Strength(sum)
}

// Main is the acid there is most of.
func (p Product) Main() AcidID {
	best := p.Parts[0]
	for _, x := range p.Parts {
		if x.Grams > best.Grams {
			best = x
		}
	}
	return best.Acid
}

// TakesUp is the limits of a solution of so many g/L in all: of a blend, what each
// acid takes up by itself, added up (our own engineering choice).
func (p Product) TakesUp(gPerL units.Strength) (Limits, error) {
	all := float64(p.Strength()) / p.Litre
	l := Limits{0, 0}
	for _, x := range p.Parts {
		one, err := LimitsOf(x.Acid, max(weakest, gPerL*units.Strength(x.Grams/all)))
		if err != nil {
			return l, err
		}
		l.Slow += one.Slow
		l.Cloudy += min(one.Cloudy, 10*one.Slow)
	}
	if len(p.Parts) == 1 && p.Parts[0].Acid != Citric {
		l.Cloudy = units.Strength(math.Inf(1))
	}
	return l, nil
}

// Material is what the acid touches.
type Material string

// The materials. Chrome and stone are outside.
const (
	Copper    Material = "copper"
	Brass     Material = "brass"
	Stainless Material = "stainless"
	Aluminium Material = "aluminium"
	Chrome    Material = "chrome"
	Stone     Material = "stone"
	Seals     Material = "seals"
)

// Materials lists them.
func Materials() []Material {
	return []Material{Copper, Brass, Stainless, Aluminium, Chrome, Stone, Seals}
}

// Cautions are shown wherever acid is handled.
func Cautions() []reason.Caution {
	return []reason.Caution{
		{
			Danger: "poison",
			Text: "Gloves and eye protection. Acid into water, never water into acid; never beside detergent or bleach. " +
				"Away from children. The label goes before this card. Food-grade acid only.",
		},
		{
			Danger: "gas",
			Text: "Scale frees carbon dioxide, a quarter of a litre a gram: heater off, steam tap open into a jug, never " +
				"every outlet shut. Air the room.",
		},
		{
			Danger: "break",
			Text: "Never into a mains line. Sponge every drop off chrome and stone at once. Blue or green solution is " +
				"copper: stop, rinse.",
		},
		{
			Danger: "scald",
			Text:   "Before any drain is opened: unplugged, cold, gauge at 0, steam tap open. Never heat an empty boiler.",
		},
	}
}
