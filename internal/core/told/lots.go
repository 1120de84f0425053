package told

import (
	"fmt"
	"strings"

	"gallipot/internal/core/bench"
)

func tellDelivery(_ Change, _, after row) string {
	said := "took in a delivery of " + after.text("supplier")
	if note := after.text("note"); note != "" {
		said += ", note " + note
	}
	return said
}

func tellLot(_ Change, _, after row) string {
	switch after.text("kind") {
	case "part":
		return "parted a lot off as " + after.text("code")
	case "batch":
		return "gave it the code " + after.text("code")
	}
	return "took in a lot as " + after.text("code")
}

// lotActs word the acts on a lot.
var lotActs = map[string]func(body row) string{
	"came_in": func(b row) string {
		return fmt.Sprintf("took in %s (%s g) of %s", b.text("pack"), b.text("grams"), b.text("supplier"))
	},
	"corrected": func(b row) string { return "corrected what is known of it: " + b.text("reason") },
	"accepted":  func(b row) string { return because("accepted it", b) },
	"refused":   func(b row) string { return because("refused it", b) },
	"held":      func(b row) string { return because("put it on hold", b) },
	"freed":     func(b row) string { return because("took it off hold", b) },
	"compared":  func(b row) string { return because("held its list against the allergens", b) },
	"counted": func(b row) string {
		if b.text("thrown") == "yes" {
			return because(fmt.Sprintf("threw away %s g", strings.TrimPrefix(b.text("change_g"), "-")), b)
		}
		return because(fmt.Sprintf("counted %s g more or less", b.text("change_g")), b)
	},
	"stated": func(b row) string { return "found the supplier's statement: " + b.text("statement") },
	"roasted": func(b row) string {
		return fmt.Sprintf("roasted it at %s °C for %s min", b.text("celsius"), b.text("minutes"))
	},
	"parted": func(b row) string { return fmt.Sprintf("froze %s g of it as %s", b.text("grams"), b.text("code")) },
	"froze":  func(b row) string { return fmt.Sprintf("froze %s g of %s", b.text("grams"), b.text("code")) },
	"thawed": func(b row) string { return "took it out to thaw on " + b.day("day") },
}

func because(said string, body row) string {
	if why := body.text("reason"); why != "" {
		return said + ": " + why
	}
	return said
}

func tellLotEntry(_ Change, _, after row) string {
	if tell, known := lotActs[after.text("kind")]; known {
		return tell(after.part("body"))
	}
	return "wrote " + after.text("kind")
}

func tellParty(_ Change, before, after row) string {
	switch {
	case before == nil:
		return "added " + after.text("name") + " to those who get jars"
	case retiredNow(before, after):
		return "retired " + after.text("name")
	}
	return "changed " + after.text("name")
}

// tellMove words jars that went from one place to another.
func tellMove(body row) string {
	place := func(name string) string {
		if name == bench.With {
			return body.text("party_name")
		}
		return bench.PlaceWords[name]
	}
	return because(fmt.Sprintf("moved %s jars: %s, now %s", body.text("jars"), place(body.text("from")),
		place(body.text("to"))), body)
}

// tellRecall words an act in a drill or a recall.
func tellRecall(_ Change, _, after row) string {
	body := after.part("body")
	switch after.text("kind") {
	case "started":
		kind := "a recall"
		if body.text("mock") == "yes" {
			kind = "a drill"
		}
		return fmt.Sprintf("began %s of %s. %s", kind, body.text("title"), body.text("why"))
	case "counted":
		return noted(fmt.Sprintf("counted %s jars: %s, batch %s", body.text("jars"),
			bench.PlaceWords[body.text("place")], body.text("code")), body)
	case "told":
		return fmt.Sprintf("told %s: %s", body.text("name"), body.text("how"))
	case "answered":
		return noted(fmt.Sprintf("heard from %s of batch %s: %s jars set apart, %s sold or used", body.text("name"),
			body.text("code"), body.text("held"), body.text("sold")), body)
	case "widened":
		return "took in more jars of it that turned up"
	}
	return "closed it: " + body.text("done")
}

// noted adds a note to a sentence, where there is one.
func noted(said string, body row) string {
	if note := body.text("note"); note != "" {
		return said + " (" + note + ")"
	}
	return said
}
