package declaration

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// leastQuid is the step in percent to which small quantities are told (handbook 08).
const leastQuid = 0.5

// quid is the quantity of an ingredient: 100 x grams at mixing / finished grams where water was lost, else / grams at
// mixing; whole percent, under 5 % to 0.5; over 100 % as grams that prepared 100 g (Regulation 1169/2011 annex VIII).
func quid(grams float64, w weights) string {
	base := w.finished() // at mixing where nothing is lost
	if base <= 0 {
		return ""
	}
	p := 100 * grams / base
	if p > 100 {
		return fmt.Sprintf("prepared with %.0f g per 100 g", p)
	}
	if p > 0 && p < leastQuid/2 {
		return fmt.Sprintf("<%g%%", leastQuid)
	}
	if p < 5 {
		return strconv.FormatFloat(math.Round(p*2)/2, 'g', -1, 64) + "%"
	}
	return strconv.FormatFloat(math.Floor(p+0.5), 'g', -1, 64) + "%"
}

// Stressed names what a product's name features, by the words it shares with what goes into it, as the list of the law
// calls it (Regulation 1169/2011 article 22(1)(a)). It proposes; the maker decides.
func Stressed(name string, items []Item, l *law.Law) []string {
	tell(items, l)
	said := words(name)
	out := []string{}
	stressed(said, items, &out)
	return out
}

func stressed(said []string, items []Item, out *[]string) {
	for i := range items {
		it := &items[i]
		if it.Disperse && len(it.Parts) > 0 {
			stressed(said, it.Parts, out)
			continue
		}
		own := words(it.Name)
		telling := slices.DeleteFunc(slices.Clone(own), func(w string) bool { return slices.Contains(vague, w) })
		if len(telling) == 0 {
			telling = nil
		}
		shares := slices.ContainsFunc(telling, func(w string) bool { return slices.Contains(said, w) })
		if folded := strings.ToLower(it.Name); (shares || telling == nil && within(own, said)) && it.Grams > 0 &&
			!slices.Contains(*out, folded) {
			*out = append(*out, folded)
		}
	}
}

// Heaviest names what weighs most of what goes into a product, without water, as the list of a law calls it.
func Heaviest(items []Item, l *law.Law, most int) []string {
	tell(items, l)
	var found []*Item
	var walk func([]Item)
	walk = func(list []Item) {
		for i := range list {
			switch it := &list[i]; {
			case it.Disperse && len(it.Parts) > 0:
				walk(it.Parts)
			case it.Grams > 0 && !it.has(pantry.FlagWater):
				found = append(found, it)
			}
		}
	}
	walk(items)
	slices.SortStableFunc(found, func(a, b *Item) int { return cmp.Compare(b.Grams, a.Grams) })
	out := []string{}
	for _, it := range found {
		if name := strings.ToLower(it.Name); len(out) < most && !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	return out
}

// vague are words of an ingredient's name that say nothing about which it is.
var vague = strings.Fields("oil water salt sugar vinegar sauce paste juice powder purée puree seed leaf leave style " +
	"clove flake raw fresh dried ground whole cooked roasted toasted smoked charred pickled prepared refined virgin " +
	"extra light dark white black red green yellow brown sweet sour hot mild large small baby chopped sliced peeled " +
	"and with in of from the a")

// words are the words of a name in the singular, without those that "free" takes back.
func words(name string) []string {
	var out []string
	fields := strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return !allergen.InWord(r) })
	for _, w := range fields {
		if w == "free" && len(out) > 0 {
			out = out[:len(out)-1]
			continue
		}
		out = append(out, singular(w))
	}
	return out
}

// within reports whether words follow one another in a text.
func within(words, text []string) bool {
	for at := range text {
		if at+len(words) <= len(text) && slices.Equal(text[at:at+len(words)], words) {
			return len(words) > 0
		}
	}
	return false
}

// singular is the regular singular of a word, good enough to compare by.
func singular(w string) string {
	switch {
	case len(w) > 4 && strings.HasSuffix(w, "ies"):
		return strings.TrimSuffix(w, "ies") + "y"
	case len(w) > 4 && strings.HasSuffix(w, "oes"):
		return strings.TrimSuffix(w, "es")
	case len(w) > 3 && strings.HasSuffix(w, "s") && !strings.HasSuffix(w, "ss"):
		return strings.TrimSuffix(w, "s")
	}
	return w
}
