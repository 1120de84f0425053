package declaration

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// words tells how an allergen is written. Plain words name it by themselves and are emphasised wherever they occur
// (GB); hints betray it in a supplier's list without naming it, so the plain word is added in brackets.
type words struct {
	plain, hints *regexp.Regexp
	source       string
}

func whole(pattern string) *regexp.Regexp {
	if pattern == "" {
		return nil
	}
	return regexp.MustCompile(`(?i)\b(?:` + pattern + `)\b`)
}

// dictionary holds the allergens that need no kind (nuts, cereals and US species are made on the fly).
var dictionary = map[string]words{
	"milk": {whole(`milk`),
		whole(`cheeses?|cream|butter|buttermilk|yogh?urt|whey|casein(?:ates?)?|curds?|ghee|lactose|skyr`), "milk"},
	"egg":        {whole(`eggs?`), whole(`albumen|mayonnaise`), "egg"},
	"fish":       {whole(`fish`), whole(`anchov(?:y|ies)|tuna|salmon|sardines?|cod|haddock|mackerel|bonito`), "fish"},
	"crustacean": {whole(`crustaceans?`), whole(`prawns?|shrimps?|crabs?|lobsters?|crayfish`), "crustaceans"},
	"mollusc":    {whole(`molluscs?`), whole(`mussels?|oysters?|squid|clams?|scallops?`), "molluscs"},
	"peanut":     {whole(`peanuts?|groundnuts?`), nil, "peanuts"},
	"soy":        {whole(`soya|soy|soya ?beans?|soybeans?`), whole(`tofu|miso|edamame|tempeh|tamari`), "soya"},
	"sesame":     {whole(`sesame`), whole(`tahini|halva`), "sesame"},
	"celery":     {whole(`celery|celeriac`), nil, "celery"},
	"mustard":    {whole(`mustards?`), nil, "mustard"},
	"lupin":      {whole(`lupins?`), nil, "lupin"},
	"wheat":      {whole(`wheat`), whole(`spelt|khorasan|semolina|couscous|bulgh?ur|farro|durum|seitan`), "wheat"},
	"sulphites":  {whole(`sul(?:ph|f)ites?|sul(?:ph|f)ur dioxide|(?:sodium|potassium|calcium) (?:metabi|bi|hydrogen )?sul(?:ph|f)ites?|E ?22[0-8]`), nil, "sulphites"},
}

// nutWords hold the pattern of each nut that any law counts, singular and plural.
var nutWords = func() map[string]*regexp.Regexp {
	out := map[string]*regexp.Regexp{}
	for _, l := range law.All() {
		for _, kind := range l.Nuts {
			out[kind] = whole(regexp.QuoteMeta(kind) + `(?:s|es)?`)
		}
	}
	return out
}()

// cereals with the words that name them.
var cereals = map[string]*regexp.Regexp{"wheat": whole(`wheat|spelt|khorasan`), "barley": whole(`barley`),
	"rye": whole(`rye`), "oats": whole(`oats?`)}

// harmless phrases contain an allergen's word without the allergen.
var harmless = regexp.MustCompile(`(?i)\b(?:coconut (?:milk|cream|butter|yogh?urt)|cocoa butter|(?:peanut|almond|cashew|hazelnut|nut|seed|apple) butter|(?:oat|rice|almond|soya?|cashew|hazelnut) (?:milk|cream)|cream of tartar|butter ?beans?|butternut|butter lettuce|buckwheat|eggplants?|egg-free|dairy-free|mustard greens|fish-free)\b`)

func wordsOf(l *law.Law, code string) words {
	base, kind, _ := strings.Cut(code, ":")
	switch base {
	case l.NutCode:
		k := strings.TrimSpace(kind)
		if known, ok := nutWords[k]; ok {
			return words{known, nil, k + "s"}
		}
		return words{whole(regexp.QuoteMeta(k) + `(?:s|es)?`), nil, k + "s"}
	case l.CerealCode:
		if p, ok := cereals[kind]; ok {
			return words{p, dictionary["wheat"].hintsIf(kind == "wheat"), kind}
		}
		return words{whole(regexp.QuoteMeta(kind)), nil, kind}
	}
	return dictionary[base]
}

func (w words) hintsIf(yes bool) *regexp.Regexp {
	if yes {
		return w.hints
	}
	return nil
}

