package release

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/declaration"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"
	"gallipot/internal/core/shop"
)

// LabelView is a label set for the newest locked version, or for a batch.
type LabelView struct {
	kernel.LabelRow
	Rev     int                  `json:"rev"`
	Design  kernel.LabelDesign   `json:"design"`
	Pieces  []LabelPiece         `json:"pieces"`  // as they are drawn
	Faces   []labelart.Face      `json:"faces"`   // where front and back stand on them
	Sticker string               `json:"sticker"` // the HOLD sticker, where only that may be printed
	Jar     *pack.Jar            `json:"jar"`
	Level   float64              `json:"level"` // how full the jar is, of its brim
	Tint    string               `json:"tint"`  // of the band, as it is drawn
	Fits    bool                 `json:"fits"`
	Points  []labelart.Point     `json:"points"`
	Change  []declaration.Piece  `json:"change"`
	Carry   []Carrying           `json:"carry"` // batches whose jars carry other words
	Batch   *kernel.BatchRow     `json:"batch"`
	Batches []kernel.BatchRow    `json:"batches"`
	Hold    bool                 `json:"hold"` // only HOLD stickers may be printed
	Block   []string             `json:"blocking"`
	Figures []declaration.Figure `json:"nutrition"`
	Claims  []assess.ClaimRule   `json:"claim_rules"`
	Paper   labelart.Stock       `json:"paper"`
	Place   int                  `json:"place"`   // that is free next on a sheet
	Jars    int                  `json:"jars"`    // of the batch, filled
	Printed int                  `json:"printed"` // for the batch
	Spoilt  int                  `json:"spoilt"`  // of these
	Last    *LastPrint           `json:"last"`    // the newest print of this label

	content labelart.Content // as it is set
	doubt   string           // what speaks against the batch since it was released
	set     struct {
		version   int
		allergens []string
	}
}

// LabelPiece is one drawn piece of a label. HighMM is the height its content would need.
type LabelPiece struct {
	Name   string  `json:"name"`
	SVG    string  `json:"svg"`
	HighMM float64 `json:"high_mm"`
}

// LastPrint is the newest print of a label.
type LastPrint struct {
	At    time.Time `json:"at"`
	Batch string    `json:"batch"`
}

// Carrying is a batch with jars whose words this label no longer has.
type Carrying struct {
	ID   int64  `json:"id"`
	Code string `json:"code"`
	Jars int    `json:"jars"`
}

// NewLabel makes the label of a formula under a regime, confirmed for its newest locked version.
func (a *Room) NewLabel(ctx context.Context, formulaID string, regime law.Regime, size labelart.Size,
	design kernel.LabelDesign) (LabelView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return LabelView{}, err
	}
	under, err := law.Of(regime)
	if err != nil {
		return LabelView{}, kernel.Mistake("regime", "%s", err.Error())
	}
	if err := size.Check(); err != nil {
		return LabelView{}, kernel.Mistake("width_mm", "%s", err.Error())
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (LabelView, error) {
		var out LabelView
		s, _, err := a.Settings(st)
		if err != nil {
			return out, err
		}
		if design.Form == "" {
			design.Form = usualForm
		}
		if err := design.Check(s); err != nil {
			return out, err
		}
		v, err := kernel.NewestLocked(st, formulaID)
		if err != nil {
			return out, err
		}
		if !s.Jar(v.Jar).Sized() && design.Jar == "" {
			design.Jar = s.Suits(v)
		}
		row := kernel.Label{FormulaID: formulaID, Regime: regime, WidthMM: size.WidthMM, HeightMM: size.HeightMM,
			Version: v.Number, Design: design, UpdatedBy: by}
		if row.Facts, err = a.LabelFacts(st, v, row, under); err != nil {
			return out, err
		}
		if err := st.AddLabel(&row); errors.Is(err, kernel.ErrTaken) {
			return out, kernel.Mistake("regime", "this formula has its %s label already", regime)
		} else if err != nil {
			return out, err
		}
		out, err = a.labelView(st, row.ID, 0)
		return out, err
	})
}

// LabelFacts are what a label states of the newest locked version.
func (a *Room) LabelFacts(st kernel.Store, v formula.Version, row kernel.Label, under *law.Law) (kernel.LabelFacts,
	error) {
	f, err := st.Formula(v.Formula)
	if err != nil {
		return kernel.LabelFacts{}, err
	}
	v.Wording.Named = row.Design.Named
	p, err := a.Catalog.Panel(st, v)
	if err != nil {
		return kernel.LabelFacts{}, err
	}
	return kernel.Facts(f.Name, v, p, under), nil
}

