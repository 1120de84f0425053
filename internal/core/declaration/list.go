// Package declaration derives the words on the label that law governs: the ingredient list with allergens and
// quantities, nutrition figures rounded as the law rounds, net quantity, for the law of one country at a time. It
// drafts; the maker and their authority decide.
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

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// Item is something that goes into the bowl, as one law's declaration sees it. A component has Parts.
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

	ingredient *pantry.Ingredient // where it comes from, which tells its words under each law
	component  *formula.Component
	under      *law.Law // for which list and found are filled in
	list       parsed
	found      []string // allergens recorded, and those its name and list betray
	carries    law.Each[[]string]
}

// tell puts the words of a law into items that come from a formula.
func tell(items []Item, l *law.Law) {
	for i := range items {
		it := &items[i]
		if g := it.ingredient; g != nil {
			it.Name, it.SupplierList = g.LabelFor(l.Regime), g.ListFor(l.Regime)
		}
		if c := it.component; c != nil {
			if own := c.Version.Wording.Names[l.Regime]; own != "" {
				it.Name = own
			} else {
				it.Name = strings.ToLower(c.Name)
			}
			tell(it.Parts, l)
		}
	}
}

// told reads the item's list and finds its allergens, once.
func (it *Item) told(l *law.Law) (parsed, []string) {
	if it.under != l {
		it.under, it.list, it.found = l, parseList(it.SupplierList), nil
		if it.list.err == nil {
			if it.carries == nil || it.ingredient == nil {
				it.carries = it.stated(l).Carries()
			}
			it.found = it.carries[l.Regime]
		}
	}
	return it.list, it.found
}

// stated is the ingredient behind an item, or one with what the item itself states.
func (it *Item) stated(l *law.Law) *pantry.Ingredient {
	if it.ingredient != nil {
		return it.ingredient
	}
	return &pantry.Ingredient{Name: it.Name, SupplierLists: law.Each[string]{l.Regime: it.SupplierList},
		Allergens: law.Each[[]string]{l.Regime: it.Allergens}, Flags: it.Flags, SulphitesMgKg: it.SulphitesMgKg}
}

// words are what an item's texts are read by.
func (it *Item) words() *allergen.Lexicon {
	switch {
	case it.ingredient != nil:
		return it.ingredient.Words()
	case len(it.Parts) > 0:
		return it.Parts[0].words()
	}
	return allergen.Shipped()
}

// Options are the law, the maker's choices and the facts of the mix.
type Options struct {
	Law *law.Law
	// TailPercent is, where the law has it, the share of the mix at or under which items stand after "Contains 2% or
	// less of:"; 0 is off.
	TailPercent float64
	GroupSpices bool
	DrivenOff   float64 // grams of water driven off while mixing, components included
	// names, as Stressed tells them, of what the name or a picture features beside the marked lines
	Named []string
}

// Declaration is the ingredient list with its allergens. In List, ** stands around emphasised words.
type Declaration struct {
	Regime    law.Regime `json:"regime"`
	List      string     `json:"list"`
	Contains  string     `json:"contains"`
	Allergens []string   `json:"allergens"`
	Disclosed []string   `json:"disclosed"` // in the list, and no allergen of the law
	Notes     []string   `json:"notes"`
	// what has its quantity beside it
	Quantified []Quantity `json:"-"`
}

// Quantity is the name of an ingredient with its quantity as it is printed.
type Quantity struct{ Name, Text string }

// entry is one item of the list after merging.
type entry struct {
	name      string
	folded    string // the name in lower case, by which entries merge
	printed   string // list as a label prints it
	allergens []string
	words     *allergen.Lexicon
	grams     float64
	quid      bool
	order     int
	water     bool
	salt      bool
	spice     bool
	herb      bool // a herb among the spices
}

func (it *Item) has(flag string) bool { return slices.Contains(it.Flags, flag) }