// itemAllergens are those recorded for the ingredient and those its name or its supplier's list betrays, so that a
// missed tick never hides an allergen. The name of a refined oil that the law exempts does not count; what its supplier
// lists does.
func itemAllergens(it *Item, l *law.Law, list string) []string {
	out := slices.Clip(it.Allergens)
	name := it.Name
	if it.has(pantry.FlagRefinedOil) && oilExempt(l, name) {
		name = ""
	}
	for _, code := range betrayed(name, list, l) {
		if !hasBase(out, code) {
			out = append(out, code)
		}
	}
	return out
}

func oilExempt(l *law.Law, name string) bool {
	if l.OilExempt("*") {
		return true
	}
	for code, w := range dictionary {
		if l.OilExempt(code) && w.plain.MatchString(name) {
			return true
		}
	}
	return false
}

// hasBase reports whether the code, or for species and nuts the same base with any kind, is there already.
func hasBase(list []string, code string) bool {
	base, _, kinded := strings.Cut(code, ":")
	return slices.ContainsFunc(list, func(c string) bool {
		b, _, _ := strings.Cut(c, ":")
		return c == code || b == base && (!kinded || base == "fish" || base == "crustacean")
	})
}

type wordsUnder struct {
	name, list string
	regime     law.Regime
}

var betrayals memo[wordsUnder, []string]

// betrayed finds allergens by the words of a name and a list.
func betrayed(name, list string, l *law.Law) []string {
	return betrayals.get(wordsUnder{name, list, l.Regime}, func() []string { return readBetrayed(name+", "+list, l) })
}

func readBetrayed(text string, l *law.Law) []string {
	text = harmless.ReplaceAllString(text, "")
	if l.Exempt != nil {
		text = l.Exempt.ReplaceAllString(text, "")
	}
	var out []string
	match := func(re *regexp.Regexp) string {
		if re == nil {
			return ""
		}
		return re.FindString(text)
	}
	for _, a := range l.Allergens {
		base := a.Code
		w, known := dictionary[base]
		if !known {
			continue
		}
		hit := match(w.plain)
		species := match(w.hints)
		if hit == "" && species == "" {
			continue
		}
		if slices.Contains(l.SpeciesNamed, base) {
			if species == "" {
				species = "species not named"
			}
			out = append(out, base+":"+singular(species))
			continue
		}
		out = append(out, base)
	}
	for _, kind := range l.Nuts {
		if nutWords[kind].MatchString(text) {
			out = append(out, l.NutCode+":"+kind)
		}
	}
	for _, kind := range l.Cereals {
		if cereals[kind].MatchString(text) {
			out = append(out, l.CerealCode+":"+kind)
		}
	}
	return out
}

func singular(s string) string {
	s = strings.ToLower(s)
	if strings.HasSuffix(s, "ies") {
		return strings.TrimSuffix(s, "ies") + "y"
	}
	return strings.TrimSuffix(s, "s")
}

type sulphiteFinding struct {
	declared bool
	note     string
}

// sulphiteLimit is the level above which sulphites are declared in GB, in mg/kg as SO2 (annex II 12).
const sulphiteLimit = 10

// sulphitesDeclared sums the suppliers' mg/kg over the mix; an unknown level counts as above. Where sulphites are no
// allergen of the law there is nothing to find.
func sulphitesDeclared(items []Item, l *law.Law) sulphiteFinding {
	if l.Rank("sulphites") < 0 {
		return sulphiteFinding{}
	}
	total, mg, unknown := 0.0, 0.0, ""
	bearing := false
	var walk func([]Item)
	walk = func(list []Item) {
		for i := range list {
			it := &list[i]
			if len(it.Parts) > 0 {
				walk(it.Parts)
				continue
			}
			total += it.Grams
			if it.SulphitesMgKg != nil {
				mg += *it.SulphitesMgKg * it.Grams
				bearing = bearing || *it.SulphitesMgKg > 0
				continue
			}
			if _, found := it.told(l); slices.Contains(found, "sulphites") {
				unknown, bearing = it.Name, true
			}
		}
	}
	walk(items)
	switch {
	case !bearing || total == 0:
		return sulphiteFinding{}
	case unknown != "":
		return sulphiteFinding{true, "sulphites of " + unknown + " are not known in mg/kg and count as above 10"}
	case mg/total > sulphiteLimit:
		return sulphiteFinding{true, ""}
	}
	return sulphiteFinding{false,
		fmt.Sprintf("sulphites come to %.1f mg/kg, not above 10, and are not declared as an allergen", mg/total)}
}