// SaveLabel changes the size, and the design if one is given. With confirm, the label also takes over the newest locked
// version's words.
func (a *Room) SaveLabel(ctx context.Context, id int64, size labelart.Size, to *kernel.LabelDesign, confirm bool,
	rev int,
	batch int64) (LabelView, error) {
	if err := size.Check(); err != nil {
		return LabelView{}, kernel.Mistake("width_mm", "%s", err.Error())
	}
	return a.changeLabel(ctx, id, rev, batch, func(st kernel.Store, row *kernel.Label, s shop.Settings) error {
		design := row.Design
		if to != nil {
			design = *to
		}
		if err := design.Check(s); err != nil {
			return err
		}
		err := a.keepingUp(st, row, func(string) error {
			answers := row.Design // only AnswerLabel answers
			design.Named, design.NotNamed, design.NothingElse = answers.Named, answers.NotNamed, answers.NothingElse
			design.NameSays, design.Nutrition = answers.NameSays, answers.Nutrition
			row.WidthMM, row.HeightMM, row.Design = size.WidthMM, size.HeightMM, design
			return nil
		})
		if err != nil || !confirm {
			return err
		}
		v, err := kernel.NewestLocked(st, row.FormulaID)
		if err != nil {
			return err
		}
		under, err := law.Of(row.Regime)
		if err != nil {
			return err
		}
		row.Version = v.Number
		row.Facts, err = a.LabelFacts(st, v, *row, under)
		return err
	})
}

// Labels lists all labels with their state.
func (a *Room) Labels(ctx context.Context) ([]kernel.LabelRow, error) {
	return a.LabelRows(a.On(ctx))
}

// LabelRows lists the labels with where each stands.
func (a *Room) LabelRows(st kernel.Store) ([]kernel.LabelRow, error) {
	rows, err := st.Labels()
	if err != nil {
		return nil, err
	}
	panels, err := a.newestPanels(st, rows)
	if err != nil {
		return nil, err
	}
	out := []kernel.LabelRow{}
	for _, row := range rows {
		newest, have := panels[row.ID]
		if !have {
			return nil, fmt.Errorf("label of %s: %w", row.FormulaID, kernel.ErrNotFound)
		}
		name, v, p := newest.name, newest.version, newest.panel
		under, err := law.Of(row.Regime)
		if err != nil {
			return nil, err
		}
		out = append(out, labelRow(row, name, v.Number, kernel.Facts(name, v, p, under)))
	}
	return out, nil
}

// newestPanels assesses, for each label, its formula's newest locked version.
func (a *Room) newestPanels(st kernel.Store, labels []kernel.Label) (map[int64]labelled, error) {
	formulas := make([]string, len(labels))
	for i, l := range labels {
		formulas[i] = l.FormulaID
	}
	rows, err := st.NewestLocked(formulas...)
	if err != nil {
		return nil, err
	}
	lib := kernel.NewLibrary()
	tops := make([]formula.Version, len(rows))
	for i, r := range rows {
		tops[i], lib.Names[r.FormulaID] = r.Core(), r.Name
	}
	if err := kernel.Extend(st, &lib, tops...); err != nil {
		return nil, err
	}
	b, err := a.Catalog.Book(st)
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
	of := map[string]labelled{}
	for i, v := range tops {
		own := lib
		if k, ok := kept[refs[i]]; ok {
			own = k.Over(lib)
		}
		in := assess.Inputs{Library: own, Terms: b.Terms, Rules: b.Rules}
		if err := panelsOf(v, labels, in, of); err != nil {
			return nil, err
		}
	}
	out := map[int64]labelled{}
	for _, l := range labels {
		if x, have := of[l.PanelKey()]; have {
			out[l.ID] = x
		}
	}
	return out, nil
}

// panelsOf assesses a version once for each way its labels mark ingredients.
func panelsOf(v formula.Version, labels []kernel.Label, in assess.Inputs, into map[string]labelled) error {
	for _, l := range labels {
		key := l.PanelKey()
		if _, have := into[key]; have || l.FormulaID != v.Formula {
			continue
		}
		v.Wording.Named = l.Design.Named
		p, err := assess.Version(v, in)
		if err != nil {
			return fmt.Errorf("label of %s: %w", v.Formula, err)
		}
		into[key] = labelled{name: in.Library.Name(v.Formula), newest: v.Number, version: v, panel: p}
	}
	return nil
}

// labelRow compares what the label was confirmed with to what it would say now.
func labelRow(row kernel.Label, name string, newest int, now kernel.LabelFacts) kernel.LabelRow {
	was := row.Facts
	r := kernel.LabelRow{ID: row.ID, Formula: row.FormulaID, FormulaName: name, Regime: row.Regime,
		Version: row.Version,
		Newest:  newest,
		WidthMM: row.WidthMM, HeightMM: row.HeightMM, Form: row.Design.DrawnForm(), State: kernel.LabelCurrent,
		Gained: []string{}}
	for _, x := range now.Allergens {
		if !slices.Contains(was.Allergens, x) {
			r.Gained = append(r.Gained, x)
		}
	}
	switch {
	case len(r.Gained) > 0:
		r.State = kernel.LabelStop
	case !was.Equal(now):
		r.State = kernel.LabelOld
	}
	return r
}

// Label sets a label for a batch, or for the newest locked version if batch is 0.
func (a *Room) Label(ctx context.Context, id, batch int64) (LabelView, error) {
	return a.labelView(a.On(ctx), id, batch)
}

func (a *Room) labelView(st kernel.Store, id, batchID int64) (LabelView, error) {
	v, _, err := a.setLabel(st, id, batchID)
	return v, err
}

// drawnMark is the shop's mark as labels draw it, or nil.
func drawnMark(st kernel.Store) (*labelart.Mark, error) {
	m, err := st.Mark()
	if errors.Is(err, kernel.ErrNotFound) {
		return nil, nil //nolint:nilnil // no mark is no error
	}
	if err != nil {
		return nil, err
	}
	return labelart.ReadMark(m.Body, m.Kind)
}
