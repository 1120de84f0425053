package app

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"
)

// EvidenceView is a document attached to a formula.
type EvidenceView struct {
	ID         int64     `json:"id"`
	Formula    string    `json:"formula"`
	Kind       string    `json:"kind"`
	Title      string    `json:"title"`
	Days       *int      `json:"days"`
	FileName   string    `json:"file_name"`
	Withdrawn  bool      `json:"withdrawn"`
	AttachedAt time.Time `json:"attached_at"`
	AttachedBy string    `json:"attached_by"`
}

// EvidenceKinds are the documents that rules ask for; those with days need them.
var EvidenceKinds = map[string]bool{"authority": false, "listeria_study": true, "product_assessment": true, "quality_study": true}

const maxEvidenceBytes = 10 << 20

func evidenceView(e Evidence) EvidenceView {
	return EvidenceView{e.ID, e.FormulaID, e.Kind, e.Title, e.Days, e.FileName, e.Withdrawn, e.AttachedAt, e.AttachedBy}
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
func (a *App) Attach(ctx context.Context, e Evidence, by string) (EvidenceView, error) {
	by, err := person(by)
	if err != nil {
		return EvidenceView{}, err
	}
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
	st := a.Store.With(ctx)
	people, err := st.People()
	if err != nil {
		return EvidenceView{}, err
	}
	if !slices.ContainsFunc(people, func(p Person) bool { return p.Name == by && p.Owner }) {
		return EvidenceView{}, refused("owner_only", "An owner signs off a document that loosens a rule; you are %s.", by)
	}
	e.AttachedBy, e.AttachedAt = by, a.Now()
	if err := st.AddEvidence(&e); errors.Is(err, ErrInUse) {
		return EvidenceView{}, field("formula", "there is no such formula")
	} else if err != nil {
		return EvidenceView{}, err
	}
	return evidenceView(e), nil
}

// Document returns a document with its content.
func (a *App) Document(ctx context.Context, id int64) (Evidence, error) {
	return a.Store.With(ctx).EvidenceOf(id)
}

// Withdraw takes a document out of use.
func (a *App) Withdraw(ctx context.Context, id int64, by string) error {
	if _, err := person(by); err != nil {
		return err
	}
	err := a.Store.With(ctx).WithdrawEvidence(id)
	if errors.Is(err, ErrConflict) {
		return refused("withdrawn", "This document is not in use.")
	}
	return err
}
