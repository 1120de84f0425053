package declaration

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/law"
)

type sulphiteFinding struct {
	declared bool
	note     string
}

// sulphiteLimit is the level in mg/kg as SO2 in the finished product above which sulphites are declared in GB (annex II
// 12), and from which they are named in the US (21 CFR 101.100(a)(4)).
const sulphiteLimit = 10

// sulphitesDeclared sums the suppliers' mg/kg over the mix against its finished weight, ticked or not; an unknown level
// counts as above.
func sulphitesDeclared(items []Item, l *law.Law, drivenOff float64) sulphiteFinding {
	if l.Sulphites == "" {
		return sulphiteFinding{}
	}
	total, mg, unknown := 0.0, 0.0, []string(nil)
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
				continue
			}
			if _, found := it.told(l); it.Grams > 0 && slices.Contains(found, l.Sulphites) &&
				!slices.Contains(unknown, it.Name) {
				unknown = append(unknown, it.Name)
			}
		}
	}
	walk(items)
	finished := total - drivenOff
	switch {
	case len(unknown) > 0:
		return sulphiteFinding{true, l.Sulphites + " of " + strings.Join(unknown, ", ") +
			" are not known in mg/kg and count as above 10"}
	case mg <= 0 || finished <= 0:
		return sulphiteFinding{}
	case mg/finished > sulphiteLimit || l.SulphitesAt && mg/finished >= sulphiteLimit:
		return sulphiteFinding{true, ""}
	}
	below := "not above 10"
	if l.SulphitesAt {
		below = "under 10"
	}
	return sulphiteFinding{false,
		fmt.Sprintf("%s come to %.1f mg/kg, %s, and are not declared", l.Sulphites, mg/finished, below)}
}

// allergenSet is the union over the entries, in statutory order; sulphites where they are declared, and last where the
// law only discloses them.
func allergenSet(entries []*entry, l *law.Law, sulphites bool) []string {
	var all []string
	for _, e := range entries {
		for _, a := range e.allergens {
			if !slices.Contains(all, a) && (a != l.Sulphites || sulphites) {
				all = append(all, a)
			}
		}
	}
	all = allergen.Tidy(all)
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

// containsLine is "Contains: Milk, Tree nuts (hazelnut)." in statutory order, or empty where there are none. An animal
// that is not the usual one is named: "Goat milk".
func containsLine(l *law.Law, allergens []string) string {
	var out []string
	for i := 0; i < len(allergens); {
		base, _, _ := strings.Cut(allergens[i], ":")
		a := l.Allergens[l.Rank(base)]
		var named []string
		for ; i < len(allergens); i++ {
			next, kind, _ := strings.Cut(allergens[i], ":")
			if next != base {
				break
			}
			if kind != "" {
				named = append(named, kind)
			} else {
				out = append(out, a.Contains)
			}
		}
		switch {
		case len(named) == 0:
		case a.Usual != "":
			for _, animal := range named {
				out = append(out, capital(animal+" "+base))
			}
		default:
			out = append(out, a.Contains+" ("+strings.Join(named, ", ")+")")
		}
	}
	if len(out) == 0 {
		return ""
	}
	return "Contains: " + strings.Join(out, ", ") + "."
}

// plain writes an entry of a list in which the words for sulphites are made plain where they are disclosed.
func (e *entry) disclosed(l *law.Law, name string, sulphites bool) string {
	text := withList(name, e.printed)
	if !sulphites || !slices.Contains(e.allergens, l.Sulphites) ||
		slices.ContainsFunc(e.words.Read(text).Marks(l), func(m allergen.Mark) bool { return m.Code == l.Sulphites }) {
		return text
	}
	return text + " (" + l.Word(l.Sulphites) + ")"
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
	words                 *allergen.Lexicon
}

var emphases allergen.Memo[emphasisKey, string]

// emphasise writes an entry with ** around each allergen word, every time it occurs, and a bracketed source after what
// does not make an allergen plain.
func (e *entry) emphasise(l *law.Law, name string, sulphites bool) string {
	if len(e.allergens) == 0 {
		return withList(name, e.printed)
	}
	key := emphasisKey{name, e.printed, strings.Join(e.allergens, ";"), sulphites, e.words}
	return emphases.Get(key, func() string { return e.writeEmphasised(l, name, sulphites) })
}

// insertion is what is written into a text at a byte.
type insertion struct {
	at   int
	text string
}

func (e *entry) writeEmphasised(l *law.Law, name string, sulphites bool) string {
	text := withList(name, e.printed)
	var bold [][]int
	var inserts []insertion
	marked := map[string]bool{}
	marks := slices.DeleteFunc(e.words.Read(text).Marks(l), func(m allergen.Mark) bool {
		return m.Code == l.Sulphites && !sulphites || !slices.Contains(e.allergens, m.Code)
	})
	for _, m := range marks {
		marked[m.Code] = true
		if m.Plainly {
			bold = append(bold, []int{m.Start, m.End})
			continue
		}
		start, end, after := entryAround(text, m)
		plainly := slices.ContainsFunc(marks, func(o allergen.Mark) bool {
			// its own list makes it plain, or will by a bracket of its own
			return o.Code == m.Code && o.End <= after && (o.Plainly && o.Start >= start || o.Start > end)
		})
		source := insertion{end, " (**" + l.Word(m.Code) + "**)"}
		if !plainly && !slices.Contains(inserts, source) {
			inserts = append(inserts, source)
		}
	}
	for _, s := range merge(bold) {
		inserts = append(inserts, insertion{s[0], "**"}, insertion{s[1], "**"})
	}
	slices.SortStableFunc(inserts, func(a, b insertion) int { return b.at - a.at })
	for _, in := range inserts {
		text = text[:in.at] + in.text + text[in.at:]
	}
	for _, code := range e.allergens {
		if !marked[code] && (code != l.Sulphites || sulphites) {
			text += " (**" + l.Word(code) + "**)"
		}
	}
	return text
}

// entryAround is the entry of a list that a word stands in: where it starts, where its name ends, and where its own
// list ends. A bracket without letters, as a quantity, belongs to the name.
func entryAround(text string, m allergen.Mark) (start, end, after int) {
	start = strings.LastIndexAny(text[:m.Start], ",;([") + 1
	end = m.End
	for i := m.End; i < len(text); i++ {
		switch text[i] {
		case ',', ';', ')', ']':
			return start, trimmedEnd(text, i), i
		case '(', '[':
			closes := closing(text, i)
			if strings.ContainsFunc(text[i:closes], unicode.IsLetter) {
				return start, trimmedEnd(text, i), closes
			}
			i = closes - 1
		}
	}
	return start, trimmedEnd(text, len(text)), len(text)
}

func trimmedEnd(text string, at int) int { return len(strings.TrimRight(text[:at], " ")) }

// closing is behind the bracket that closes the one at a byte.
func closing(text string, at int) int {
	depth := 0
	for i := at; i < len(text); i++ {
		switch text[i] {
		case '(', '[':
			depth++
		case ')', ']':
			if depth--; depth == 0 {
				return i + 1
			}
		}
	}
	return len(text)
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
