package app

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// AllergenStore keeps what ingredients gained and lost, and the vessels that products share.
type AllergenStore interface {
	AllergenChanges(gained bool, most int) ([]AllergenChange, error)
	AllergenChange(id int64) (AllergenChange, error)
	AddAllergenChange(c *AllergenChange) error
	BatchesLacking() (map[int64]bool, error)

	Vessels() ([]Vessel, error)
	AddVessel(v *Vessel) error
	PutVessel(v Vessel, rev int) error
	VesselEntries(vessels ...int64) ([]VesselEntry, error)
	VesselsOf(batch int64) ([]VesselTurns, error)
	AddVesselEntry(e VesselEntry) error
}

// AllergenChange is one act by which ingredients gained or lost allergens or flags of hazard, with all that it touched
// on the day.
type AllergenChange struct {
	ID     int64     `json:"id"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Reason string    `json:"reason"`
	ChangeWhat
}

// ChangeWhat is what changed, and what it touches.
type ChangeWhat struct {
	Ingredients []IngredientChange `json:"ingredients"`
	Products    []TouchedProduct   `json:"products"`
	Labels      []TouchedLabel     `json:"labels"`
	Batches     []int64            `json:"batches"` // called back
}

// Gained reports whether an allergen was gained, so that labels and batches are to be dealt with.
func (w ChangeWhat) Gained() bool {
	return slices.ContainsFunc(w.Ingredients, func(c IngredientChange) bool { return c.gains() })
}

// IngredientChange is what one ingredient gained and lost.
type IngredientChange struct {
	ID        string             `json:"id"`
	Name      string             `json:"name"`
	Gained    law.Each[[]string] `json:"gained"`
	Lost      law.Each[[]string] `json:"lost"`
	FlagsGain []string           `json:"flags_gained"`
	FlagsLost []string           `json:"flags_lost"`
}

// TouchedProduct is a version that an ingredient is in.
type TouchedProduct struct {
	Formula string `json:"formula"`
	Name    string `json:"name"`
	Version int    `json:"version"`
	State   string `json:"state"`
}

// TouchedLabel is a label of such a product.
type TouchedLabel struct {
	ID      int64      `json:"id"`
	Formula string     `json:"formula"`
	Name    string     `json:"name"`
	Regime  law.Regime `json:"regime"`
}

// carried is what ingredients carry at a moment, by id.
type carried map[string]carries

type carries struct {
	name      string
	allergens law.Each[[]string]
	flags     []string
}

// carriedNow is what all ingredients carry.
func carriedNow(st Store) (carried, error) {
	rows, err := st.Ingredients()
	if err != nil {
		return nil, err
	}
	out := make(carried, len(rows))
	for i := range rows {
		g := &rows[i].Data
		c := carries{g.Name, law.Each[[]string]{}, pantry.Hazards(g.AllFlags())}
		for _, l := range law.All() {
			c.allergens[l.Regime] = g.AllergensUnder(l)
		}
		out[g.ID] = c
	}
	return out, nil
}

// since tells what ingredients gained and lost against before. One that was not there yet gained nothing.
func (now carried) since(before carried) []IngredientChange {
	var out []IngredientChange
	for id, was := range before {
		is, there := now[id]
		if !there {
			continue
		}
		c := IngredientChange{ID: id, Name: is.name, Gained: law.Each[[]string]{}, Lost: law.Each[[]string]{},
			FlagsGain: without(is.flags, was.flags), FlagsLost: without(was.flags, is.flags)}
		moved := len(c.FlagsGain)+len(c.FlagsLost) > 0
		for _, l := range law.All() {
			c.Gained[l.Regime] = withoutAllergens(is.allergens[l.Regime], was.allergens[l.Regime])
			c.Lost[l.Regime] = withoutAllergens(was.allergens[l.Regime], is.allergens[l.Regime])
			moved = moved || len(c.Gained[l.Regime])+len(c.Lost[l.Regime]) > 0
		}
		if moved {
			out = append(out, c)
		}
	}
	slices.SortFunc(out, func(a, b IngredientChange) int { return strings.Compare(a.Name, b.Name) })
	return out
}

func without(a, b []string) []string {
	out := []string{}
	for _, x := range a {
		if !slices.Contains(b, x) {
			out = append(out, x)
		}
	}
	return out
}

// withoutAllergens leaves out what is there in a plainer or a closer word: milk for goat milk, a fish whose species is
// told by now.
func withoutAllergens(a, b []string) []string {
	out := without(a, b)
	return slices.DeleteFunc(out, func(code string) bool {
		base, kind, _ := strings.Cut(code, ":")
		return (kind == "" || kind == law.UnnamedSpecies) &&
			slices.ContainsFunc(b, func(o string) bool { return o == base || strings.HasPrefix(o, base+":") })
	})
}

func (c IngredientChange) loses() bool {
	return len(c.FlagsLost) > 0 || anyCode(c.Lost)
}

func (c IngredientChange) gains() bool { return anyCode(c.Gained) }

func anyCode(each law.Each[[]string]) bool {
	for _, list := range each {
		if len(list) > 0 {
			return true
		}
	}
	return false
}

// codesIn are the codes of all laws, each allergen once, in words.
func codesIn(each law.Each[[]string]) string {
	var out []string
	for _, l := range law.All() {
		for _, code := range each[l.Regime] {
			if word := pantry.PlainAllergens([]string{code}); !slices.Contains(out, word) {
				out = append(out, word)
			}
		}
	}
	return strings.Join(out, ", ")
}

// guarded does something to the pantry, and looks what ingredients gained and lost by it. Losing an allergen or a flag
// of hazard is an owner's act with a reason that names what it touches; by a gained one labels stop and jars with words
// that lack it are called back (handbook 08).
func (a *App) guarded(ctx context.Context, st Store, act func() error) error {
	before, err := carriedNow(st)
	if err != nil {
		return err
	}
	if err := act(); err != nil {
		return err
	}
	now, err := carriedNow(st)
	if err != nil {
		return err
	}
	changed := now.since(before)
	if len(changed) == 0 {
		return nil
	}
	lib, touched, err := touchedBy(st, changed)
	if err != nil {
		return err
	}
	if err := a.mayLose(ctx, changed, touched); err != nil {
		return err
	}
	return a.noteChange(ctx, st, lib, AllergenChange{At: a.Now(), By: actor(ctx).Name, Reason: a.stamp(ctx).Why,
		ChangeWhat: touched})
}

// renames asks for a reason where an ingredient that carries an allergen gets another name: what people knew it by is
// gone.
func (a *App) renames(ctx context.Context, st Store, was, becomes pantry.Ingredient) error {
	carried := law.Each[[]string]{}
	renamed := !strings.EqualFold(was.Name, becomes.Name)
	for _, l := range law.All() {
		carried[l.Regime] = was.AllergensUnder(l)
		renamed = renamed || !strings.EqualFold(was.Labels[l.Regime], becomes.Labels[l.Regime])
	}
	if !renamed || !anyCode(carried) {
		return nil
	}
	if _, err := reasonFor(a.stamp(ctx).Why); err == nil {
		return nil
	}
	_, touched, err := touchedBy(st, []IngredientChange{{ID: was.ID, Name: was.Name}})
	if err != nil {
		return err
	}
	return Problem{Kind: Refused, Code: "renames", Message: fmt.Sprintf(
		"%s carries %s and would be called otherwise. It is in %s. Say why.", was.Name, codesIn(carried),
		touched.productsIn())}
}

// touchedBy are the versions and labels that ingredients are in: locked versions, and the newest draft.
func touchedBy(st Store, changed []IngredientChange) (formula.Library, ChangeWhat, error) {
	out := ChangeWhat{Ingredients: changed, Products: []TouchedProduct{}, Labels: []TouchedLabel{}, Batches: []int64{}}
	lib, formulas, versions, err := everything(st)
	if err != nil {
		return lib, out, err
	}
	in := map[string]bool{}
	retired := map[string]bool{}
	for _, f := range formulas {
		retired[f.ID] = f.Retired
	}
	for _, v := range versions {
		core := v.Core()
		if slices.ContainsFunc(changed, func(c IngredientChange) bool { return lib.Uses(core, c.ID) }) {
			in[v.FormulaID] = true
			if !retired[v.FormulaID] || v.State == formula.Locked {
				out.Products = append(out.Products,
					TouchedProduct{v.FormulaID, lib.Name(v.FormulaID), v.Number, v.State})
			}
		}
	}
	labels, err := st.Labels()
	for _, l := range labels {
		if in[l.FormulaID] {
			out.Labels = append(out.Labels, TouchedLabel{l.ID, l.FormulaID, lib.Name(l.FormulaID), l.Regime})
		}
	}
	return lib, out, err
}

// productsIn names the products of a change, each once.
func (w ChangeWhat) productsIn() string {
	var names []string
	for _, p := range w.Products {
		if !slices.Contains(names, p.Name) {
			names = append(names, p.Name)
		}
	}
	if len(names) == 0 {
		return "no product"
	}
	return strings.Join(names, ", ")
}

// mayLose lets only an owner with a reason take allergens or flags off.
func (a *App) mayLose(ctx context.Context, changed []IngredientChange, touched ChangeWhat) error {
	var lost []string
	for _, c := range changed {
		if !c.loses() {
			continue
		}
		what := codesIn(c.Lost)
		for _, f := range c.FlagsLost {
			if what != "" {
				what += ", "
			}
			what += "the flag " + strings.ReplaceAll(f, "_", " ")
		}
		lost = append(lost, fmt.Sprintf("%s loses %s", c.Name, what))
	}
	if len(lost) == 0 {
		return nil
	}
	said := fmt.Sprintf("%s. It is in %s.", strings.Join(lost, "; "), touched.productsIn())
	if !actor(ctx).Role.May(people.Owner) {
		return Problem{Kind: Forbidden, Code: entry.NotYours,
			Message: said + " Only an owner takes that off, with a reason."}
	}
	if _, err := reasonFor(a.stamp(ctx).Why); err != nil {
		return Problem{Kind: Refused, Code: "loses", Message: said + " Say why it is right."}
	}
	return nil
}

// noteChange keeps the change, and calls jars back whose words lack what was gained.
func (a *App) noteChange(ctx context.Context, st Store, lib formula.Library, c AllergenChange) error {
	if len(c.Products) == 0 {
		return nil
	}
	var gaining []IngredientChange
	for _, x := range c.Ingredients {
		if x.gains() {
			gaining = append(gaining, x)
		}
	}
	var out []loaded
	if len(gaining) > 0 {
		var err error
		if out, err = a.outLacking(st, lib, gaining); err != nil {
			return err
		}
		for _, l := range out {
			c.Batches = append(c.Batches, l.row.ID)
		}
	}
	if err := st.AddAllergenChange(&c); err != nil {
		return err
	}
	for _, l := range out {
		if err := a.recallWords(ctx, st, l, c.ID, gaining); err != nil {
			return err
		}
	}
	if len(out) == 0 {
		return nil
	}
	ids := make([]int64, len(out))
	for i, l := range out {
		ids[i] = l.row.ID
	}
	return a.judgeAll(ctx, st, ids)
}

// outLacking are the batches in date whose jars are out with words that lack what ingredients gained.
func (a *App) outLacking(st Store, lib formula.Library, gaining []IngredientChange) ([]loaded, error) {
	refs, err := st.BatchRefs()
	if err != nil {
		return nil, err
	}
	refs = slices.DeleteFunc(refs, func(r formula.Ref) bool {
		v, there := lib.Versions[r]
		return !there || !slices.ContainsFunc(gaining, func(c IngredientChange) bool { return lib.Uses(v, c.ID) })
	})
	if len(refs) == 0 {
		return nil, nil
	}
	ids, err := st.BatchIDs(refs...)
	if err != nil {
		return nil, err
	}
	desk, err := a.judging(st)
	if err != nil {
		return nil, err
	}
	var out []loaded
	for part := range slices.Chunk(ids, manyAtOnce) {
		list, err := desk.locked(st, part)
		if err != nil {
			return nil, err
		}
		for _, l := range list {
			if a.outAndLacks(l, gaining) {
				out = append(out, l)
			}
		}
	}
	return out, nil
}

// outAndLacks reports whether jars of a batch may be out, in date, with words that lack something that went into them.
func (a *App) outAndLacks(l loaded, gaining []IngredientChange) bool {
	if !l.record.Out || l.record.State == bench.Rejected {
		return false
	}
	last := l.lastDay(l.verdict(l.book.law))
	if last != "" && last < a.today(l.book.settings).Format(pantry.DateLayout) {
		return false
	}
	made, err := asWeighed(l.version, l.record).Resolve(l.record.Uses())
	if err != nil {
		made = l.version
	}
	return slices.ContainsFunc(gaining, func(c IngredientChange) bool {
		return l.lib.Uses(made, c.ID) && l.wordsLack(c.Gained)
	})
}

// wordsLack reports whether labels that were printed lack an allergen; jars without a print of ours may carry any.
func (l loaded) wordsLack(gained law.Each[[]string]) bool {
	printed := false
	for _, e := range l.entries {
		p, is := e.Body.(*bench.Print)
		if !is || p.What != "label" {
			continue
		}
		printed = true
		kept, err := keptOf(p)
		if err != nil || len(without(gained[kept.Regime], kept.Allergens)) > 0 {
			return true
		}
	}
	return !printed && anyCode(gained)
}

func (a *App) recallWords(ctx context.Context, st Store, l loaded, change int64, gaining []IngredientChange) error {
	lacks := codesIn(gainedBy(gaining))
	recall := bench.Recall{Change: change, Lacks: lacks,
		Cause: fmt.Sprintf("Its jars are out with words that do not name %s, which %s turned out to contain.", lacks,
			changedNames(gaining))}
	who := actor(ctx)
	entry := bench.Entry{At: a.Now(), By: who.Name, Role: who.Role, Body: &recall}
	_, err := st.AddEntry(l.row.ID, entry, fmt.Sprintf("words-%d-%d", change, l.row.ID), digestOf(recall))
	return err
}

// gainedBy are the allergens that ingredients gained together.
func gainedBy(list []IngredientChange) law.Each[[]string] {
	all := law.Each[[]string]{}
	for _, c := range list {
		for r, codes := range c.Gained {
			all[r] = allergen.Tidy(slices.Concat(all[r], codes))
		}
	}
	return all
}

func changedNames(list []IngredientChange) string {
	names := make([]string, len(list))
	for i, c := range list {
		names[i] = c.Name
	}
	return strings.Join(names, ", ")
}
