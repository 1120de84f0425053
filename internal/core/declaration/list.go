// Package declaration derives the words on the label that law governs: the ingredient list with allergens and
// quantities, nutrition figures rounded as the law rounds, net quantity, for two regimes: US (21 CFR 101) and
// GB (Regulation 1169/2011 as kept in GB). It drafts; the maker and their authority decide.
package declaration

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// Regimes of law.
const (
	US = "US"
	GB = "GB"
)

// Item is something that goes into the bowl, as the declaration sees it. A component carries Parts.
type Item struct {
	NameUS, NameGB               string
	Grams                        float64
	SupplierList, SupplierListUS string
	AllergensUS, AllergensGB     []string
	Flags                        []string
	Quid                         bool
	SulphitesMgKg                *float64
	Parts                        []Item // a component's own items, scaled to Grams
	Disperse                     bool   // merge the parts with the rest
	DrivenOff                    float64
}

// Options are the maker's choices and the facts of the mix.
type Options struct {
	Regime      string
	TailPercent float64 // US: "Contains 2% or less of:" for items at or under this share of the mix; 0 is off
	GroupSpices bool
	DrivenOff   float64 // grams of water driven off while mixing, components included
}

// Declaration is the ingredient list with its allergens. In List, ** stands around emphasised words.
type Declaration struct {
	Regime    string   `json:"regime"`
	List      string   `json:"list"`
	Contains  string   `json:"contains"`
	Allergens []string `json:"allergens"`
	Notes     []string `json:"notes"`
}

// entry is one item of the list after merging.
type entry struct {
	name      string
	list      []pantry.ListItem
	printed   string // list as a label prints it
	allergens []string
	flags     []string
	grams     float64
	quid      bool
	order     int
	water     bool
	refined   bool
	spice     bool
}

func (it *Item) has(flag string) bool { return slices.Contains(it.Flags, flag) }

func (it *Item) name(regime string) string {
	if regime == US {
		return it.NameUS
	}
	return it.NameGB
}

func (it *Item) allergens(regime string) []string {
	if regime == US {
		return it.AllergensUS
	}
	return it.AllergensGB
}

func (it *Item) supplierList(regime string) string {
	if regime == US && it.SupplierListUS != "" {
		return it.SupplierListUS
	}
	return it.SupplierList
}

