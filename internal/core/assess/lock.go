package assess

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/declaration"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
)

// openAmong are the ingredients that nobody has looked at, each once.
func openAmong(leaves []formula.Leaf) []Open {
	out := []Open{}
	for _, l := range leaves {
		g := l.Ingredient
		if slices.ContainsFunc(out, func(o Open) bool { return o.Ingredient == g.ID }) {
			continue
		}
		if why := g.Open(); len(why) > 0 {
			out = append(out, Open{g.ID, g.Name, why})
		}
	}
	return out
}

// mayContain are what suppliers state that ingredients may contain, without what is in the product anyhow.
func mayContain(leaves []formula.Leaf, in law.Each[[]string]) law.Each[[]string] {
	out := law.Each[[]string]{}
	for _, l := range law.All() {
		out[l.Regime] = []string{}
		for _, leaf := range leaves {
			if leaf.Ingredient.MayContain == nil {
				continue
			}
			for _, code := range leaf.Ingredient.MayContain.Allergens[l.Regime] {
				if !slices.Contains(in[l.Regime], code) && !slices.Contains(out[l.Regime], code) {
					out[l.Regime] = append(out[l.Regime], code)
				}
			}
		}
	}
	return out
}

// Point is one thing of the list before a lock. A blocking one must go first; others are confirmed with the lock by
// their key.
type Point struct {
	Key    string `json:"key"`
	Blocks bool   `json:"blocks"`
	Title  string `json:"title"`
	Text   string `json:"text"`
	Link   string `json:"link"` // its place in the app; empty for the sheet itself
	Tab    string `json:"tab"`  // of the sheet; empty for its lines
}

// Tabs of a sheet that points lead to.
const (
	tabPack  = "pack"
	tabWords = "words"
)

// BeforeLock is the one list of what would only hurt later (handbook 03), under the shop's law, what blocks first.
func BeforeLock(v formula.Version, name string, p Panel, under *law.Law) []Point {
	var out []Point
	add := func(x Point) { out = append(out, x) }
	for _, o := range p.Open {
		add(Point{"open:" + o.Ingredient, true, "Look at " + o.Name,
			capitalised(strings.Join(o.Why, "; ")) + ". Until then the allergens are “at least”.",
			"/pantry/" + o.Ingredient + "?look=1", ""})
	}
	for _, x := range Unnamed(p, under) {
		add(Point{"species:" + x, true, "Name the " + x,
			"The " + under.Title + " list names the kind; here none is named.", "",
			""})
	}
	if verdict := p.Keeping[under.Regime]; verdict.Refused {
		add(Point{"refused", !under.UnpasteurisedEgg, "It may not be sold so", verdict.Reason, "", tabPack})
	}
	out = append(out, p.wishPoints(v)...)
	for _, why := range p.facts.Unfit {
		add(Point{"style", false, "The keeping style does not fit", capitalised(why) + ". It counts as none: 7 days.",
			"",
			tabPack})
	}
	out = append(out, p.bandPoints(v)...)
	if missing := p.Cost.Missing; len(missing) > 0 {
		add(Point{"prices", false, "A price is missing", "The cost of a jar is “at least”: " + few(missing) + ".", "",
			""})
	}
	out = append(out, p.quidPoints(v, name, under)...)
	slices.SortStableFunc(out, func(a, b Point) int { return order(a) - order(b) })
	return out
}

// quidPoints ask which words of the name need their quantity (handbook 03).
func (p Panel) quidPoints(v formula.Version, name string, under *law.Law) []Point {
	if !under.Quid || v.Wording.StressesNothing {
		return nil
	}
	if own := v.Wording.Names[under.Regime]; own != "" {
		name = own
	}
	var lack []string
	quantified := p.Declaration[under.Regime].Quantified
	for _, s := range p.Stressed(name, under) {
		if !slices.ContainsFunc(quantified, func(q declaration.Quantity) bool { return q.Name == s }) {
			lack = append(lack, s)
		}
	}
	switch {
	case len(lack) > 0:
		return []Point{{"quid", false, "The name features " + strings.Join(lack, " and "),
			"Mark these lines, so that their percent stands in the list; or confirm that the name stresses " +
				"nothing.",
			"", ""}}
	case len(quantified) == 0:
		return []Point{{"quid", false, "Does the name stress an ingredient?",
			"Mark the lines that the name or a picture features, so that their percent stands in the list; or " +
				"confirm that the name stresses nothing.", "", ""}}
	}
	return nil
}

func order(p Point) int {
	if p.Blocks {
		return 0
	}
	return 1
}

// Unnamed are the allergens of which the law names the kind and nothing does.
func Unnamed(p Panel, under *law.Law) []string {
	var out []string
	for _, code := range p.Allergens[under.Regime] {
		if base, kind, _ := strings.Cut(code, ":"); kind == law.UnnamedSpecies {
			out = append(out, base)
		}
	}
	return out
}

// wishPoints say why an ambient wish will be refused. A document can still come; what no document mends blocks.
func (p Panel) wishPoints(v formula.Version) []Point {
	if v.Keeping.Asked != keeping.Ambient {
		return nil
	}
	var mends, stays []string
	for _, what := range p.AmbientLacks() {
		if slices.ContainsFunc(law.All(), func(l *law.Law) bool { return what == keeping.NoDocument(l) }) {
			mends = append(mends, what)
		} else {
			stays = append(stays, what)
		}
	}
	if len(stays) > 0 {
		return []Point{{"ambient", true, "Ambient storage will be refused",
			capitalised(strings.Join(append(stays, mends...),
				", ")) + ". Wish for chilled or frozen, or mend it first.", "", tabPack}}
	}
	if len(mends) > 0 {
		return []Point{{"ambient", false, "Ambient waits for its document", capitalised(strings.Join(mends, ", ")) +
			". Until it is attached every batch keeps chilled.", "/keeping", tabPack}}
	}
	return nil
}

func (p Panel) bandPoints(v formula.Version) []Point {
	high := p.PH.High
	switch {
	case high == nil:
		return nil
	case *high > v.PHLimit:
		return []Point{{"band", false, "The estimate lies over the limit",
			fmt.Sprintf("Its high end is %.2f, the limit %.2f. Only a reading can tell; plan for more acid or a short, cold life.",
				*high, v.PHLimit), "", ""}}
	case *high > v.PHTarget:
		return []Point{{"band", false, "The estimate lies over the target",
			fmt.Sprintf("Its high end is %.2f, the target %.2f. A batch may pass with a note only.", *high, v.PHTarget),
			"", ""}}
	}
	return nil
}