// Declare writes the ingredient list of a mix.
func Declare(items []Item, o Options) (Declaration, error) {
	d := Declaration{Regime: o.Law.Regime, Allergens: []string{}, Disclosed: []string{}, Notes: []string{}}
	tell(items, o.Law)
	entries, err := collect(items, o, &d)
	if err != nil {
		return d, err
	}
	mixing := 0.0
	for _, e := range entries {
		mixing += e.grams
	}
	sulphites := sulphitesDeclared(items, o.Law, o.DrivenOff)
	if sulphites.note != "" {
		d.Notes = append(d.Notes, sulphites.note)
	}
	all := allergenSet(entries, o.Law, sulphites.declared)
	d.Allergens, d.Disclosed = slices.DeleteFunc(slices.Clone(all), o.Law.OnlyDisclosed), []string{}
	if len(d.Allergens) < len(all) {
		d.Disclosed = []string{o.Law.Sulphites}
	}
	w := weights{mixing: mixing, off: max(0, o.DrivenOff-keptWhole(items))}
	for _, e := range entries {
		e.quid = e.quid || slices.Contains(o.Named, e.folded)
	}
	entries = oneSalt(entries)
	entries = water(entries, w, o.Law)
	if o.GroupSpices {
		entries = groupSpices(entries, o.Law, w.finished())
	}
	slices.SortFunc(entries, falling)
	for _, e := range entries {
		if e.quid && o.Law.Quid {
			d.Quantified = append(d.Quantified, Quantity{e.folded, quid(e.grams, w)})
		}
	}
	d.List = write(entries, o, w, sulphites.declared)
	if o.Law.ContainsLine {
		d.Contains = containsLine(o.Law, d.Allergens)
	}
	return d, nil
}

// falling orders entries by descending weight. Equal weights keep the order they were entered in.
func falling(a, b *entry) int {
	if math.Abs(a.grams-b.grams) > 1e-9 {
		return cmp.Compare(b.grams, a.grams)
	}
	return cmp.Compare(a.order, b.order)
}

// collect flattens dispersed components, keeps compounds whole, and merges what has equal name, list and allergens.
func collect(items []Item, o Options, d *Declaration) ([]*entry, error) {
	c := collecting{under: o.Law, into: d, entries: make([]entry, 0, len(items))}
	if err := c.walk(items); err != nil {
		return nil, err
	}
	entries := make([]*entry, len(c.entries))
	for i := range c.entries {
		entries[i] = &c.entries[i]
	}
	return entries, nil
}

// collecting gathers entries.
type collecting struct {
	under   *law.Law
	into    *Declaration
	entries []entry
}

func (c *collecting) walk(items []Item) error {
	for i := range items {
		it := &items[i]
		if len(it.Parts) > 0 && it.Disperse {
			if err := c.walk(it.Parts); err != nil {
				return err
			}
			continue
		}
		var e entry
		if err := e.of(it, c.under); err != nil {
			return fmt.Errorf("%s: %w", it.Name, err)
		}
		// A processing aid or a carry-over without function is left out, but never an allergen.
		if it.has(pantry.FlagProcessingAid) && len(e.allergens) == 0 {
			c.into.Notes = append(c.into.Notes, e.name+" is left out as a processing aid")
			continue
		}
		if it.Grams > 0 {
			c.add(e)
		}
	}
	return nil
}

// add merges an entry with the one that has equal name, list and allergens, where there is one.
func (c *collecting) add(e entry) {
	for i := range c.entries {
		have := &c.entries[i]
		if have.folded == e.folded && have.printed == e.printed && slices.Equal(have.allergens, e.allergens) {
			have.grams += e.grams
			have.quid = have.quid || e.quid
			return
		}
	}
	e.order = len(c.entries)
	c.entries = append(c.entries, e)
}

// of fills the entry in from an item.
func (e *entry) of(it *Item, l *law.Law) error {
	*e = entry{name: it.Name, folded: strings.ToLower(it.Name), grams: it.Grams, quid: it.Quid,
		water: it.has(pantry.FlagWater), salt: it.has(pantry.FlagSalt), words: it.words()}
	e.spice = it.has(pantry.FlagSpice) && !it.has(pantry.FlagColouringSpice)
	e.herb = e.spice && it.ingredient != nil && it.ingredient.Role == pantry.RoleHerb
	if class := it.additive(); class != "" {
		e.name = l.Additive(class, e.name)
		e.folded = strings.ToLower(e.name)
	}
	if len(it.Parts) > 0 {
		var err error
		if e.printed, err = componentList(it, l); err != nil {
			return err
		}
		e.allergens = deepAllergens(it, l)
		return nil
	}
	list, found := it.told(l)
	e.printed, e.allergens = list.printed, found
	return list.err
}

