package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/declaration"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"
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
	Design    LabelDesign
	UpdatedAt time.Time
	UpdatedBy string
}

// LabelStore keeps labels.
type LabelStore interface {
	Labels() ([]Label, error)
	Label(id int64) (Label, error)
	AddLabel(l *Label) error
	SaveLabel(l Label, rev int) error
	NextPlace(stock string) (int, error)
	PlaceOf(batch int64, key string) (int, error)
	PrintsOf(batches []int64) (map[int64][]bench.Entry, error)
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
	Form        string     `json:"form"`
	State       string     `json:"state"`
	Gained      []string   `json:"allergens_gained"`
}

// LabelView is a label set for the newest locked version, or for a batch.
type LabelView struct {
	LabelRow
	Rev     int                  `json:"rev"`
	Design  LabelDesign          `json:"design"`
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
	Batch   *BatchRow            `json:"batch"`
	Batches []BatchRow           `json:"batches"`
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

// LabelPiece is one piece of paper of a label, drawn. HighMM is how high it would have to be.
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

// Carrying is a batch whose jars carry words that this label no longer has.
type Carrying struct {
	ID   int64  `json:"id"`
	Code string `json:"code"`
	Jars int    `json:"jars"`
}

// facts draws up what a label of this version says now.
func facts(name string, v formula.Version, p assess.Panel, under *law.Law) LabelFacts {
	d := p.Declaration[under.Regime]
	f := LabelFacts{Name: name, LegalName: v.Wording.LegalName, List: d.List, Contains: d.Contains,
		Allergens: append(append([]string{}, p.Allergens[under.Regime]...), d.Disclosed...),
		Directions: declaration.Directions(assess.Separates(v, p.OilShare), len(p.SetsInTheCold) > 0 &&
			v.Keeping.Asked == keeping.Chilled)}
	f.Name = nameOnLabel(name, v, under)
	f.NetQuantity = netQuantity(v, under)
	return f
}

// netQuantity states what is in a jar: the volume it is filled to, that of a pourable product where the density is
// known, else its weight (handbook 08).
func netQuantity(v formula.Version, under *law.Law) string {
	amount, unit := nominal(v)
	state := func() (string, error) { return declaration.NetQuantity(under, amount, unit) }
	if unit == "ml" && !byVolume(v) {
		state = func() (string, error) { return declaration.NetVolume(under, amount) }
	}
	text, err := state()
	if err != nil {
		return ""
	}
	return text
}

// byVolume reports whether the maker fills to a volume, with nothing on top of it.
func byVolume(v formula.Version) bool { return v.FillML > 0 && len(v.Toppings) == 0 }

// nameOnLabel is the product's name under a law: its own there, else the formula's.
func nameOnLabel(name string, v formula.Version, under *law.Law) string {
	if own := v.Wording.Names[under.Regime]; own != "" {
		return capital(own)
	}
	return name
}

func capital(s string) string {
	r := []rune(sentence(s))
	return string(r[:len(r)-1])
}

// nominal is the net quantity by volume or by weight.
func nominal(v formula.Version) (float64, string) {
	switch {
	case byVolume(v):
		return v.FillML, "ml"
	case v.DensityGPerML > 0 && (v.ProductStyle == "pourable dressing" || v.FillML > 0):
		return v.FillVolume(), "ml"
	}
	return v.NetGrams().Float(), "g"
}

// NewLabel makes the label of a formula under a regime, confirmed for its newest locked version.
func (a *App) NewLabel(ctx context.Context, formulaID string, regime law.Regime, size labelart.Size,
	design LabelDesign) (LabelView, error) {
	by, err := person(ctx)
	if err != nil {
		return LabelView{}, err
	}
	under, err := law.Of(regime)
	if err != nil {
		return LabelView{}, field("regime", "%s", err.Error())
	}
	if err := size.Check(); err != nil {
		return LabelView{}, field("width_mm", "%s", err.Error())
	}
	return once(ctx, a, func(st Store) (LabelView, error) {
		var out LabelView
		s, _, err := a.settings(st)
		if err != nil {
			return out, err
		}
		if design.Form == "" {
			design.Form = usualForm
		}
		if err := design.check(s); err != nil {
			return out, err
		}
		v, err := newestLocked(st, formulaID)
		if err != nil {
			return out, err
		}
		if !s.jar(v.Jar).Sized() && design.Jar == "" {
			design.Jar = s.suits(v)
		}
		row := Label{FormulaID: formulaID, Regime: regime, WidthMM: size.WidthMM, HeightMM: size.HeightMM,
			Version: v.Number, Design: design, UpdatedBy: by}
		if row.Facts, err = a.labelFacts(st, v, row, under); err != nil {
			return out, err
		}
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

func (a *App) labelFacts(st Store, v formula.Version, row Label, under *law.Law) (LabelFacts, error) {
	f, err := st.Formula(v.Formula)
	if err != nil {
		return LabelFacts{}, err
	}
	v.Wording.Named = row.Design.Named
	p, err := a.panel(st, v)
	if err != nil {
		return LabelFacts{}, err
	}
	return facts(f.Name, v, p, under), nil
}

// SaveLabel changes the size, and the design where one is given; confirm also takes the newest locked version's words
// as the label's own.
func (a *App) SaveLabel(ctx context.Context, id int64, size labelart.Size, to *LabelDesign, confirm bool, rev int,
	batch int64) (LabelView, error) {
	if err := size.Check(); err != nil {
		return LabelView{}, field("width_mm", "%s", err.Error())
	}
	return a.changeLabel(ctx, id, rev, batch, func(st Store, row *Label, s Settings) error {
		design := row.Design
		if to != nil {
			design = *to
		}
		if err := design.check(s); err != nil {
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
		v, err := newestLocked(st, row.FormulaID)
		if err != nil {
			return err
		}
		under, err := law.Of(row.Regime)
		if err != nil {
			return err
		}
		row.Version = v.Number
		row.Facts, err = a.labelFacts(st, v, *row, under)
		return err
	})
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
	panels, err := a.newestPanels(st, rows)
	if err != nil {
		return nil, err
	}
	out := []LabelRow{}
	for _, row := range rows {
		newest, have := panels[row.ID]
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

// newestPanels assesses for each label the newest locked version of its formula.
func (a *App) newestPanels(st Store, labels []Label) (map[int64]labelled, error) {
	formulas := make([]string, len(labels))
	for i, l := range labels {
		formulas[i] = l.FormulaID
	}
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
	of := map[string]labelled{}
	for i, v := range tops {
		own := lib
		if k, is := kept[refs[i]]; is {
			own = k.Over(lib)
		}
		in := assess.Inputs{Library: own, Terms: b.terms, Rules: b.rules}
		if err := panelsOf(v, labels, in, of); err != nil {
			return nil, err
		}
	}
	out := map[int64]labelled{}
	for _, l := range labels {
		if x, have := of[l.panelKey()]; have {
			out[l.ID] = x
		}
	}
	return out, nil
}

// panelKey tells labels apart whose panels differ: of other formulas, or with other ingredients marked.
func (l Label) panelKey() string { return l.FormulaID + "\n" + strings.Join(l.Design.Named, "\n") }

// panelsOf assesses a version once for each way that its labels mark what is in it.
func panelsOf(v formula.Version, labels []Label, in assess.Inputs, into map[string]labelled) error {
	for _, l := range labels {
		key := l.panelKey()
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
func labelRow(row Label, name string, newest int, now LabelFacts) LabelRow {
	was := row.Facts
	r := LabelRow{ID: row.ID, Formula: row.FormulaID, FormulaName: name, Regime: row.Regime, Version: row.Version,
		Newest:  newest,
		WidthMM: row.WidthMM, HeightMM: row.HeightMM, Form: row.Design.form(), State: LabelCurrent, Gained: []string{}}
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
