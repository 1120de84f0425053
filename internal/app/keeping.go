package app

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/assess"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// Evidence is a document attached to a formula, as it is kept.
type Evidence struct {
	ID           int64
	FormulaID    string
	Kind         string
	Title        string
	Days         *int
	FileName     string
	MediaType    string
	Content      []byte
	Withdrawn    bool
	WithdrawnAt  *time.Time
	WithdrawnBy  string
	WithdrawnWhy string
	AttachedAt   time.Time
	AttachedBy   string
}

// KeepingStore keeps the documents that rules of keeping ask for.
type KeepingStore interface {
	EvidenceList(formulaID string) ([]Evidence, error)
	EvidenceOf(id int64) (Evidence, error)
	AddEvidence(e *Evidence) error
	WithdrawEvidence(id int64, why string, by Stamp) error
}

// EvidenceView is a document attached to a formula.
type EvidenceView struct {
	ID           int64      `json:"id"`
	Formula      string     `json:"formula"`
	Kind         string     `json:"kind"`
	Title        string     `json:"title"`
	Days         *int       `json:"days"`
	FileName     string     `json:"file_name"`
	Withdrawn    bool       `json:"withdrawn"`
	WithdrawnAt  *time.Time `json:"withdrawn_at"`
	WithdrawnBy  string     `json:"withdrawn_by"`
	WithdrawnWhy string     `json:"withdrawn_why"`
	AttachedAt   time.Time  `json:"attached_at"`
	AttachedBy   string     `json:"attached_by"`
}

// DatesView is the dates that are out: released batches in date, the earliest first, and those whose day is lately
// past.
type DatesView struct {
	InDate []BatchRow `json:"in_date"`
	Past   []BatchRow `json:"past"`
}

// pastDays is how long a date that is past stays in the list.
const pastDays = 90

// Dates lists the dates that are out.
func (a *App) Dates(ctx context.Context) (DatesView, error) {
	out := DatesView{InDate: []BatchRow{}, Past: []BatchRow{}}
	if err := a.runOut(ctx); err != nil {
		return out, err
	}
	st := a.Store.With(ctx)
	s, _, err := a.settings(st)
	if err != nil {
		return out, err
	}
	today := a.today(s)
	day := func(offset int) string { return today.AddDate(0, 0, offset).Format(pantry.DateLayout) }
	inDate, err := st.BatchesEnding(day(0), day(farDays), mostTasks)
	if err != nil {
		return out, err
	}
	past, err := st.BatchesEnding(day(-pastDays), day(-1), mostTasks)
	if err != nil {
		return out, err
	}
	for _, x := range inDate {
		out.InDate = append(out.InDate, batchRow(x))
	}
	for _, x := range slices.Backward(past) {
		out.Past = append(out.Past, batchRow(x))
	}
	return out, nil
}

// EvidenceKinds are the documents that rules ask for; those with days need them.
var EvidenceKinds = map[string]bool{"authority": false, "listeria_study": true, "product_assessment": true,
	"quality_study": true}

const maxEvidenceBytes = 10 << 20

func evidenceView(e Evidence) EvidenceView {
	return EvidenceView{e.ID, e.FormulaID, e.Kind, e.Title, e.Days, e.FileName, e.Withdrawn, e.WithdrawnAt,
		e.WithdrawnBy, e.WithdrawnWhy, e.AttachedAt, e.AttachedBy}
}

// Evidence lists the documents of a formula, or all.
func (a *App) Evidence(ctx context.Context, formulaID string) ([]EvidenceView, error) {
	rows, err := a.Store.With(ctx).EvidenceList(formulaID)
	out := make([]EvidenceView, len(rows))
	for i, r := range rows {
		out[i] = evidenceView(r)
	}
	return out, err
}

// Attach stores a document with the days it supports. Loosening a rule needs an owner's sign-off.
func (a *App) Attach(ctx context.Context, e Evidence) (EvidenceView, error) {
	if err := may(ctx, people.Owner, "Attaching a document that a rule believes"); err != nil {
		return EvidenceView{}, err
	}
	by := actor(ctx).Name
	needsDays, known := EvidenceKinds[e.Kind]
	e.Title = strings.TrimSpace(e.Title)
	switch {
	case !known:
		return EvidenceView{}, field("kind", "choose what the document is")
	case e.Title == "" || len([]rune(e.Title)) > 200:
		return EvidenceView{}, field("title", "say what it is, in at most 200 characters")
	case needsDays && (e.Days == nil || *e.Days < 1 || *e.Days > 3650):
		return EvidenceView{}, field("days", "how many days does it support? 1 to 3650")
	case len(e.Content) == 0:
		return EvidenceView{}, field("file", "attach the document itself")
	case len(e.Content) > maxEvidenceBytes:
		return EvidenceView{}, field("file", "at most 10 MB")
	}
	if !needsDays {
		e.Days = nil
	}
	e.AttachedBy, e.AttachedAt = by, a.Now()
	return once(ctx, a, func(st Store) (EvidenceView, error) {
		if err := st.AddEvidence(&e); errors.Is(err, ErrInUse) {
			return EvidenceView{}, field("formula", "there is no such formula")
		} else if err != nil {
			return EvidenceView{}, err
		}
		return evidenceView(e), a.judgeFormula(ctx, st, e.FormulaID)
	})
}

// judgeFormula judges the open batches of a formula anew, as its documents change.
func (a *App) judgeFormula(ctx context.Context, st Store, id string) error {
	return a.judgeThose(ctx, st, func(r formula.Ref) (bool, error) { return r.Formula == id, nil })
}

// Document returns a document with its content.
func (a *App) Document(ctx context.Context, id int64) (Evidence, error) {
	return a.Store.With(ctx).EvidenceOf(id)
}

// Withdraw takes a document out of use, with the reason; it stays on record.
func (a *App) Withdraw(ctx context.Context, id int64, why string) error {
	if err := may(ctx, people.Owner, "Withdrawing a document"); err != nil {
		return err
	}
	why, err := reasonFor(why)
	if err != nil {
		return err
	}
	return a.in(ctx, func(st Store) error {
		if err := st.WithdrawEvidence(id, why, a.stamp(ctx)); errors.Is(err, ErrConflict) {
			return refused("withdrawn", "This document is not in use.")
		} else if err != nil {
			return err
		}
		e, err := st.EvidenceOf(id)
		if err != nil {
			return err
		}
		return a.judgeFormula(ctx, st, e.FormulaID)
	})
}

// inForce gathers what of a formula's documents, newest first, is not withdrawn.
func inForce(list []Evidence) assess.Documents {
	var d assess.Documents
	for _, e := range list {
		if e.Withdrawn {
			continue
		}
		switch e.Kind {
		case "authority":
			d.Authority = true
		case "listeria_study":
			d.ListeriaDays = e.Days
		case "product_assessment":
			d.ProductAssessment = e.Days
		case "quality_study":
			d.QualityDays = e.Days
		}
	}
	return d
}

// Rules returns the keeping rules as the shop applies them.
func (a *App) Rules(ctx context.Context) ([]keeping.Rule, error) {
	s, _, err := a.settings(a.Store.With(ctx))
	if err != nil {
		return nil, err
	}
	rules := s.rules()
	for i, r := range rules {
		rules[i].Text = r.Told()
	}
	return rules, nil
}
