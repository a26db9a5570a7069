package job

import (
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// The cautions of washes.
var (
	scald = reason.Caution{Danger: "scald", Text: "Hot water and steam. The maker's manual goes first."}
	lock  = reason.Caution{
		Danger: "pressure",
		Text:   "Never unlock the handle while the pump runs, or before the hiss has ended.",
	}
	soap = reason.Caution{
		Danger: "poison",
		Text: "Detergent is alkaline and an oxidiser. Wear gloves and eye protection; dry hands, and shut the lid at once. " +
			"Keep it from children, and off aluminium baskets and handles. It can cause an allergy. The label goes first.",
	}
	cup = reason.Caution{
		Danger: "scald",
		Text: "The water at the drain spout is hot, and holds detergent. Stand the cup there; if you must hold it, hold " +
			"its handle and protect your eyes.",
	}
	sprays = reason.Caution{
		Danger: "scald", Text: "Hot water can spray over the rim of the handle. Protect your eyes; hands away from below.",
	}
	locked = reason.Caution{
		Danger: "pressure", Text: "The head may still be under pressure. Do not open it before it is cold.",
	}
	drink = reason.Caution{
		Danger: "poison",
		Text:   "Not for drinking. No drinks from this group until the rinse is proven.",
	}
	drain = reason.Caution{
		Danger: "pressure",
		Text: "Nothing came out at the drain after a pulse? Say so: the head may still be under pressure. Do not open " +
			"it.",
	}
)

// The cautions of descales.
var (
	gloves = reason.Caution{
		Danger: "poison",
		Text: "Gloves and eye protection. Acid into water, never the other way; never beside bleach or detergent. " +
			"Away from children. It can cause an allergy: stop if skin or breath reacts. The label goes first.",
	}
	gas = reason.Caution{
		Danger: "gas",
		Text:   "Scale frees gas: an outlet stays open, never all shut. Air the room.",
	}
	sponge = reason.Caution{
		Danger: "break",
		Text:   "Sponge every drop off chrome and stone at once. Deep blue is copper: stop, rinse.",
	}
	hotAcid = reason.Caution{
		Danger: "scald",
		Text:   "This acid is as hot as coffee: it scalds skin and eyes. Cup and jug stand; hands clear. Gloves, glasses.",
	}
	dryHeat = reason.Caution{Danger: "break", Text: "Never heat an empty boiler."}
	steamy  = reason.Caution{
		Danger: "scald",
		Text:   "Hot water and steam come out under pressure: hands clear, tap open slowly.",
	}
)

// What whoever uses a machine every day has to know.
var (
	dipped = reason.Caution{
		Danger: "break",
		Text:   "Never leave the steam wand standing in milk or water: a cooling boiler sucks it in.",
	}
	reliefValve = reason.Caution{
		Danger: "pressure",
		Text: "The relief valve is never plugged and never adjusted. Steam from it, water under the machine, or a gauge at " +
			"its red mark: switch off, pull the plug, call a technician.",
	}
	dryPump = reason.Caution{Danger: "break", Text: "Never switch it on with an empty tank or its water supply shut."}
)

// OwnerCautions are what whoever uses a machine every day has to know, whatever was done to it.
func OwnerCautions(f machine.Facts) []reason.Caution {
	list := []reason.Caution{scald}
	if f.Valve != machine.NoValve {
		list = append(list, lock)
	}
	return append(list, dipped, reliefValve, dryPump)
}

// DetergentCautions are shown wherever detergent is handled.
func DetergentCautions() []reason.Caution { return []reason.Caution{soap, drink} }
