package catalog

import (
	"context"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/match"
)

// keepLock keeps what a version rests on as it is locked.
func (a *Room) keepLock(st kernel.Store, v formula.Version, upgraded bool, by kernel.Stamp) error {
	f, err := st.Formula(v.Formula)
	if err != nil {
		return err
	}
	d := kernel.NewDesk()
	if err := st.Desk(&d, kernel.NamedBy(v)); err != nil {
		return err
	}
	b, err := a.bookOf(st, d)
	if err != nil {
		return err
	}
	d.Library.Names[f.ID] = f.Name
	if err := kernel.Extend(st, &d.Library, v); err != nil {
		return err
	}
	docs := kernel.InForce(f.Evidence)
	p, err := assess.Version(v, assess.Inputs{Library: d.Library, Terms: b.Terms, Rules: b.Rules, Documents: docs})
	if err != nil {
		return LineProblem(err)
	}
	k := kernel.LockKept{Frozen: assess.Freeze(v, d.Library), At: by.At, By: by.By, Upgraded: upgraded, Estimate: p.PH,
		Rules: kernel.RulesKept(b.Rules), Documents: docs, Verdicts: p.Keeping, Words: law.Each[kernel.LabelFacts]{}}
	if k.Documents == nil {
		k.Documents = []keeping.Document{}
	}
	for _, under := range law.All() {
		k.Words[under.Regime] = kernel.Facts(f.Name, v, p, under)
	}
	return st.KeepLock(formula.Ref{Formula: v.Formula, Version: v.Number}, k)
}

// Frozen is the library that versions were locked with, plus what has become stricter since. For a draft it is today's
// pantry.
func Frozen(st kernel.Store, lib formula.Library, v formula.Version) (formula.Library, error) {
	if v.State != formula.Locked {
		return lib, nil
	}
	kept, err := st.Locks(formula.Ref{Formula: v.Formula, Version: v.Number})
	if err != nil {
		return lib, err
	}
	if k, ok := kept[formula.Ref{Formula: v.Formula, Version: v.Number}]; ok {
		return k.Over(lib), nil
	}
	return lib, nil
}

// LockView is what a lock kept, with what became stricter in the pantry since.
type LockView struct {
	kernel.LockKept
	Since assess.Gained `json:"since"`
	Moved []string      `json:"moved"` // ingredients whose words, flags or values differ today
}

// Lock returns what a locked version rested on. Errors: ErrNotFound.
func (a *Room) Lock(ctx context.Context, ref formula.Ref) (LockView, error) {
	st := a.On(ctx)
	kept, err := st.Locks(ref)
	if err != nil {
		return LockView{}, err
	}
	k, ok := kept[ref]
	if !ok {
		return LockView{}, kernel.ErrNotFound
	}
	lib, err := OfToday(st, kept)
	if err != nil {
		return LockView{}, err
	}
	return LockView{k, k.Since(lib), moved(k.Frozen, lib)}, nil
}

// OfToday are the ingredients that locks kept, as the pantry has them today.
func OfToday(st kernel.Store, kept map[formula.Ref]kernel.LockKept) (formula.Library, error) {
	lib, ids := kernel.NewLibrary(), map[string]bool{}
	for _, k := range kept {
		for _, g := range k.Ingredients {
			ids[g.ID] = true
		}
	}
	return lib, kernel.Fetch(st, &lib, ids)
}

// moved names the ingredients that have changed since.
func moved(f assess.Frozen, lib formula.Library) []string {
	out := []string{}
	for _, g := range f.Ingredients {
		now := lib.Ingredients[g.ID]
		if now == nil {
			continue
		}
		today := now.Whole()
		today.Note, g.Note, today.Looked, g.Looked = "", "", nil, nil
		if !match.SameJSON(g, today) {
			out = append(out, now.Name)
		}
	}
	return out
}

// KeepMissing fills in what locked versions rest on where it was not kept: they were locked by an older program, or
// came in with a bundle.
func (a *Room) KeepMissing(st kernel.Store, upgraded bool, by kernel.Stamp) error {
	refs, err := st.LocksMissing()
	if err != nil {
		return err
	}
	for _, ref := range refs {
		row, err := st.Version(ref)
		if err != nil {
			return err
		}
		if err := a.keepLock(st, row.Core(), upgraded, by); err != nil {
			return err
		}
	}
	return nil
}
