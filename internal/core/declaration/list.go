// Package declaration derives the words on the label that law governs: the ingredient list with allergens and
// quantities, nutrition figures rounded as the law rounds, net quantity, for the law of one country at a time. It drafts; the maker and their authority decide.
package declaration

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// Item is something that goes into the bowl, as the declaration under one law sees it. A component carries Parts.
type Item struct {
	Name          string
	Grams         float64
	SupplierList  string
	Allergens     []string
	Flags         []string
	Quid          bool
	SulphitesMgKg *float64
	Parts         []Item // a component's own items, scaled to Grams
	Disperse      bool   // merge the parts with the rest
	DrivenOff     float64
}

// Options are the law, the maker's choices and the facts of the mix.
type Options struct {
	Law         *law.Law
	TailPercent float64 // where the law has it: "Contains 2% or less of:" for items at or under this share of the mix; 0 is off
	GroupSpices bool
	DrivenOff   float64 // grams of water driven off while mixing, components included
}

// Declaration is the ingredient list with its allergens. In List, ** stands around emphasised words.
type Declaration struct {
	Regime    law.Regime `json:"regime"`
	List      string     `json:"list"`
	Contains  string     `json:"contains"`
	Allergens []string   `json:"allergens"`
	Notes     []string   `json:"notes"`
}

// entry is one item of the list after merging.
type entry struct {
	name      string
	list      []pantry.ListItem
	printed   string // list as a label prints it
	allergens []string
	grams     float64
	quid      bool
	order     int
	water     bool
	refined   bool
	spice     bool
}

func (it *Item) has(flag string) bool { return slices.Contains(it.Flags, flag) }

// Declare writes the ingredient list of a mix.
func Declare(items []Item, o Options) (Declaration, error) {
	d := Declaration{Regime: o.Law.Regime, Allergens: []string{}, Notes: []string{}}
	entries, err := collect(items, o, &d)
	if err != nil {
		return d, err
	}
	mixing := 0.0
	for _, e := range entries {
		mixing += e.grams
	}
	sulphites := sulphitesDeclared(items, o.Law)
	if sulphites.note != "" {
		d.Notes = append(d.Notes, sulphites.note)
	}
	d.Allergens = allergenSet(entries, o.Law, sulphites.declared)
	finished := mixing - o.DrivenOff
	if o.Law.WaterByFinished {
		entries = waterByFinished(entries, finished)
	} else {
		entries = waterByAdded(entries, o.DrivenOff)
	}
	if o.GroupSpices {
		entries = groupSpices(entries, o.Law.SpiceShare*finished)
	}
	slices.SortStableFunc(entries, func(a, b *entry) int {
		if math.Abs(a.grams-b.grams) > 1e-9 {
			return cmp.Compare(b.grams, a.grams)
		}
		return cmp.Or(cmp.Compare(a.order, b.order), strings.Compare(a.name, b.name))
	})
	d.List = write(entries, o, mixing, finished, sulphites.declared)
	if o.Law.ContainsLine {
		d.Contains = containsLine(o.Law, d.Allergens)
	}
	return d, nil
}

// collect flattens dispersed components, keeps compounds whole, and merges what has equal name, list and allergens.
func collect(items []Item, o Options, d *Declaration) ([]*entry, error) {
	flat := make([]*Item, 0, 2*len(items))
	var walk func([]Item)
	walk = func(list []Item) {
		for i := range list {
			if it := &list[i]; len(it.Parts) > 0 && it.Disperse {
				walk(it.Parts)
			} else {
				flat = append(flat, it)
			}
		}
	}
	walk(items)
	entries := make([]*entry, 0, len(flat))
	at := make(map[identity]int, len(flat))
	slab := make([]entry, len(flat))
	for i, it := range flat {
		e := &slab[i]
		if err := e.of(it, o.Law); err != nil {
			return nil, fmt.Errorf("%s: %w", it.Name, err)
		}
		// A processing aid or a carry-over without function is left out, but never an allergen.
		if it.has(pantry.FlagProcessingAid) && len(e.allergens) == 0 {
			d.Notes = append(d.Notes, e.name+" is left out as a processing aid")
			continue
		}
		if it.Grams <= 0 {
			continue
		}
		key := identity{strings.ToLower(e.name), e.printed, strings.Join(e.allergens, ";")}
		if k, dup := at[key]; dup {
			entries[k].grams += e.grams
			entries[k].quid = entries[k].quid || e.quid
			continue
		}
		at[key] = len(entries)
		e.order = len(entries)
		entries = append(entries, e)
	}
	return entries, nil
}

