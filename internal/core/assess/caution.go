package assess

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
)

// Levels of cautions; what is a danger stands first, in words and in beet.
const (
	Danger   = "danger"
	NeedsYou = "needs_you"
)

// limitInOil is the pH at or under which plants in oil are acidified (handbook 06 rule 6).
const limitInOil = 4.6

// caution lists the short warnings that belong beside this sheet, dangers first.
func (p *Panel) caution(v formula.Version, leaves []formula.Leaf) {
	add := func(level, title, text string) { p.Cautions = append(p.Cautions, Caution{level, title, text}) }
	high := p.PH.High
	switch {
	case p.Infused():
		add(Danger, "Plants under oil.",
			"Straining the pieces out does not take the spores away. Chilled and used within 4 "+
				"days, or frozen; never on the counter, whatever a document says.")
	case p.facts.PlantsInOil && (high == nil || *high > v.PHTarget):
		level := NeedsYou
		if high == nil || *high > limitInOil {
			level = Danger
		}
		add(level, "Plants under oil.",
			fmt.Sprintf("Spores live through cooking and oil keeps the air out. The target of %.1f must be met through and "+
				"through; the top of the band is above it. Never keep it on the counter.", v.PHTarget))
	case high != nil && *high > v.PHLimit:
		add(NeedsYou, "Above the limit.",
			fmt.Sprintf("The top of the band is over %.2f. Only a reading can tell; plan for more acid or a short, cold life.",
				v.PHLimit))
	}
	if p.facts.RawEgg {
		add(Danger, "Raw egg.",
			"Refused under US rules; in GB two days, assured eggs, pH 4.1 or less, not for vulnerable eaters.")
	}
	p.cautionOfWishes(v, add)
	if len(p.PH.Missing) > 0 {
		add(NeedsYou, "Estimate incomplete.",
			"No pH is known for "+strings.Join(p.PH.Missing, ", ")+"; anything from 4.0 to 7.0 was allowed for.")
	}
	if v.Keeping.HeatMinC > 0 {
		add(NeedsYou, "Hot filling.", "Warm the jars, wear gloves and a visor; cold glass cracks.")
	}
	if slices.ContainsFunc(leaves, func(l formula.Leaf) bool {
		return burns(l.Ingredient.Name)
	}) {
		add(NeedsYou, "Hot pepper on skin.", "Gloves on, hands off eyes.")
	}
	slices.SortStableFunc(p.Cautions, func(a, b Caution) int { return rank(a.Level) - rank(b.Level) })
}

// burns reports whether a name says hot pepper, in either English.
func burns(name string) bool {
	name = strings.ToLower(name)
	return slices.ContainsFunc([]string{"chilli", "chili", "chile pepper", "jalap", "habanero", "cayenne",
		"scotch bonnet"},
		func(w string) bool { return strings.Contains(name, w) })
}

func rank(level string) int {
	if level == Danger {
		return 0
	}
	return 1
}

// cautionOfWishes says why an ambient wish is refused, and which style does not fit.
func (p *Panel) cautionOfWishes(v formula.Version, add func(level, title, text string)) {
	if lacks := p.AmbientLacks(); v.Keeping.Asked == keeping.Ambient && len(lacks) > 0 {
		add(Danger, "Not on the shelf.", "Ambient storage will be refused: "+strings.Join(lacks, ", ")+".")
	}
	for _, why := range p.facts.Unfit {
		add(NeedsYou, "The keeping style does not fit.", capitalised(why)+". It counts as none: 7 days.")
	}
}

// AmbientLacks is what an ambient wish lacks under any law, beyond the reading that every batch waits for.
func (p Panel) AmbientLacks() []string {
	var out []string
	for _, l := range law.All() {
		for _, what := range p.Keeping[l.Regime].AmbientLacks {
			if what != keeping.NoReading && what != keeping.NotMet && !slices.Contains(out, what) {
				out = append(out, what)
			}
		}
	}
	return out
}

func capitalised(s string) string { return strings.ToUpper(s[:1]) + s[1:] }
