package release

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
	"gallipot/internal/core/shop"
)

// EvidenceView is a document attached to a formula, with what it covers and whether it counts for the newest version.
type EvidenceView struct {
	keeping.Document
	Formula      string     `json:"formula"`
	FileName     string     `json:"file_name"`
	Withdrawn    bool       `json:"withdrawn"`
	WithdrawnAt  *time.Time `json:"withdrawn_at"`
	WithdrawnBy  string     `json:"withdrawn_by"`
	WithdrawnWhy string     `json:"withdrawn_why"`
	AttachedAt   time.Time  `json:"attached_at"`
	AttachedBy   string     `json:"attached_by"`
	AttachedWhy  string     `json:"attached_why"`
	Newest       int        `json:"newest"`  // version of the formula
	WhyNot       string     `json:"why_not"` // why it counts for nothing for the newest version; empty where it counts
}

// DatesView lists the dates on released jars: batches in date, the earliest first, and those whose day has recently
// passed.
type DatesView struct {
	InDate []kernel.BatchRow `json:"in_date"`
	Past   []kernel.BatchRow `json:"past"`
}

// pastDays is for how many days a date that has passed stays listed.
const pastDays = 90

// Dates lists the dates that are out.
func (a *Room) Dates(ctx context.Context) (DatesView, error) {
	out := DatesView{InDate: []kernel.BatchRow{}, Past: []kernel.BatchRow{}}
	if err := a.Production.RunOut(ctx); err != nil {
		return out, err
	}
	st := a.On(ctx)
	s, _, err := a.Settings(st)
	if err != nil {
		return out, err
	}
	today := a.TodayIn(s)
	on := func(offset int) day.Day { return day.Of(today.AddDate(0, 0, offset)) }
	inDate, err := st.BatchesEnding(on(0), on(kernel.FarDays), kernel.MostTasks)
	if err != nil {
		return out, err
	}
	past, err := st.BatchesEnding(on(-pastDays), on(-1), kernel.MostTasks)
	if err != nil {
		return out, err
	}
	for _, x := range inDate {
		out.InDate = append(out.InDate, production.RowOf(x))
	}
	for _, x := range slices.Backward(past) {
		out.Past = append(out.Past, production.RowOf(x))
	}
	return out, nil
}

// The documents that rules ask for, those with days first.
var (
	kindsWithDays = []string{keeping.ListeriaStudy, keeping.ProductAssessment, keeping.QualityStudy}
	kindsOfPaper  = append(slices.Clone(kindsWithDays), keeping.Authority)
)

const (
	maxEvidenceBytes   = 10 << 20
	leastEvidenceBytes = 16
	mostStudyDays      = 730 // that any document may give (handbook 06)
	leastStepC         = 60  // below which nothing is a heat step
	mostStepC          = 130
)

func evidenceView(e kernel.Evidence, newest *formula.Version, home *law.Law) EvidenceView {
	v := EvidenceView{Document: e.Document, Formula: e.FormulaID, FileName: e.FileName, Withdrawn: e.Withdrawn,
		WithdrawnAt: e.WithdrawnAt, WithdrawnBy: e.WithdrawnBy, WithdrawnWhy: e.WithdrawnWhy, AttachedAt: e.AttachedAt,
		AttachedBy: e.AttachedBy, AttachedWhy: e.AttachedWhy}
	if v.Versions == nil {
		v.Versions = []int{}
	}
	if newest != nil {
		under := home
		if own, err := law.Of(e.Law); err == nil {
			under = own
		}
		v.Newest, v.WhyNot = newest.Number, e.WhyNot(under, assess.SubjectOf(*newest))
	}
	return v
}

// Evidence lists the documents of a formula, or all.
func (a *Room) Evidence(ctx context.Context, formulaID string) ([]EvidenceView, error) {
	st := a.On(ctx)
	s, _, err := a.Settings(st)
	if err != nil {
		return nil, err
	}
	home, err := law.Of(s.Regime)
	if err != nil {
		return nil, err
	}
	var newest *formula.Version
	if formulaID != "" {
		all, err := st.Versions(formulaID)
		if err != nil {
			return nil, err
		}
		if n := len(all); n > 0 {
			v := all[n-1].Core()
			newest = &v
		}
	}
	rows, err := st.EvidenceList(formulaID)
	out := make([]EvidenceView, len(rows))
	for i, r := range rows {
		out[i] = evidenceView(r, newest, home)
	}
	return out, err
}

