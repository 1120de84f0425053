package release

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/judge"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// carriedNow is what all ingredients carry, by id.
func carriedNow(st kernel.Store) (map[string]judge.Carries, error) {
	rows, err := st.Ingredients()
	if err != nil {
		return nil, err
	}
	out := make(map[string]judge.Carries, len(rows))
	for i := range rows {
		out[rows[i].ID] = judge.Carried(&rows[i].Data)
	}
	return out, nil
}

// Guarded runs an act on the pantry and checks what ingredients gained and lost by it. To lose an allergen or a hazard
// flag takes an owner and a reason that names what is touched. If one is gained, labels stop and jars whose words lack
// it are called back (handbook 08).
func (a *Room) Guarded(ctx context.Context, st kernel.Store, act func() error) error {
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
	changed := judge.Moved(before, now)
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
	return a.noteChange(ctx, st, lib, kernel.AllergenChange{At: a.Now(), By: kernel.Actor(ctx).Name,
		Reason:     a.Stamp(ctx).Why,
		ChangeWhat: touched})
}

// Renames asks for a reason before an ingredient that carries an allergen gets another name, since people knew it by
// the old one.
func (a *Room) Renames(ctx context.Context, st kernel.Store, was, becomes pantry.Ingredient) error {
	carried := law.Each[[]string]{}
	renamed := !strings.EqualFold(was.Name, becomes.Name)
	for _, l := range law.All() {
		carried[l.Regime] = was.AllergensUnder(l)
		renamed = renamed || !strings.EqualFold(was.Labels[l.Regime], becomes.Labels[l.Regime])
	}
	if !renamed || !judge.AnyCode(carried) {
		return nil
	}
	if _, err := kernel.ReasonFor(a.Stamp(ctx).Why); err == nil {
		return nil
	}
	_, touched, err := touchedBy(st, []judge.Change{{ID: was.ID, Name: was.Name}})
	if err != nil {
		return err
	}
	return kernel.Problem{Kind: kernel.Refused, Code: "renames", Message: fmt.Sprintf(
		"%s carries %s and would be called otherwise. It is in %s. Say why.", was.Name, judge.InWords(carried),
		touched.ProductsIn())}
}

// touchedBy lists the versions and labels that contain ingredients: locked versions and the newest draft.
func touchedBy(st kernel.Store, changed []judge.Change) (formula.Library, kernel.ChangeWhat, error) {
	out := kernel.ChangeWhat{Ingredients: changed, Products: []kernel.TouchedProduct{},
		Labels: []kernel.TouchedLabel{}, Batches: []int64{}}
	lib, formulas, versions, err := kernel.Everything(st)
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
		if slices.ContainsFunc(changed, func(c judge.Change) bool { return lib.Uses(core, c.ID) }) {
			in[v.FormulaID] = true
			if !retired[v.FormulaID] || v.State == formula.Locked {
				out.Products = append(out.Products,
					kernel.TouchedProduct{Formula: v.FormulaID, Name: lib.Name(v.FormulaID), Version: v.Number,
						State: v.State})
			}
		}
	}
	labels, err := st.Labels()
	for _, l := range labels {
		if in[l.FormulaID] {
			out.Labels = append(out.Labels, kernel.TouchedLabel{ID: l.ID, Formula: l.FormulaID,
				Name: lib.Name(l.FormulaID), Regime: l.Regime})
		}
	}
	return lib, out, err
}

// mayLose allows only an owner, with a reason, to take allergens or flags off.
func (a *Room) mayLose(ctx context.Context, changed []judge.Change, touched kernel.ChangeWhat) error {
	var lost []string
	for _, c := range changed {
		if !c.Loses() {
			continue
		}
		what := judge.InWords(c.Lost)
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
	said := fmt.Sprintf("%s. It is in %s.", strings.Join(lost, "; "), touched.ProductsIn())
	if !kernel.Actor(ctx).Role.May(people.Owner) {
		return kernel.Problem{Kind: kernel.Forbidden, Code: entry.NotYours,
			Message: said + " Only an owner takes that off, with a reason."}
	}
	if _, err := kernel.ReasonFor(a.Stamp(ctx).Why); err != nil {
		return kernel.Problem{Kind: kernel.Refused, Code: "loses", Message: said + " Say why it is right."}
	}
	return nil
}

// noteChange records the change, and calls back jars whose words lack what was gained.
func (a *Room) noteChange(ctx context.Context, st kernel.Store, lib formula.Library, c kernel.AllergenChange) error {
	if len(c.Products) == 0 {
		return nil
	}
	var gaining []judge.Change
	for _, x := range c.Ingredients {
		if x.Gains() {
			gaining = append(gaining, x)
		}
	}
	var out []production.Loaded
	if len(gaining) > 0 {
		var err error
		if out, err = a.outLacking(st, lib, gaining); err != nil {
			return err
		}
		for _, l := range out {
			c.Batches = append(c.Batches, l.Row.ID)
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
		ids[i] = l.Row.ID
	}
	return a.Production.JudgeAll(ctx, st, ids)
}

// outLacking lists the batches in date that have jars out whose words lack what ingredients gained.
func (a *Room) outLacking(st kernel.Store, lib formula.Library,
	gaining []judge.Change) ([]production.Loaded, error) {
	refs, err := st.BatchRefs()
	if err != nil {
		return nil, err
	}
	refs = slices.DeleteFunc(refs, func(r formula.Ref) bool {
		v, there := lib.Versions[r]
		return !there || !slices.ContainsFunc(gaining, func(c judge.Change) bool {
			return lib.Uses(v,
				c.ID)
		})
	})
	if len(refs) == 0 {
		return nil, nil
	}
	ids, err := st.BatchIDs(refs...)
	if err != nil {
		return nil, err
	}
	desk, err := a.Production.Judging(st)
	if err != nil {
		return nil, err
	}
	var out []production.Loaded
	for part := range slices.Chunk(ids, production.ManyAtOnce) {
		list, err := desk.Locked(st, part)
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

// outAndLacks reports whether jars of a batch may be out, in date, with words that lack something that went in.
func (a *Room) outAndLacks(l production.Loaded, gaining []judge.Change) bool {
	if !l.Record.Out || l.Record.State == bench.Rejected {
		return false
	}
	last := l.LastDay(l.Verdict(l.Book.Law))
	if last != "" && last < day.Of(a.TodayIn(l.Book.Settings)) {
		return false
	}
	made := l.Made().Resolved()
	return slices.ContainsFunc(gaining, func(c judge.Change) bool {
		return l.Lib.Uses(made, c.ID) && l.WordsLack(c.Gained)
	})
}

func (a *Room) recallWords(ctx context.Context, st kernel.Store, l production.Loaded, change int64,
	gaining []judge.Change) error {
	lacks := judge.InWords(judge.Gained(gaining))
	recall := bench.Recall{Change: change, Lacks: lacks,
		Cause: fmt.Sprintf("Its jars are out with words that do not name %s, which %s turned out to contain.", lacks,
			judge.Names(gaining))}
	who := kernel.Actor(ctx)
	entry := bench.Entry{At: a.Now(), By: who.Name, Role: who.Role, Body: &recall}
	_, err := st.AddEntry(l.Row.ID, entry, fmt.Sprintf("words-%d-%d", change, l.Row.ID), kernel.DigestOf(recall))
	return err
}
