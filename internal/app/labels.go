package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/assess"
	"gallipot/internal/core/declaration"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
)

// Label is the label of a formula under a law, with the facts it was made from, as it is kept.
type Label struct {
	ID        int64
	Rev       int
	FormulaID string
	Regime    law.Regime
	WidthMM   float64
	HeightMM  float64
	Version   int
	Facts     LabelFacts
	UpdatedAt time.Time
	UpdatedBy string
}

// LabelStore keeps labels.
type LabelStore interface {
	Labels() ([]Label, error)
	Label(id int64) (Label, error)
	AddLabel(l *Label) error
	SaveLabel(l Label, rev int) error
}

// LabelFacts are the words a label was confirmed with; when they change it is out of date.
type LabelFacts struct {
	Name        string   `json:"name"`
	LegalName   string   `json:"legal_name"`
	List        string   `json:"list"`
	Contains    string   `json:"contains"`
	NetQuantity string   `json:"net_quantity"`
	Directions  string   `json:"directions"`
	Allergens   []string `json:"allergens"`
}

// words is the text that a difference is shown over.
func (f LabelFacts) words() string {
	s := f.Name + ". "
	if f.LegalName != "" {
		s += f.LegalName + ". "
	}
	return strings.ReplaceAll(s+f.List+" "+f.Contains+" "+f.NetQuantity+" "+f.Directions, "**", "")
}

func (f LabelFacts) equal(g LabelFacts) bool {
	return f.words() == g.words() && slices.Equal(f.Allergens, g.Allergens)
}

// States of a label.
const (
	LabelCurrent = "current"
	LabelOld     = "out_of_date"
	LabelStop    = "stop_using" // an allergen was gained
)

// LabelRow is a label in the list.
type LabelRow struct {
	ID          int64      `json:"id"`
	Formula     string     `json:"formula"`
	FormulaName string     `json:"formula_name"`
	Regime      law.Regime `json:"regime"`
	Version     int        `json:"version"`
	Newest      int        `json:"newest_locked"`
	WidthMM     float64    `json:"width_mm"`
	HeightMM    float64    `json:"height_mm"`
	State       string     `json:"state"`
	Gained      []string   `json:"allergens_gained"`
}

// LabelView is a label set for the newest locked version, or for a batch.
type LabelView struct {
	LabelRow
	Rev     int                  `json:"rev"`
	SVG     string               `json:"svg"`
	Fits    bool                 `json:"fits"`
	Points  []labelart.Point     `json:"points"`
	Change  []declaration.Piece  `json:"change"`
	Batch   *BatchRow            `json:"batch"`
	Batches []BatchRow           `json:"batches"`
	Hold    bool                 `json:"hold"` // only HOLD stickers may be printed
	Block   []string             `json:"blocking"`
	Figures []declaration.Figure `json:"nutrition"`
	Printed int                  `json:"printed"`

	content labelart.Content // as it is set
	doubt   string           // what speaks against the batch since it was released
	set     struct {
		version   int
		allergens []string
	}
}

// facts draws up what a label of this version says now.
func facts(name string, v formula.Version, p assess.Panel, under *law.Law) LabelFacts {
	d := p.Declaration[under.Regime]
	f := LabelFacts{Name: name, LegalName: v.Wording.LegalName, List: d.List, Contains: d.Contains,
		Allergens: append(append([]string{}, p.Allergens[under.Regime]...), d.Disclosed...),
		Directions: declaration.Directions(assess.Separates(v, p.OilShare), len(p.SetsInTheCold) > 0 &&
			v.Keeping.Asked == keeping.Chilled)}
	if own := v.Wording.Names[under.Regime]; own != "" {
		f.Name = capital(own)
	}
	amount, unit := nominal(v)
	if q, err := declaration.NetQuantity(under, amount, unit); err == nil {
		f.NetQuantity = q
	}
	return f
}

func capital(s string) string {
	r := []rune(sentence(s))
	return string(r[:len(r)-1])
}

// nominal is the net quantity: pourable products by volume where the density is known, others by weight (handbook 08).
func nominal(v formula.Version) (float64, string) {
	if v.ProductStyle == "pourable dressing" && v.DensityGPerML > 0 {
		return v.NetGrams().Volume(v.DensityGPerML).Whole().Float(), "ml"
	}
	return v.NetGrams().Float(), "g"
}

// NewLabel makes the label of a formula under a regime, confirmed for its newest locked version.
func (a *App) NewLabel(ctx context.Context, formulaID string, regime law.Regime, stock labelart.Stock) (LabelView,
	error) {
	by, err := person(ctx)
	if err != nil {
		return LabelView{}, err
	}
	under, err := law.Of(regime)
	if err != nil {
		return LabelView{}, field("regime", "%s", err.Error())
	}
	if err := stock.Check(); err != nil {
		return LabelView{}, field("width_mm", "%s", err.Error())
	}
	return once(ctx, a, func(st Store) (LabelView, error) {
		var out LabelView
		v, err := newestLocked(st, formulaID)
		if err != nil {
			return out, err
		}
		now, err := a.labelFacts(st, v, under)
		if err != nil {
			return out, err
		}
		row := Label{FormulaID: formulaID, Regime: regime, WidthMM: stock.WidthMM, HeightMM: stock.HeightMM,
			Version: v.Number, Facts: now, UpdatedBy: by}
		if err := st.AddLabel(&row); errors.Is(err, ErrTaken) {
			return out, field("regime", "this formula has its %s label already", regime)
		} else if err != nil {
			return out, err
		}
		out, err = a.labelView(st, row.ID, 0)
		return out, err
	})
}