// Attach stores a document with what it covers and the reason. Loosening a rule needs an owner's sign-off.
func (a *Room) Attach(ctx context.Context, e kernel.Evidence) (EvidenceView, error) {
	if err := kernel.May(ctx, people.Owner, "Attaching a document that a rule believes"); err != nil {
		return EvidenceView{}, err
	}
	e.Title = strings.TrimSpace(e.Title)
	s, _, err := a.Settings(a.On(ctx))
	if err != nil {
		return EvidenceView{}, err
	}
	if err := a.checkPaper(&e, s); err != nil {
		return EvidenceView{}, err
	}
	why, err := kernel.ReasonFor(e.AttachedWhy)
	if err != nil {
		return EvidenceView{}, err
	}
	sum := sha256.Sum256(e.Content)
	e.AttachedWhy, e.Fingerprint = why, hex.EncodeToString(sum[:])
	e.AttachedBy, e.AttachedAt = kernel.Actor(ctx).Name, a.Now()
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (EvidenceView, error) {
		if err := namesVersions(st, e); err != nil {
			return EvidenceView{}, err
		}
		if err := st.AddEvidence(&e); errors.Is(err, kernel.ErrInUse) {
			return EvidenceView{}, kernel.Mistake("formula", "there is no such formula")
		} else if err != nil {
			return EvidenceView{}, err
		}
		return evidenceView(e, nil, nil), a.judgeFormula(ctx, st, e.FormulaID)
	})
}

// namesVersions requires a document to name existing versions.
func namesVersions(st kernel.Store, e kernel.Evidence) error {
	if _, err := st.Formula(e.FormulaID); errors.Is(err, kernel.ErrNotFound) {
		return kernel.Mistake("formula", "there is no such formula")
	} else if err != nil {
		return err
	}
	heads, err := st.VersionHeads(e.FormulaID)
	if err != nil {
		return err
	}
	for _, n := range e.Versions {
		if !slices.ContainsFunc(heads, func(h kernel.VersionSummary) bool { return h.Number == n }) {
			return kernel.Mistake("versions", "there is no version %d of this formula", n)
		}
	}
	return nil
}

// checkPaper checks what a document states about itself.
func (a *Room) checkPaper(e *kernel.Evidence, s shop.Settings) error {
	days := slices.Contains(kindsWithDays, e.Kind)
	switch {
	case !slices.Contains(kindsOfPaper, e.Kind):
		return kernel.Mistake("kind", "choose what the document is")
	case e.Title == "" || len([]rune(e.Title)) > 200:
		return kernel.Mistake("title", "say what it is, in at most 200 characters")
	case days && (e.Days == nil || *e.Days < 1 || *e.Days > mostStudyDays):
		return kernel.Mistake("days", "how many days does it support? 1 to %d", mostStudyDays)
	case len(e.Versions) == 0:
		return kernel.Mistake("versions", "name the versions it is about")
	case len(e.Content) == 0:
		return kernel.Mistake("file", "attach the document itself")
	case len(e.Content) < leastEvidenceBytes:
		return kernel.Mistake("file", "this file is too small to be a document: it has %d bytes", len(e.Content))
	case len(e.Content) > maxEvidenceBytes:
		return kernel.Mistake("file", "at most 10 MB")
	}
	if !days {
		e.Days = nil
	}
	if e.Kind != keeping.Authority {
		e.HeatC, e.HeatMin, e.NoHeat = 0, 0, false
	}
	if e.OfSafety() {
		return a.checkSafetyPaper(e, s)
	}
	return nil
}