// additive is the class of an additive, empty for what is none.
func (it *Item) additive() string {
	for _, f := range it.Flags {
		if class, ok := strings.CutPrefix(f, pantry.FlagAdditive); ok {
			return class
		}
	}
	return ""
}

// componentList is a component's own ingredients in falling order as a label prints them, its compounds nested.
func componentList(it *Item, l *law.Law) (string, error) {
	var scratch Declaration
	entries, err := collect(it.Parts, Options{Law: l}, &scratch)
	if err != nil {
		return "", err
	}
	w := weights{off: max(0, it.DrivenOff-keptWhole(it.Parts))}
	for _, e := range entries {
		w.mixing += e.grams
	}
	entries = water(oneSalt(entries), w, l)
	slices.SortFunc(entries, falling)
	var out strings.Builder
	for i, e := range entries {
		if i > 0 {
			out.WriteString(", ")
		}
		out.WriteString(e.name)
		if e.printed != "" {
			out.WriteString(" (")
			out.WriteString(e.printed)
			out.WriteByte(')')
		}
	}
	return out.String(), nil
}

func deepAllergens(it *Item, l *law.Law) []string {
	var out []string
	for i := range it.Parts {
		p := &it.Parts[i]
		var add []string
		if len(p.Parts) > 0 {
			add = deepAllergens(p, l)
		} else {
			_, add = p.told(l)
		}
		for _, a := range add {
			if !slices.Contains(out, a) {
				out = append(out, a)
			}
		}
	}
	return out
}

func write(entries []*entry, o Options, w weights, sulphites bool) string {
	main, tail := make([]string, 0, len(entries)), []string(nil)
	for _, e := range entries {
		text := e.text(o, w, sulphites)
		if o.Law.Tail && o.TailPercent > 0 && e.grams <= o.TailPercent/100*w.mixing+1e-9 {
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
	main[0] = capital(main[0])
	s := strings.Join(main, ", ") + "."
	if len(tail) > 0 {
		s += fmt.Sprintf(" Contains %s%% or less of: %s.", strconv.FormatFloat(o.TailPercent, 'g', -1, 64),
			strings.Join(tail, ", "))
	}
	return s
}

func (e *entry) text(o Options, w weights, sulphites bool) string {
	name := e.name
	if o.Law.Quid && e.quid {
		name += " (" + quid(e.grams, w) + ")"
	}
	if !o.Law.ContainsLine {
		return e.emphasise(o.Law, name, sulphites)
	}
	return e.disclosed(o.Law, name, sulphites)
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

// Items turns expanded lines into items of a declaration, under whichever law that is written.
func Items(nodes []formula.Node) []Item { return items(nodes, 1) }

func items(nodes []formula.Node, scale float64) []Item {
	out := make([]Item, len(nodes))
	for i := range nodes {
		n := &nodes[i]
		it := &out[i]
		it.Grams, it.Quid, it.Disperse = n.Grams*scale, n.Line.Quid, n.Line.Disperse
		if g := n.Ingredient; g != nil {
			it.ingredient, it.Flags, it.SulphitesMgKg = g, g.Flags, g.SulphitesMgKg
			continue
		}
		it.component, it.DrivenOff = n.Component, n.DrivenOff()*scale
		it.Parts = items(n.Component.Parts, scale*n.Scale)
	}
	return out
}

// parsed is a supplier's list as read, and as a label prints it.
type parsed struct {
	printed string
	err     error
}

var parses allergen.Memo[string, parsed]

// parseList reads a supplier's list; callers do not change what it returns.
func parseList(text string) parsed {
	if text == "" {
		return parsed{}
	}
	return parses.Get(text, func() parsed {
		items, err := pantry.ParseSupplierList(text)
		return parsed{pantry.PrintList(items), err}
	})
}