// Declare writes the ingredient list of a mix.
func Declare(items []Item, o Options) (Declaration, error) {
	d := Declaration{Regime: o.Regime, Allergens: []string{}, Notes: []string{}}
	entries, err := collect(items, o, &d)
	if err != nil {
		return d, err
	}
	mixing := 0.0
	for _, e := range entries {
		mixing += e.grams
	}
	sulphites := sulphitesDeclared(items)
	if sulphites.note != "" && o.Regime == GB {
		d.Notes = append(d.Notes, sulphites.note)
	}
	d.Allergens = allergenSet(entries, o.Regime, sulphites.declared)
	finished := mixing - o.DrivenOff
	if o.Regime == GB {
		entries = gbWater(entries, finished)
	} else {
		entries = usWater(entries, o.DrivenOff)
	}
	if o.GroupSpices {
		entries = groupSpices(entries, o.Regime, finished)
	}
	sort.SliceStable(entries, func(i, j int) bool {
		a, b := entries[i], entries[j]
		if math.Abs(a.grams-b.grams) > 1e-9 {
			return a.grams > b.grams
		}
		if a.order != b.order {
			return a.order < b.order
		}
		return a.name < b.name
	})
	d.List = write(entries, o, mixing, finished, sulphites.declared)
	if o.Regime == US {
		d.Contains = containsLine(d.Allergens)
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
	at := make(map[string]int, len(flat))
	for _, it := range flat {
		e, err := entryOf(it, o.Regime)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", it.name(o.Regime), err)
		}
		// A processing aid or a carry-over without function is left out, but never an allergen.
		if it.has(pantry.FlagProcessingAid) && len(e.allergens) == 0 {
			d.Notes = append(d.Notes, e.name+" is left out as a processing aid")
			continue
		}
		if it.Grams <= 0 {
			continue
		}
		key := strings.ToLower(e.name) + "|" + e.printed + "|" + strings.Join(e.allergens, ";")
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

func entryOf(it *Item, regime string) (*entry, error) {
	e := &entry{name: it.name(regime), grams: it.Grams, quid: it.Quid, water: it.has(pantry.FlagWater), flags: it.Flags}
	if e.name == "" {
		e.name = it.NameUS + it.NameGB
	}
	e.refined = it.has(pantry.FlagRefinedOil)
	e.spice = it.has(pantry.FlagSpice) && !it.has(pantry.FlagColouringSpice)
	if len(it.Parts) > 0 {
		inner, err := componentList(it, regime)
		if err != nil {
			return e, err
		}
		e.list, e.printed = inner, pantry.PrintList(inner)
		e.allergens = deepAllergens(it, regime)
		return e, nil
	}
	list := parseList(it.supplierList(regime))
	if list.err != nil {
		return e, list.err
	}
	e.list, e.printed = list.items, list.printed
	e.allergens = itemAllergens(it, regime, list.printed)
	return e, nil
}

// componentList is a component's own ingredients in falling order, its compounds nested.
func componentList(it *Item, regime string) ([]pantry.ListItem, error) {
	var scratch Declaration
	entries, err := collect(it.Parts, Options{Regime: regime}, &scratch)
	if err != nil {
		return nil, err
	}
	sort.SliceStable(entries, func(i, j int) bool { return entries[i].grams > entries[j].grams+1e-9 })
	out := make([]pantry.ListItem, len(entries))
	for i, e := range entries {
		out[i] = pantry.ListItem{Name: e.name, Parts: e.list}
	}
	return out, nil
}

func deepAllergens(it *Item, regime string) []string {
	var out []string
	for i := range it.Parts {
		p := &it.Parts[i]
		var add []string
		if len(p.Parts) > 0 {
			add = deepAllergens(p, regime)
		} else if list := parseList(p.supplierList(regime)); list.err == nil {
			add = itemAllergens(p, regime, list.printed)
		}
		for _, a := range add {
			if !slices.Contains(out, a) {
				out = append(out, a)
			}
		}
	}
	return out
}

// gbWater: added water counts as finished weight minus all other ingredients at mixing, and is left out at or
// under 5 % of the finished weight (Regulation 1169/2011 annex VII part A 1).
func gbWater(entries []*entry, finished float64) []*entry {
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

// usWater: water is listed by the weight added, unless all of it is removed in making (21 CFR 101.4).
func usWater(entries []*entry, drivenOff float64) []*entry {
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

// gbSpiceShare is the share up to which herbs or spices may be grouped in GB (annex VII part B).
const gbSpiceShare = 0.02

// groupSpices sums spices under one name: US 21 CFR 101.22(a)(2); never garlic, onion, celery powder or salt, and
// colouring spices stay named. A spice that carries an allergen stays named too.
func groupSpices(entries []*entry, regime string, finished float64) []*entry {
	sum, first := 0.0, -1
	for _, e := range entries {
		if e.spice && len(e.allergens) == 0 && !e.quid {
			sum += e.grams
		}
	}
	if sum == 0 || regime == GB && sum > gbSpiceShare*finished {
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
	var main, tail []string
	for _, e := range entries {
		text := e.text(o, mixing, finished, sulphites)
		if o.Regime == US && o.TailPercent > 0 && e.grams <= o.TailPercent/100*mixing+1e-9 {
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
	if o.Regime == GB && e.quid {
		name += " (" + quid(e.grams, mixing, finished, o.DrivenOff > 0) + ")"
	}
	if o.Regime == GB {
		return emphasise(name, e.printed, e.allergens, sulphites)
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
	r := []rune(s)
	for i, c := range r {
		if c == '*' {
			continue
		}
		r[i] = []rune(strings.ToUpper(string(c)))[0]
		break
	}
	return string(r)
}

// Items turns expanded lines into items of the declaration.
func Items(nodes []formula.Node, names func(formula.Version) (us, gb string)) []Item {
	out := make([]Item, 0, len(nodes))
	for _, n := range nodes {
		it := Item{Grams: n.Grams, Quid: n.Line.Quid, Disperse: n.Line.Disperse, DrivenOff: n.DrivenOff}
		if g := n.Ingredient; g != nil {
			it.NameUS, it.NameGB = g.LabelUS, g.LabelGB
			if it.NameUS == "" {
				it.NameUS = strings.ToLower(g.Name)
			}
			if it.NameGB == "" {
				it.NameGB = strings.ToLower(g.Name)
			}
			it.SupplierList, it.SupplierListUS = g.SupplierList, g.SupplierListUS
			it.AllergensUS, it.AllergensGB, it.Flags, it.SulphitesMgKg = g.AllergensUS, g.AllergensGB, g.Flags, g.SulphitesMgKg
		} else {
			it.NameUS, it.NameGB = names(*n.Version)
			it.Parts = Items(n.Parts, names)
		}
		out = append(out, it)
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
