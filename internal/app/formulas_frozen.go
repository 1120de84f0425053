package app

import (
	"context"
	"time"

	"gallipot/internal/core/assess"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
)

// LockKept is what a version rested on when it was locked, kept with the lock: what it was made of, and what rules,
// documents and words were then.
type LockKept struct {
	assess.Frozen
	At time.Time `json:"at"`
	By string    `json:"by"`
	// kept later than the lock, by an upgrade, from the pantry of then
	Upgraded  bool                      `json:"upgraded"`
	Estimate  assess.PH                 `json:"estimate"`
	Rules     []RuleKept                `json:"rules"`
	Documents []keeping.Document        `json:"documents"`
	Verdicts  law.Each[keeping.Verdict] `json:"verdicts"`
	Words     law.Each[LabelFacts]      `json:"words"`
}

// keepLock keeps what a version rests on as it is locked.
func (a *App) keepLock(st Store, v formula.Version, upgraded bool, by Stamp) error {
	f, err := st.Formula(v.Formula)
	if err != nil {
		return err
	}
	d := newDesk()
	if err := st.Desk(&d, namedBy(v)); err != nil {
		return err
	}
	b, err := a.bookOf(st, d)
	if err != nil {
		return err
	}
	d.Library.Names[f.ID] = f.Name
	if err := extend(st, &d.Library, v); err != nil {
		return err
	}
	docs := inForce(f.Evidence)
	p, err := assess.Version(v, assess.Inputs{Library: d.Library, Terms: b.terms, Rules: b.rules, Documents: docs})
	if err != nil {
		return lineProblem(err)
	}
	k := LockKept{Frozen: assess.Freeze(v, d.Library), At: by.At, By: by.By, Upgraded: upgraded, Estimate: p.PH,
		Rules: rulesKept(b.rules), Documents: docs, Verdicts: p.Keeping, Words: law.Each[LabelFacts]{}}
	if k.Documents == nil {
		k.Documents = []keeping.Document{}
	}
	for _, under := range law.All() {
		k.Words[under.Regime] = facts(f.Name, v, p, under)
	}
	return st.KeepLock(formula.Ref{Formula: v.Formula, Version: v.Number}, k)
}

// frozen is a library as versions were made of it when they were locked, with what became stricter since; of a draft it
// is the pantry as it is.
func frozen(st Store, lib formula.Library, v formula.Version) (formula.Library, error) {
	if v.State != formula.Locked {
		return lib, nil
	}
	kept, err := st.Locks(formula.Ref{Formula: v.Formula, Version: v.Number})
	if err != nil {
		return lib, err
	}
	if k, is := kept[formula.Ref{Formula: v.Formula, Version: v.Number}]; is {
		return k.Over(lib), nil
	}
	return lib, nil
}

// LockView is what a lock kept, with what became stricter in the pantry since.
type LockView struct {
	LockKept
	Since assess.Gained `json:"since"`
	Moved []string      `json:"moved"` // ingredients whose words, flags or values differ today
}

// Lock returns what a locked version rested on. Errors: ErrNotFound.
func (a *App) Lock(ctx context.Context, ref formula.Ref) (LockView, error) {
	st := a.on(ctx)
	kept, err := st.Locks(ref)
	if err != nil {
		return LockView{}, err
	}
	k, is := kept[ref]
	if !is {
		return LockView{}, ErrNotFound
	}
	lib, err := ofToday(st, kept)
	if err != nil {
		return LockView{}, err
	}
	return LockView{k, k.Since(lib), moved(k.Frozen, lib)}, nil
}

// ofToday are the ingredients that locks kept, as the pantry has them today.
func ofToday(st Store, kept map[formula.Ref]LockKept) (formula.Library, error) {
	lib, ids := newLibrary(), map[string]bool{}
	for _, k := range kept {
		for _, g := range k.Ingredients {
			ids[g.ID] = true
		}
	}
	return lib, fetch(st, &lib, ids)
}

// moved names the ingredients that are not today what they were.
func moved(f assess.Frozen, lib formula.Library) []string {
	out := []string{}
	for _, g := range f.Ingredients {
		now := lib.Ingredients[g.ID]
		if now == nil {
			continue
		}
		today := now.Whole()
		today.Note, g.Note, today.Looked, g.Looked = "", "", nil, nil
		if !sameJSON(g, today) {
			out = append(out, now.Name)
		}
	}
	return out
}

// keepMissing keeps what locked versions rest on that were locked by an older program, or came in as a bundle.
func (a *App) keepMissing(st Store, upgraded bool, by Stamp) error {
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
