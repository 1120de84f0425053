package declaration

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

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
	"milk":       {whole(`milk`), whole(`cheeses?|cream|butter|buttermilk|yogh?urt|whey|casein(?:ates?)?|curds?|ghee|lactose|skyr`), "milk"},
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

var nutKinds = []string{"walnut", "almond", "hazelnut", "cashew", "pecan", "pistachio", "macadamia", "brazil nut"}

// usOnlyNuts are tree nuts in the US but not among the annex II nuts of GB.
var usOnlyNuts = []string{"pine nut"}

// nutWords hold the pattern of each nut, singular and plural.
var nutWords = func() map[string]*regexp.Regexp {
	out := map[string]*regexp.Regexp{}
	for _, kind := range append(slices.Clone(nutKinds), usOnlyNuts...) {
		out[kind] = whole(regexp.QuoteMeta(kind) + `(?:s|es)?`)
	}
	return out
}()

// cereals of annex II with the words that name them.
var cereals = map[string]*regexp.Regexp{"wheat": whole(`wheat|spelt|khorasan`), "barley": whole(`barley`), "rye": whole(`rye`), "oats": whole(`oats?`)}

var cerealKinds = []string{"wheat", "barley", "rye", "oats"}

// harmless phrases contain an allergen's word without the allergen.
var harmless = regexp.MustCompile(`(?i)\b(?:coconut (?:milk|cream|butter|yogh?urt)|cocoa butter|(?:peanut|almond|cashew|hazelnut|nut|seed|apple) butter|(?:oat|rice|almond|soya?|cashew|hazelnut) (?:milk|cream)|cream of tartar|butter ?beans?|butternut|butter lettuce|buckwheat|eggplants?|egg-free|dairy-free|mustard greens|fish-free)\b`)

// gbExempt are cereal products that annex II 1 of Regulation 1169/2011 exempts.
var gbExempt = regexp.MustCompile(`(?i)\b(?:wheat(?:[- ]based)? glucose syrups?|wheat dextrose|wheat(?:[- ]based)? maltodextrins?|barley(?:[- ]based)? glucose syrups?)\b`)

func wordsOf(code string) words {
	base, kind, _ := strings.Cut(code, ":")
	switch base {
	case "nut", "tree_nut":
		k := strings.TrimSpace(kind)
		if known, ok := nutWords[k]; ok {
			return words{known, nil, k + "s"}
		}
		return words{whole(regexp.QuoteMeta(k) + `(?:s|es)?`), nil, k + "s"}
	case "gluten":
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
// missed tick never hides an allergen. Highly refined oils are exempt in the US; in GB only fully refined soya oil.
func itemAllergens(it *Item, regime, list string) []string {
	out := slices.Clip(it.allergens(regime))
	name := it.name(regime)
	if it.has(pantry.FlagRefinedOil) {
		name = "" // the oil's own name is exempt; what the supplier lists is not
		if regime == GB && !dictionary["soy"].plain.MatchString(it.name(regime)) {
			name = it.name(regime)
		}
	}
	for _, code := range betrayed(name+", "+list, regime) {
		if !hasBase(out, code) {
			out = append(out, code)
		}
	}
	return out
}

// hasBase reports whether the code, or for species and nuts the same base with any kind, is there already.
func hasBase(list []string, code string) bool {
	base, _, kinded := strings.Cut(code, ":")
	return slices.ContainsFunc(list, func(c string) bool {
		b, _, _ := strings.Cut(c, ":")
		return c == code || b == base && (!kinded || base == "fish" || base == "crustacean")
	})
}

type wordsUnder struct{ text, regime string }

var betrayals memo[wordsUnder, []string]

// betrayed finds allergens by the words of a text.
func betrayed(text, regime string) []string {
	return betrayals.get(wordsUnder{text, regime}, func() []string { return readBetrayed(text, regime) })
}

func readBetrayed(text, regime string) []string {
	text = harmless.ReplaceAllString(text, "")
	if regime == GB {
		text = gbExempt.ReplaceAllString(text, "")
	}
	var out []string
	match := func(re *regexp.Regexp) string {
		if re == nil {
			return ""
		}
		return re.FindString(text)
	}
	bases := pantry.USAllergens
	if regime == GB {
		bases = pantry.GBAllergens
	}
	for _, base := range bases {
		w, known := dictionary[base]
		if !known {
			continue
		}
		hit := match(w.plain)
		species := match(w.hints)
		if hit == "" && species == "" {
			continue
		}
		if regime == US && (base == "fish" || base == "crustacean") {
			if species == "" {
				species = "species not named"
			}
			out = append(out, base+":"+singular(species))
			continue
		}
		out = append(out, base)
	}
	for _, kind := range append(slices.Clone(nutKinds), usOnlyNuts...) {
		if !nutWords[kind].MatchString(text) {
			continue
		}
		if regime == US {
			out = append(out, "tree_nut:"+kind)
		} else if !slices.Contains(usOnlyNuts, kind) {
			out = append(out, "nut:"+kind)
		}
	}
	if regime == GB {
		for _, kind := range cerealKinds {
			if cereals[kind].MatchString(text) {
				out = append(out, "gluten:"+kind)
			}
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

// sulphitesDeclared sums the suppliers' mg/kg over the mix; an unknown level counts as above.
func sulphitesDeclared(items []Item) sulphiteFinding {
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
			list := parseList(it.SupplierList)
			if list.err == nil && slices.Contains(itemAllergens(it, GB, list.printed), "sulphites") {
				unknown, bearing = it.NameGB, true
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
	return sulphiteFinding{false, fmt.Sprintf("sulphites come to %.1f mg/kg, not above 10, and are not declared as an allergen", mg/total)}
}

// allergenSet is the union over the entries, in statutory order.
func allergenSet(entries []*entry, regime string, sulphites bool) []string {
	order := pantry.USAllergens
	if regime == GB {
		order = pantry.GBAllergens
	}
	var all []string
	for _, e := range entries {
		for _, a := range e.allergens {
			if !slices.Contains(all, a) && (a != "sulphites" || sulphites) {
				all = append(all, a)
			}
		}
	}
	rank := func(code string) int {
		base, _, _ := strings.Cut(code, ":")
		return slices.Index(order, base)
	}
	slices.SortStableFunc(all, func(a, b string) int {
		if r := rank(a) - rank(b); r != 0 {
			return r
		}
		return strings.Compare(a, b)
	})
	if all == nil {
		all = []string{}
	}
	return all
}

// usNames are the words of the Contains line; with a kind it stands in brackets.
var usNames = map[string]string{"milk": "Milk", "egg": "Egg", "fish": "Fish", "crustacean": "Crustacean shellfish", "tree_nut": "Tree nuts",
	"wheat": "Wheat", "peanut": "Peanut", "soy": "Soy", "sesame": "Sesame"}

// containsLine is "Contains: Milk, Tree nuts (hazelnut)." in statutory order, or empty where there are none.
func containsLine(allergens []string) string {
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
		text := usNames[base]
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
func emphasise(name, list string, allergens []string, sulphites bool) string {
	key := emphasisKey{name, list, strings.Join(allergens, ";"), sulphites}
	return emphases.get(key, func() string { return writeEmphasised(name, list, allergens, sulphites) })
}

type emphasisKey struct {
	name, list, allergens string
	sulphites             bool
}

var emphases memo[emphasisKey, string]

func writeEmphasised(name, list string, allergens []string, sulphites bool) string {
	text := name
	if list != "" {
		text += " (" + list + ")"
	}
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
		w := wordsOf(code)
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
