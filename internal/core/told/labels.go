package told

import (
	"fmt"
	"strings"

	"gallipot/internal/core/assess"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/match"
)

// tellLabel tells what was done to a label: how it was made, what its maker decided, how it looks, whose words it has.
func tellLabel(_ Change, before, after row) string {
	size := fmt.Sprintf("%s × %s mm", after.text("width_mm"), after.text("height_mm"))
	if before == nil {
		return fmt.Sprintf("made the %s label, %s", after.text("regime"), size)
	}
	said := tellDesign(before.part("design"), after.part("design"), after.text("regime"))
	if before.text("width_mm") != after.text("width_mm") || before.text("height_mm") != after.text("height_mm") {
		said = append(said, "changed the size to "+size)
	}
	words := !match.SameJSON(before["facts"], after["facts"]) || before.text("version") != after.text("version")
	if words && len(said) == 0 {
		return "confirmed the words of version " + after.text("version")
	}
	if len(said) == 0 {
		return "changed nothing"
	}
	return strings.Join(said, "; ")
}

// tellMark tells what became of the shop's mark.
func tellMark(_ Change, before, after row) string {
	switch {
	case before == nil:
		return "put a mark on the shop's labels"
	case after == nil:
		return "took the mark off the shop's labels"
	}
	return "changed the mark on the shop's labels"
}

// tellDesign tells of each decision and choice that differs.
func tellDesign(before, after row, regime string) []string {
	var said []string
	add := func(name, text string) {
		if !match.SameJSON(before[name], after[name]) {
			said = append(said, text)
		}
	}
	add("nutrition", "nutrition panel: "+nutritionWords(after.text("nutrition"), regime))
	add("named", "has percents beside the marked lines: "+orNone(after.list("named")))
	add("not_named", "said that these only flavour: "+orNone(after.list("not_named")))
	add("nothing_else", ifSaid(after.text("nothing_else"), "said that “%s” stresses nothing else",
		"took back that the name stresses nothing else"))
	add("name_says", ifSaid(after.text("name_says"), "said that “%s” says what it is",
		"took back that the name says what it is"))
	add("claims", "claims: "+orNone(claimWords(after)))
	add("jar", "chose the jar "+orNone(after.text("jar")))
	add("stock", "chose the paper "+orNone(after.text("stock")))
	add("form", "laid it out "+after.text("form"))
	add("colour", "gave the band "+orNone(after.text("colour")))
	add("barcode", "barcode: "+orNone(after.text("barcode")))
	add("qr", "code for telephones: "+orNone(after.text("qr")))
	add("serving_g", "serving: "+orNone(after.text("serving_g"))+" g")
	add("mono", "black only: "+yesNo(after.text("mono") == yesNo(true)))
	return said
}

func orNone(s string) string {
	if s == "" {
		return "none"
	}
	return s
}

func ifSaid(name, yes, no string) string {
	if name == "" {
		return no
	}
	return fmt.Sprintf(yes, name)
}

func nutritionWords(key, regime string) string {
	under, err := law.Of(law.Regime(regime))
	if err != nil || key == "" {
		return "not decided"
	}
	if key == labelart.Shown {
		return "on the label"
	}
	for _, x := range under.Exemptions {
		if x.Key == key {
			return "left off, " + strings.ToLower(x.Title)
		}
	}
	return key
}

// claimWords are the claims of a noted design, with what was shown for them.
func claimWords(design row) string {
	list, _ := design["claims"].([]any)
	var out []string
	for _, x := range list {
		c, _ := x.(map[string]any)
		words := row(c).text("words")
		for _, rule := range assess.ClaimRules() {
			if rule.Key == row(c).text("key") {
				words = rule.Words
			}
		}
		if shown := row(c).text("shown"); shown != "" {
			words += " (" + shown + ")"
		}
		out = append(out, words)
	}
	return strings.Join(out, ", ")
}