func newestLocked(st Store, formulaID string) (formula.Version, error) {
	all, err := st.NewestLocked(formulaID)
	if err != nil {
		return formula.Version{}, err
	}
	if len(all) > 0 {
		return all[0].Core(), nil
	}
	return formula.Version{}, field("formula", "a label belongs to a locked version; lock one first")
}

func (a *App) labelFacts(st Store, v formula.Version, under *law.Law) (LabelFacts, error) {
	f, err := st.Formula(v.Formula)
	if err != nil {
		return LabelFacts{}, err
	}
	p, err := a.panel(st, v)
	if err != nil {
		return LabelFacts{}, err
	}
	return facts(f.Name, v, p, under), nil
}

// SaveLabel changes the stock; confirm also takes the newest locked version's words as the label's own.
func (a *App) SaveLabel(ctx context.Context, id int64, stock labelart.Stock, confirm bool, rev int,
	batch int64) (LabelView, error) {
	by, err := person(ctx)
	if err != nil {
		return LabelView{}, err
	}
	if err := stock.Check(); err != nil {
		return LabelView{}, field("width_mm", "%s", err.Error())
	}
	var out LabelView
	err = a.in(ctx, func(st Store) error {
		row, err := st.Label(id)
		if err != nil {
			return err
		}
		row.WidthMM, row.HeightMM, row.UpdatedBy = stock.WidthMM, stock.HeightMM, by
		if confirm {
			v, err := newestLocked(st, row.FormulaID)
			if err != nil {
				return err
			}
			under, err := law.Of(row.Regime)
			if err != nil {
				return err
			}
			now, err := a.labelFacts(st, v, under)
			if err != nil {
				return err
			}
			row.Version, row.Facts = v.Number, now
		}
		if err := st.SaveLabel(row, rev); errors.Is(err, ErrConflict) {
			current, err := a.labelView(st, id, batch)
			if err != nil {
				return err
			}
			return Problem{Kind: Clash, Code: "changed_meanwhile", Message: "This label was changed meanwhile.",
				Current: current}
		} else if err != nil {
			return err
		}
		out, err = a.labelView(st, id, batch)
		return err
	})
	return out, err
}

// Labels lists all labels with their state.
func (a *App) Labels(ctx context.Context) ([]LabelRow, error) {
	return a.labelRows(a.on(ctx))
}

func (a *App) labelRows(st Store) ([]LabelRow, error) {
	rows, err := st.Labels()
	if err != nil {
		return nil, err
	}
	of := make([]string, len(rows))
	for i, row := range rows {
		of[i] = row.FormulaID
	}
	panels, err := a.newestPanels(st, of)
	if err != nil {
		return nil, err
	}
	out := []LabelRow{}
	for _, row := range rows {
		newest, have := panels[row.FormulaID]
		if !have {
			return nil, fmt.Errorf("label of %s: %w", row.FormulaID, ErrNotFound)
		}
		name, v, p := newest.name, newest.version, newest.panel
		under, err := law.Of(row.Regime)
		if err != nil {
			return nil, err
		}
		out = append(out, labelRow(row, name, v.Number, facts(name, v, p, under)))
	}
	return out, nil
}

// newestPanels assesses the newest locked version of each of these formulas once.
func (a *App) newestPanels(st Store, formulas []string) (map[string]labelled, error) {
	rows, err := st.NewestLocked(formulas...)
	if err != nil {
		return nil, err
	}
	lib := newLibrary()
	tops := make([]formula.Version, len(rows))
	for i, r := range rows {
		tops[i], lib.Names[r.FormulaID] = r.Core(), r.Name
	}
	if err := extend(st, &lib, tops...); err != nil {
		return nil, err
	}
	b, err := a.book(st)
	if err != nil {
		return nil, err
	}
	refs := make([]formula.Ref, len(tops))
	for i, v := range tops {
		refs[i] = formula.Ref{Formula: v.Formula, Version: v.Number}
	}
	kept, err := st.Locks(refs...)
	if err != nil {
		return nil, err
	}
	out := map[string]labelled{}
	for i, v := range tops {
		own := lib
		if k, is := kept[refs[i]]; is {
			own = k.Over(lib)
		}
		p, err := assess.Version(v, assess.Inputs{Library: own, Rate: b.rate, Rules: b.rules})
		if err != nil {
			return nil, fmt.Errorf("label of %s: %w", v.Formula, err)
		}
		out[v.Formula] = labelled{name: lib.Name(v.Formula), newest: v.Number, version: v, panel: p}
	}
	return out, nil
}

// labelRow compares what the label was confirmed with to what it would say now.
func labelRow(row Label, name string, newest int, now LabelFacts) LabelRow {
	was := row.Facts
	r := LabelRow{ID: row.ID, Formula: row.FormulaID, FormulaName: name, Regime: row.Regime, Version: row.Version,
		Newest:  newest,
		WidthMM: row.WidthMM, HeightMM: row.HeightMM, State: LabelCurrent, Gained: []string{}}
	for _, x := range now.Allergens {
		if !slices.Contains(was.Allergens, x) {
			r.Gained = append(r.Gained, x)
		}
	}
	switch {
	case len(r.Gained) > 0:
		r.State = LabelStop
	case !was.equal(now):
		r.State = LabelOld
	}
	return r
}

// Label sets a label for a batch, or for the newest locked version where batch is 0.
func (a *App) Label(ctx context.Context, id, batch int64) (LabelView, error) {
	return a.labelView(a.on(ctx), id, batch)
}

func (a *App) labelView(st Store, id, batchID int64) (LabelView, error) {
	v, _, err := a.setLabel(st, id, batchID)
	return v, err
}