// identity is what entries must share to be one.
type identity struct{ name, printed, allergens string }

// of fills the entry in from an item.
func (e *entry) of(it *Item, l *law.Law) error {
	*e = entry{name: it.Name, grams: it.Grams, quid: it.Quid, water: it.has(pantry.FlagWater)}
	e.refined = it.has(pantry.FlagRefinedOil)
	e.spice = it.has(pantry.FlagSpice) && !it.has(pantry.FlagColouringSpice)
	if len(it.Parts) > 0 {
		inner, err := componentList(it, l)
		if err != nil {
			return err
		}
		e.list, e.printed = inner, pantry.PrintList(inner)
		e.allergens = deepAllergens(it, l)
		return nil
	}
	list := parseList(it.SupplierList)
	if list.err != nil {
		return list.err
	}
	e.list, e.printed = list.items, list.printed
	e.allergens = itemAllergens(it, l, list.printed)
	return nil
}

// componentList is a component's own ingredients in falling order, its compounds nested.
func componentList(it *Item, l *law.Law) ([]pantry.ListItem, error) {
	var scratch Declaration
	entries, err := collect(it.Parts, Options{Law: l}, &scratch)
	if err != nil {
		return nil, err
	}
	slices.SortStableFunc(entries, func(a, b *entry) int {
		if math.Abs(a.grams-b.grams) > 1e-9 {
			return cmp.Compare(b.grams, a.grams)
		}
		return 0
	})
	out := make([]pantry.ListItem, len(entries))
	for i, e := range entries {
		out[i] = pantry.ListItem{Name: e.name, Parts: e.list}
	}
	return out, nil
}

func deepAllergens(it *Item, l *law.Law) []string {
	var out []string
	for i := range it.Parts {
		p := &it.Parts[i]
		var add []string
		if len(p.Parts) > 0 {
			add = deepAllergens(p, l)
		} else if list := parseList(p.SupplierList); list.err == nil {
			add = itemAllergens(p, l, list.printed)
		}
		for _, a := range add {
			if !slices.Contains(out, a) {
				out = append(out, a)
			}
		}
	}
	return out
}

// waterByFinished: added water counts as finished weight minus all other ingredients at mixing, and is left out at or
// under 5 % of the finished weight (Regulation 1169/2011 annex VII part A 1).
func waterByFinished(entries []*entry, finished float64) []*entry {
	others, counted := 0.0, false
	for _, e := range entries {
		if !e.water {
			others += e.grams
		}
	}
	added := finished - others
	out := entries[:0:0]
	for _, e := range entries {
		if e.water {
			if added <= 0.05*finished+1e-9 || counted {
				continue
			}
			shown := *e
			shown.grams, counted = added, true
			e = &shown
		}
		out = append(out, e)
	}
	return out
}

// waterByAdded: water is listed by the weight added, unless all of it is removed in making (21 CFR 101.4).
func waterByAdded(entries []*entry, drivenOff float64) []*entry {
	if drivenOff <= 0 {
		return entries
	}
	out := entries[:0:0]
	for _, e := range entries {
		if e.water && drivenOff >= e.grams-1e-9 {
			continue
		}
		out = append(out, e)
	}
	return out
}

// groupSpices sums spices under one name: US 21 CFR 101.22(a)(2); never garlic, onion, celery powder or salt, and
// colouring spices stay named. A spice that carries an allergen stays named too. most is the grams up to which the law
// lets them be grouped; 0 for any.
func groupSpices(entries []*entry, most float64) []*entry {
	sum, first := 0.0, -1
	for _, e := range entries {
		if e.spice && len(e.allergens) == 0 && !e.quid {
			sum += e.grams
		}
	}
	if sum == 0 || most > 0 && sum > most {
		return entries
	}
	out := entries[:0:0]
	for _, e := range entries {
		if e.spice && len(e.allergens) == 0 && !e.quid {
			if first < 0 {
				first = len(out)
				out = append(out, &entry{name: "spices", grams: sum, order: e.order})
			}
			continue
		}
		out = append(out, e)
	}
	return out
}

