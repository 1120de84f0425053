package app

import (
	"bytes"
	"context"
	"encoding/json"
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
	"gallipot/internal/core/pantry"
)

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
	ID          int64    `json:"id"`
	Formula     string   `json:"formula"`
	FormulaName string   `json:"formula_name"`
	Regime      string   `json:"regime"`
	Version     int      `json:"version"`
	Newest      int      `json:"newest_locked"`
	WidthMM     float64  `json:"width_mm"`
	HeightMM    float64  `json:"height_mm"`
	State       string   `json:"state"`
	Gained      []string `json:"allergens_gained"`
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
}

// facts draws up what a label of this version says now.
func facts(name string, v formula.Version, p assess.Panel, regime string) LabelFacts {
	d := p.Declaration.For(regime)
	f := LabelFacts{Name: name, LegalName: v.Wording.LegalName, List: d.List, Contains: d.Contains, Allergens: d.Allergens,
		Directions: declaration.Directions(v.EmulsionStyle, len(p.SetsInTheCold) > 0 && v.Keeping.Asked == keeping.Chilled)}
	if own := map[string]string{"US": v.Wording.NameUS, "GB": v.Wording.NameGB}[regime]; own != "" {
		f.Name = capital(own)
	}
	amount, unit := nominal(v)
	if q, err := declaration.NetQuantity(regime, amount, unit); err == nil {
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
		return float64(int(v.FillGrams.Float()/v.DensityGPerML + 0.5)), "ml"
	}
	return v.FillGrams.Float(), "g"
}

// NewLabel makes the label of a formula under a regime, confirmed for its newest locked version.
func (a *App) NewLabel(ctx context.Context, formulaID, regime string, stock labelart.Stock, by string) (LabelView, error) {
	by, err := person(by)
	if err != nil {
		return LabelView{}, err
	}
	if regime != "US" && regime != "GB" {
		return LabelView{}, field("regime", "US or GB")
	}
	if err := stock.Check(); err != nil {
		return LabelView{}, field("width_mm", "%s", err.Error())
	}
	var out LabelView
	err = a.Store.In(ctx, func(st Store) error {
		v, err := newestLocked(st, formulaID)
		if err != nil {
			return err
		}
		now, err := a.labelFacts(st, v, regime)
		if err != nil {
			return err
		}
		raw, err := json.Marshal(now)
		if err != nil {
			return err
		}
		row := Label{Rev: 1, FormulaID: formulaID, Regime: regime, WidthMM: stock.WidthMM, HeightMM: stock.HeightMM, Version: v.Number, Facts: raw, UpdatedBy: by}
		if err := st.AddLabel(&row); errors.Is(err, ErrTaken) {
			return field("regime", "this formula has its %s label already", regime)
		} else if err != nil {
			return err
		}
		out, err = a.labelView(st, row.ID, 0)
		return err
	})
	return out, err
}

func newestLocked(st Store, formulaID string) (formula.Version, error) {
	all, err := st.Versions(formulaID)
	if err != nil {
		return formula.Version{}, err
	}
	for _, v := range slices.Backward(all) {
		if v.State == formula.Locked {
			return v.Core(), nil
		}
	}
	return formula.Version{}, field("formula", "a label belongs to a locked version; lock one first")
}

func (a *App) labelFacts(st Store, v formula.Version, regime string) (LabelFacts, error) {
	f, err := st.Formula(v.Formula)
	if err != nil {
		return LabelFacts{}, err
	}
	p, err := a.panel(st, v)
	if err != nil {
		return LabelFacts{}, err
	}
	return facts(f.Name, v, p, regime), nil
}