// checkSafetyPaper checks what a document required for safety says it covers.
func (a *Room) checkSafetyPaper(e *kernel.Evidence, s shop.Settings) error {
	if _, err := law.Of(e.Law); err != nil {
		return kernel.Mistake("law", "under which law is it?")
	}
	dated, err := pantry.ParseDay(e.Dated)
	switch {
	case e.MaxPH <= 0 || e.MaxPH > 14:
		return kernel.Mistake("max_ph", "up to which pH does it cover? it says so itself")
	case !slices.Contains([]string{keeping.Chilled, keeping.Ambient, keeping.Frozen}, e.Storage):
		return kernel.Mistake("storage", "which storage does it cover?")
	case strings.TrimSpace(e.Product) == "" || len([]rune(e.Product)) > 200:
		return kernel.Mistake("product", "the product as the document names it, in at most 200 characters")
	case strings.TrimSpace(e.IssuedBy) == "" || len([]rune(e.IssuedBy)) > 200:
		return kernel.Mistake("issued_by", "who issued it? in at most 200 characters")
	case err != nil || a.NotYet(dated, s):
		return kernel.Mistake("dated", "the day it was issued, as in 2026-11-25")
	case e.Kind == keeping.Authority && !e.NoHeat && !(e.HeatC >= leastStepC && e.HeatC <= mostStepC):
		return kernel.Mistake("heat_c",
			"the heat step it asks for lies between %d and %d °C, or it says that none is needed",
			leastStepC, mostStepC)
	case e.Kind == keeping.Authority && !e.NoHeat && !(e.HeatMin > 0 && e.HeatMin <= 1440):
		return kernel.Mistake("heat_min", "for how many minutes, up to a day")
	}
	if e.NoHeat {
		e.HeatC, e.HeatMin = 0, 0
	}
	return nil
}

// judgeFormula re-judges the open batches of a formula after its documents change.
func (a *Room) judgeFormula(ctx context.Context, st kernel.Store, id string) error {
	return a.Production.JudgeThose(ctx, st, func(r formula.Ref) (bool, error) { return r.Formula == id, nil })
}

// Document returns a document with its content.
func (a *Room) Document(ctx context.Context, id int64) (kernel.Evidence, error) {
	return a.On(ctx).EvidenceOf(id)
}

// Withdraw takes a document out of use, with the reason; it stays on record.
func (a *Room) Withdraw(ctx context.Context, id int64, why string) error {
	if err := kernel.May(ctx, people.Owner, "Withdrawing a document"); err != nil {
		return err
	}
	why, err := kernel.ReasonFor(why)
	if err != nil {
		return err
	}
	return a.In(ctx, func(st kernel.Store) error {
		if err := st.WithdrawEvidence(id, why, a.Stamp(ctx)); errors.Is(err, kernel.ErrConflict) {
			return kernel.Refuse("withdrawn", "This document is not in use.")
		} else if err != nil {
			return err
		}
		e, err := st.EvidenceOf(id)
		if err != nil {
			return err
		}
		if e.OfSafety() {
			if err := a.recallNeeding(ctx, st, e); err != nil {
				return err
			}
		}
		return a.judgeFormula(ctx, st, e.FormulaID)
	})
}

// recallNeeding calls back the batches of a formula whose release rested on a document.
func (a *Room) recallNeeding(ctx context.Context, st kernel.Store, e kernel.Evidence) error {
	refs, err := st.BatchRefs()
	if err != nil {
		return err
	}
	refs = slices.DeleteFunc(refs, func(r formula.Ref) bool { return r.Formula != e.FormulaID })
	if len(refs) == 0 {
		return nil
	}
	ids, err := st.BatchIDs(refs...)
	if err != nil {
		return err
	}
	desk, err := a.Production.Judging(st)
	if err != nil {
		return err
	}
	recall := bench.Recall{Document: e.ID,
		Cause: fmt.Sprintf("The release needed “%s”, which was withdrawn: %s", e.Title, e.WithdrawnWhy)}
	entry := bench.Entry{At: a.Now(), By: kernel.Actor(ctx).Name, Role: kernel.Actor(ctx).Role, Body: &recall}
	for part := range slices.Chunk(ids, production.ManyAtOnce) {
		list, err := desk.Locked(st, part)
		if err != nil {
			return err
		}
		for _, l := range list {
			if !l.Record.Out || !l.Needed(e.Document) {
				continue
			}
			key := fmt.Sprintf("recall-%d-%d", e.ID, l.Row.ID)
			if _, err := st.AddEntry(l.Row.ID, entry, key, kernel.DigestOf(recall)); err != nil {
				return err
			}
		}
	}
	return nil
}

// Rules returns the keeping rules as the shop applies them.
func (a *Room) Rules(ctx context.Context) ([]keeping.Rule, error) {
	s, _, err := a.Settings(a.On(ctx))
	if err != nil {
		return nil, err
	}
	rules := s.Rules()
	for i, r := range rules {
		rules[i].Text = r.Told()
	}
	return rules, nil
}
