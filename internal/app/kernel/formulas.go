package kernel

import (
	"time"

	"gallipot/internal/core/assess"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
)

// Formula is a product. Its versions are kept by themselves. Parent names the locked version that a variant is stated
// against; Batches counts what was made of it, Trials its trials.
type Formula struct {
	ID        string
	Name      string
	Retired   bool
	CreatedAt time.Time
	CreatedBy string
	Parent    *formula.Ref
	Batches   int
	Trials    int
	Evidence  []Evidence // of each its kind, days and whether it was withdrawn, where one formula was asked for
}

// Version is a version of a formula as it is kept.
type Version struct {
	FormulaID string
	Name      string // of the formula, where one version was asked for
	Number    int
	Rev       int
	State     string
	Data      formula.Version
	LockedAt  *time.Time
	UpdatedAt time.Time
	UpdatedBy string
}

// Core returns the version with its identity.
func (v Version) Core() formula.Version {
	c := v.Data
	c.Formula, c.Number, c.State = v.FormulaID, v.Number, v.State
	return c
}

// Ref names the version.
func (v Version) Ref() formula.Ref { return formula.Ref{Formula: v.FormulaID, Version: v.Number} }

// formulaStore keeps formulas and their versions.
type formulaStore interface {
	Formulas() ([]Formula, error)
	Formula(id string) (Formula, error)
	AddFormula(f Formula) error
	SaveFormula(id, name string, retired bool) error
	SetParent(formulaID string, parent formula.Ref) error
	Versions(formulaID string) ([]Version, error)
	CurrentVersions() ([]Version, error)
	NewestLocked(formulaIDs ...string) ([]Version, error)
	VersionHeads(formulaID string) ([]VersionSummary, error)
	Sheet(ref formula.Ref, d *Desk, named Named) (Sheet, error)
	Version(ref formula.Ref) (Version, error)
	AddVersion(v formula.Version, lockedAt *time.Time, by string) error
	KeepLock(ref formula.Ref, k LockKept) error
	Locks(refs ...formula.Ref) (map[formula.Ref]LockKept, error)
	LocksTouched(day day.Day) ([]LockTouched, error)
	LocksMissing() ([]formula.Ref, error)
	LockVersion(v formula.Version, rev int, lockedAt time.Time, by string) error
	SaveDraft(v formula.Version, rev int, changed any, by Stamp) error
	DropDraft(ref formula.Ref, rev int) error
}

// VersionSummary is a version in the list of versions.
type VersionSummary struct {
	Number    int        `json:"version"`
	State     string     `json:"state"`
	From      int        `json:"from"`
	Note      string     `json:"note"`
	LockedAt  *time.Time `json:"locked_at"`
	UpdatedAt time.Time  `json:"updated_at"`
	UpdatedBy string     `json:"updated_by"`
}

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

// Sheet is a version with its formula and what there is to tell of all its versions, oldest first.
type Sheet struct {
	Formula Formula
	Version Version
	Heads   []VersionSummary
}

// NewestLocked is the newest locked version of each formula.
func NewestLocked(st Store, formulaID string) (formula.Version, error) {
	all, err := st.NewestLocked(formulaID)
	if err != nil {
		return formula.Version{}, err
	}
	if len(all) > 0 {
		return all[0].Core(), nil
	}
	return formula.Version{}, Mistake("formula", "a label belongs to a locked version; lock one first")
}