// SaveLabel changes the stock; confirm also takes the newest locked version's words as the label's own.
func (a *App) SaveLabel(ctx context.Context, id int64, stock labelart.Stock, confirm bool, rev int, batch int64, by string) (LabelView, error) {
	by, err := person(by)
	if err != nil {
		return LabelView{}, err
	}
	if err := stock.Check(); err != nil {
		return LabelView{}, field("width_mm", "%s", err.Error())
	}
	var out LabelView
	err = a.Store.In(ctx, func(st Store) error {
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
			now, err := a.labelFacts(st, v, row.Regime)
			if err != nil {
				return err
			}
			row.Version = v.Number
			if row.Facts, err = json.Marshal(now); err != nil {
				return err
			}
		}
		if err := st.SaveLabel(row, rev); errors.Is(err, ErrConflict) {
			current, err := a.labelView(st, id, batch)
			if err != nil {
				return err
			}
			return Problem{Kind: Clash, Code: "changed_meanwhile", Message: "This label was changed meanwhile.", Current: current}
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
	return a.labelRows(a.Store.With(ctx))
}

func (a *App) labelRows(st Store) ([]LabelRow, error) {
	rows, err := st.Labels()
	if err != nil {
		return nil, err
	}
	lib, _, versions, err := everything(st)
	if err != nil {
		return nil, err
	}
	b, err := a.book(st)
	if err != nil {
		return nil, err
	}
	newest := map[string]formula.Version{}
	for _, v := range versions {
		if v.State == formula.Locked {
			newest[v.FormulaID] = v.Core()
		}
	}
	out := []LabelRow{}
	for _, row := range rows {
		v := newest[row.FormulaID]
		p, err := assess.Version(v, assess.Inputs{Library: lib, Rate: b.rate, Rules: b.rules})
		if err != nil {
			return nil, fmt.Errorf("label of %s: %w", row.FormulaID, err)
		}
		name := lib.Name(row.FormulaID)
		r, _, err := labelRow(row, name, v.Number, facts(name, v, p, row.Regime))
		if err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, nil
}

// labelRow compares what the label was confirmed with to what it would say now.
func labelRow(row Label, name string, newest int, now LabelFacts) (LabelRow, LabelFacts, error) {
	var was LabelFacts
	if err := json.Unmarshal(row.Facts, &was); err != nil {
		return LabelRow{}, was, fmt.Errorf("label %d: %w", row.ID, err)
	}
	r := LabelRow{ID: row.ID, Formula: row.FormulaID, FormulaName: name, Regime: row.Regime, Version: row.Version, Newest: newest,
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
	return r, was, nil
}

// Label sets a label for a batch, or for the newest locked version where batch is 0.
func (a *App) Label(ctx context.Context, id, batch int64) (LabelView, error) {
	return a.labelView(a.Store.With(ctx), id, batch)
}

func (a *App) labelView(st Store, id, batchID int64) (LabelView, error) {
	v, _, err := a.setLabel(st, id, batchID)
	return v, err
}

// setLabel draws the label and runs its check list.
func (a *App) setLabel(st Store, id, batchID int64) (LabelView, *labelart.Layout, error) {
	row, err := st.Label(id)
	if err != nil {
		return LabelView{}, nil, err
	}
	s, _, err := a.settings(st)
	if err != nil {
		return LabelView{}, nil, err
	}
	version, err := newestLocked(st, row.FormulaID)
	if err != nil {
		return LabelView{}, nil, err
	}
	newest := version.Number
	var batch *loaded
	if batchID != 0 {
		l, err := a.load(st, batchID)
		if err != nil {
			return LabelView{}, nil, err
		}
		if l.row.FormulaID != row.FormulaID {
			return LabelView{}, nil, field("batch", "this batch is of another formula")
		}
		batch, version = &l, l.version
	}
	f, err := st.Formula(row.FormulaID)
	if err != nil {
		return LabelView{}, nil, err
	}
	panel, err := a.panel(st, version)
	if err != nil {
		return LabelView{}, nil, err
	}
	now := facts(f.Name, version, panel, row.Regime)
	r, was, err := labelRow(row, f.Name, newest, now)
	if err != nil {
		return LabelView{}, nil, err
	}
	v := LabelView{LabelRow: r, Rev: row.Rev, Change: []declaration.Piece{}, Batches: []BatchRow{}, Figures: panel.Nutrition.For(row.Regime), Block: []string{}}
	if r.State != LabelCurrent {
		v.Change = declaration.WordDiff(was.words(), now.words())
	}
	amount, _ := nominal(version)
	content := labelart.Content{Regime: row.Regime, ProductName: now.Name, LegalName: now.LegalName, List: now.List, Contains: now.Contains,
		NetQuantity: now.NetQuantity, Nominal: amount, Directions: now.Directions, Business: business(s)}
	checked := labelart.Facts{Allergens: now.Allergens, OutOfDate: r.State != LabelCurrent, Notes: panel.Declaration.For(row.Regime).Notes,
		QuidNamed: slices.ContainsFunc(version.Lines, func(l formula.Line) bool { return l.Quid })}
	if batch != nil {
		a.labelBatch(&v, &content, &checked, batch, row.Regime)
	} else {
		verdict := panel.Keeping.For(row.Regime)
		content.Storage = storage(s, version, row.Regime, verdict, nil)
	}
	layout, err := labelart.Lay(content, labelart.Stock{WidthMM: row.WidthMM, HeightMM: row.HeightMM})
	if err != nil {
		return v, nil, err
	}
	if v.SVG, err = layout.SVG(); err != nil {
		return v, nil, err
	}
	v.Fits = layout.Fits()
	v.Points = layout.Check(checked)
	if content.Hold {
		v.Block = append(v.Block, "Batch on hold: only HOLD stickers may be printed.")
	} else {
		v.Block = append(v.Block, labelart.Blocking(v.Points)...)
	}
	return v, layout, a.labelBatches(st, &v, row.FormulaID)
}

func business(s Settings) string {
	if s.Address == "" {
		return s.Name
	}
	return s.Name + "\n" + s.Address
}

func storage(s Settings, v formula.Version, regime string, verdict keeping.Verdict, pH *float64) string {
	days := s.OpenedDays
	if v.Keeping.AfterOpening > 0 {
		days = min(days, v.Keeping.AfterOpening)
	}
	return declaration.StorageSentence(regime, verdict.Condition, declaration.OpenedDays(days, verdict.Condition, pH, verdict.Days))
}

// labelBatch puts a batch's date, lot and state on the label. Nothing but HOLD is set while it is not released.
func (a *App) labelBatch(v *LabelView, c *labelart.Content, f *labelart.Facts, l *loaded, regime string) {
	summary := l.summary()
	v.Batch, v.Printed = &summary, l.record.Printed
	c.Lot = declaration.LotText(regime, l.row.Code)
	verdict := l.verdict(regime)
	f.Released = l.record.State == bench.Released
	f.HasReading = verdict.Days != nil && !verdict.Provisional
	if !f.Released {
		c.Hold, v.Hold = true, true
		return
	}
	var pH *float64
	if l.record.Acidity.Value > 0 {
		value := l.record.Acidity.Value
		pH = &value
	}
	c.Storage = storage(l.book.settings, l.version, regime, verdict, pH)
	if verdict.Days == nil || verdict.DateKind == nil {
		return
	}
	last := l.row.MadeOn.AddDate(0, 0, *verdict.Days)
	if today := a.Now().Format(pantry.DateLayout); last.Format(pantry.DateLayout) >= today {
		c.DateLine = declaration.DateLine(regime, *verdict.DateKind, l.row.MadeOn, last)
	}
}

func (a *App) labelBatches(st Store, v *LabelView, formulaID string) error {
	all, err := a.loadAll(st)
	if err != nil {
		return err
	}
	for _, l := range all {
		if l.row.FormulaID == formulaID {
			v.Batches = append(v.Batches, l.summary())
		}
	}
	return nil
}

// PrintRun is a finished print.
type PrintRun struct {
	PDF  []byte
	Name string
}

// Print draws count labels of a batch as a PDF and logs the run in the batch record. While the batch is on hold it prints HOLD
// stickers only; a label with a failed legal point is not printed.
func (a *App) Print(ctx context.Context, id, batchID int64, count int, key, by string) (PrintRun, error) {
	by, err := person(by)
	if err != nil {
		return PrintRun{}, err
	}
	if count < 1 || count > 2000 {
		return PrintRun{}, field("count", "between 1 and 2000 labels")
	}
	if batchID == 0 {
		return PrintRun{}, field("batch", "choose the batch to print for: the date and the lot come from it")
	}
	if key == "" || len(key) > 100 {
		return PrintRun{}, field("key", "an idempotency key has 1 to 100 characters")
	}
	var out PrintRun
	err = a.Store.In(ctx, func(st Store) error {
		if err := st.LockBatch(batchID); err != nil {
			return err
		}
		v, layout, err := a.setLabel(st, id, batchID)
		if err != nil {
			return err
		}
		what := "label"
		if v.Hold {
			what = "hold"
		} else if len(v.Block) > 0 {
			return refused("label_fails", "Not printed. %s", v.Block[0])
		}
		var b bytes.Buffer
		if err := layout.PDF(&b, count, v.FormulaName+" "+v.Batch.Code); err != nil {
			return err
		}
		out = PrintRun{b.Bytes(), fmt.Sprintf("%s-%s.pdf", what, v.Batch.Code)}
		done, err := st.HasEntry(batchID, key)
		if err != nil || done {
			return err
		}
		return st.AddEntry(batchID, bench.Entry{Kind: bench.KindPrint, At: a.Now(), By: by, Print: &bench.Print{Label: id, What: what, Count: count}}, key)
	})
	return out, err
}

// daysUntil counts calendar days from today.
func (a *App) daysUntil(day string) (int, bool) {
	d, err := time.Parse(pantry.DateLayout, day)
	if err != nil {
		return 0, false
	}
	today, err := time.Parse(pantry.DateLayout, a.Now().Format(pantry.DateLayout))
	if err != nil {
		return 0, false
	}
	return int(d.Sub(today).Hours() / 24), true
}