func write(entries []*entry, o Options, mixing, finished float64, sulphites bool) string {
	main, tail := make([]string, 0, len(entries)), []string(nil)
	for _, e := range entries {
		text := e.text(o, mixing, finished, sulphites)
		if o.Law.Tail && o.TailPercent > 0 && e.grams <= o.TailPercent/100*mixing+1e-9 {
			tail = append(tail, text)
			continue
		}
		main = append(main, text)
	}
	if len(main) == 0 {
		main, tail = tail, nil
	}
	if len(main) == 0 {
		return ""
	}
	s := capital(strings.Join(main, ", ")) + "."
	if len(tail) > 0 {
		s += fmt.Sprintf(" Contains %s%% or less of: %s.", strconv.FormatFloat(o.TailPercent, 'g', -1, 64), strings.Join(tail, ", "))
	}
	return s
}

func (e *entry) text(o Options, mixing, finished float64, sulphites bool) string {
	name := e.name
	if o.Law.Quid && e.quid {
		name += " (" + quid(e.grams, mixing, finished, o.DrivenOff > 0) + ")"
	}
	if !o.Law.ContainsLine {
		return emphasise(o.Law, name, e.printed, e.allergens, sulphites)
	}
	if e.printed != "" {
		name += " (" + e.printed + ")"
	}
	return name
}

// quid is the quantity of an ingredient: 100 x grams at mixing / finished grams where water was lost, else / grams at
// mixing; whole percent, under 5 % to 0.5; over 100 % as grams that prepared 100 g (Regulation 1169/2011 annex VIII).
func quid(grams, mixing, finished float64, lost bool) string {
	base := mixing
	if lost {
		base = finished
	}
	if base <= 0 {
		return ""
	}
	p := 100 * grams / base
	if p > 100 {
		return fmt.Sprintf("prepared with %.0f g per 100 g", p)
	}
	if p < 5 {
		return strconv.FormatFloat(math.Round(p*2)/2, 'g', -1, 64) + "%"
	}
	return strconv.FormatFloat(math.Floor(p+0.5), 'g', -1, 64) + "%"
}

func capital(s string) string {
	for i, c := range s {
		if c != '*' {
			_, wide := utf8.DecodeRuneInString(s[i:])
			return s[:i] + string(unicode.ToUpper(c)) + s[i+wide:]
		}
	}
	return s
}

// Items turns expanded lines into items of the declaration under a law. name is what a component is called on a label.
func Items(nodes []formula.Node, l *law.Law, name func(formula.Version) string) []Item {
	return items(nodes, 1, l, name)
}

func items(nodes []formula.Node, scale float64, l *law.Law, name func(formula.Version) string) []Item {
	out := make([]Item, len(nodes))
	for i := range nodes {
		n := &nodes[i]
		it := &out[i]
		it.Grams, it.Quid, it.Disperse = n.Grams*scale, n.Line.Quid, n.Line.Disperse
		if g := n.Ingredient; g != nil {
			it.Name, it.SupplierList, it.Allergens = g.LabelFor(l.Regime), g.ListFor(l.Regime), g.Allergens[l.Regime]
			it.Flags, it.SulphitesMgKg = g.Flags, g.SulphitesMgKg
			continue
		}
		it.Name, it.DrivenOff = name(n.Component.Version), n.DrivenOff()*scale
		it.Parts = items(n.Component.Parts, scale*n.Scale, l, name)
	}
	return out
}

// parsed is a supplier's list as read, and as a label prints it.
type parsed struct {
	items   []pantry.ListItem
	printed string
	err     error
}

var parses memo[string, parsed]

// parseList reads a supplier's list; callers do not change what it returns.
func parseList(text string) parsed {
	if text == "" {
		return parsed{}
	}
	return parses.get(text, func() parsed {
		items, err := pantry.ParseSupplierList(text)
		return parsed{items, pantry.PrintList(items), err}
	})
}