// allergenSet is the union over the entries, in statutory order.
func allergenSet(entries []*entry, l *law.Law, sulphites bool) []string {
	var all []string
	for _, e := range entries {
		for _, a := range e.allergens {
			if !slices.Contains(all, a) && (a != "sulphites" || sulphites) {
				all = append(all, a)
			}
		}
	}
	slices.SortStableFunc(all, func(a, b string) int {
		if r := l.Rank(a) - l.Rank(b); r != 0 {
			return r
		}
		return strings.Compare(a, b)
	})
	if all == nil {
		all = []string{}
	}
	return all
}

// containsLine is "Contains: Milk, Tree nuts (hazelnut)." in statutory order, or empty where there are none.
func containsLine(l *law.Law, allergens []string) string {
	var out []string
	kinds := map[string][]string{}
	for _, a := range allergens {
		base, kind, _ := strings.Cut(a, ":")
		if _, seen := kinds[base]; !seen {
			out = append(out, base)
		}
		kinds[base] = append(kinds[base], kind)
	}
	for i, base := range out {
		text := l.Allergens[l.Rank(base)].Contains
		if k := strings.Join(kinds[base], ", "); k != "" {
			text += " (" + k + ")"
		}
		out[i] = text
	}
	if len(out) == 0 {
		return ""
	}
	return "Contains: " + strings.Join(out, ", ") + "."
}

// emphasise writes a GB entry with ** around each allergen word, every time it occurs, and adds a bracketed source
// for an allergen that the words do not make plain.
func emphasise(l *law.Law, name, list string, allergens []string, sulphites bool) string {
	if len(allergens) == 0 {
		return withList(name, list)
	}
	key := emphasisKey{name, list, strings.Join(allergens, ";"), sulphites}
	return emphases.get(key, func() string { return writeEmphasised(l, name, list, allergens, sulphites) })
}

func withList(name, list string) string {
	if list == "" {
		return name
	}
	return name + " (" + list + ")"
}

type emphasisKey struct {
	name, list, allergens string
	sulphites             bool
}

var emphases memo[emphasisKey, string]

func writeEmphasised(l *law.Law, name, list string, allergens []string, sulphites bool) string {
	text := withList(name, list)
	var spans [][]int
	var sources []string
	type insertion struct {
		at   int
		text string
	}
	var inserts []insertion
	for _, code := range allergens {
		if code == "sulphites" && !sulphites {
			continue
		}
		w := wordsOf(l, code)
		if w.plain == nil {
			sources = append(sources, code)
			continue
		}
		masked := mask(text)
		found := w.plain.FindAllStringIndex(masked, -1)
		if len(found) > 0 {
			spans = append(spans, found...)
			continue
		}
		if w.hints != nil {
			if at := w.hints.FindStringIndex(masked); at != nil {
				inserts = append(inserts, insertion{at[1], " (**" + w.source + "**)"})
				continue
			}
		}
		sources = append(sources, w.source)
	}
	for _, s := range merge(spans) {
		inserts = append(inserts, insertion{s[0], "**"}, insertion{s[1], "**"})
	}
	slices.SortStableFunc(inserts, func(a, b insertion) int { return b.at - a.at })
	for _, in := range inserts {
		text = text[:in.at] + in.text + text[in.at:]
	}
	for _, s := range sources {
		text += " (**" + s + "**)"
	}
	return text
}

// mask blanks harmless phrases, keeping byte positions.
func mask(text string) string {
	return harmless.ReplaceAllStringFunc(text, func(s string) string { return strings.Repeat(" ", len(s)) })
}

func merge(spans [][]int) [][]int {
	slices.SortFunc(spans, func(a, b []int) int { return a[0] - b[0] })
	var out [][]int
	for _, s := range spans {
		if n := len(out); n > 0 && s[0] <= out[n-1][1] {
			out[n-1][1] = max(out[n-1][1], s[1])
			continue
		}
		out = append(out, []int{s[0], s[1]})
	}
	return out
}

// AllergensIn are an ingredient's allergens under a law: those recorded, and those its name or its supplier's list
// betrays.
func AllergensIn(g *pantry.Ingredient, l *law.Law) []string {
	it := Item{Name: g.LabelFor(l.Regime), SupplierList: g.ListFor(l.Regime), Allergens: g.Allergens[l.Regime],
		Flags: g.Flags}
	_, found := it.told(l)
	return found
}
