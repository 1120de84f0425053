package app

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/declaration"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// labelled is what a label stands on: the newest locked version, or what one batch was made by.
type labelled struct {
	name    string
	newest  int
	version formula.Version
	panel   assess.Panel
	batch   *loaded
}

func (a *App) labelled(st Store, row Label, batchID int64) (labelled, error) {
	var of labelled
	var err error
	if of.version, err = newestLocked(st, row.FormulaID); err != nil {
		return of, err
	}
	of.newest = of.version.Number
	if batchID != 0 {
		l, err := a.load(st, batchID)
		if err != nil {
			return of, err
		}
		if l.row.FormulaID != row.FormulaID {
			return of, field("batch", "this batch is of another formula")
		}
		of.batch, of.version = &l, l.version
	}
	f, err := st.Formula(row.FormulaID)
	if err != nil {
		return of, err
	}
	of.name = f.Name
	of.panel, err = a.panel(st, of.version)
	return of, err
}

// asMade is the version that a label declares: a group as what its batch was made of.
func (a *App) asMade(st Store, of labelled) (formula.Version, assess.Panel, error) {
	if of.batch == nil {
		return of.version, of.panel, nil
	}
	v, err := of.batch.declared().Resolve(of.batch.record.Uses())
	if err != nil {
		return v, of.panel, err
	}
	p, err := a.panel(st, v)
	return v, p, err
}

// declared is the version that a batch's label lists: what was added or left out at the bench is seen in it.
func (l loaded) declared() formula.Version {
	out := slices.ContainsFunc(l.record.Lines, func(s bench.LineState) bool { return s.LeftOut })
	if !out && len(l.record.Added) == 0 {
		return l.version
	}
	return asWeighed(l.version, l.record)
}

// row is the label in the list, as it concerns what it is set for.
func (of labelled) row(row Label, now LabelFacts) LabelRow {
	r := labelRow(row, of.name, of.newest, now)
	// The label moved on; this batch has the words of its own version.
	if of.batch != nil && of.version.Number < row.Version {
		r.State, r.Gained = LabelCurrent, []string{}
	}
	return r
}

// setLabel draws the label and runs its check list.
func (a *App) setLabel(st Store, id, batchID int64) (LabelView, *labelart.Layout, error) {
	row, err := st.Label(id)
	if err != nil {
		return LabelView{}, nil, err
	}
	under, err := law.Of(row.Regime)
	if err != nil {
		return LabelView{}, nil, err
	}
	s, _, err := a.settings(st)
	if err != nil {
		return LabelView{}, nil, err
	}
	of, err := a.labelled(st, row, batchID)
	if err != nil {
		return LabelView{}, nil, err
	}
	batch, name := of.batch, of.name
	now := facts(name, of.version, of.panel, under)
	r, was := of.row(row, now), row.Facts
	version, panel, err := a.asMade(st, of)
	if err != nil {
		return LabelView{}, nil, err
	}
	set := facts(name, version, panel, under)
	v := LabelView{LabelRow: r, Rev: row.Rev, Change: []declaration.Piece{}, Batches: []BatchRow{},
		Figures: panel.Nutrition[row.Regime], Block: []string{}}
	if r.State != LabelCurrent {
		v.Change = declaration.WordDiff(was.words(), now.words())
	}
	content := contentOf(set, version, under, s)
	checked := labelart.Facts{Allergens: set.Allergens, OutOfDate: r.State != LabelCurrent, Open: openNames(panel.Open),
		Unnamed:   assess.Unnamed(panel, under),
		Notes:     panel.Declaration[row.Regime].Notes,
		QuidNamed: slices.ContainsFunc(version.Lines, func(l formula.Line) bool { return l.Quid })}
	if batch != nil {
		a.labelBatch(&v, &content, &checked, batch, under)
		batch.contact().onLabel(&content, &checked, under)
	} else {
		verdict := panel.Keeping[row.Regime]
		content.Storage = storage(s, version, under, verdict, nil)
	}
	v.set.version, v.set.allergens = version.Number, set.Allergens
	layout, err := lay(&v, content, checked)
	if err != nil {
		return v, nil, err
	}
	return v, layout, a.labelBatches(st, &v, row.FormulaID)
}

func openNames(open []assess.Open) []string {
	var names []string
	for _, o := range open {
		names = append(names, o.Name)
	}
	return names
}

// onLabel puts what a batch may contain on its label and its check list.
func (x CrossContact) onLabel(c *labelart.Content, f *labelart.Facts, under *law.Law) {
	c.MayContain, f.Assessed = x.sentence(under), len(x.Vessels) > 0
	for _, contact := range x.MayContain[under.Regime] {
		f.Contact = append(f.Contact, under.Word(contact.Code)+" ("+strings.Join(contact.From, "; ")+")")
	}
}

// contentOf is what stands on a label whichever batch it is for.
func contentOf(set LabelFacts, v formula.Version, under *law.Law, s Settings) labelart.Content {
	amount, _ := nominal(v)
	return labelart.Content{Law: under, ProductName: set.Name, LegalName: set.LegalName, List: set.List,
		Contains: set.Contains, NetQuantity: set.NetQuantity, Nominal: amount, Directions: set.Directions,
		Business: business(s)}
}

// lay sets the label and tells what stands against printing it.
func lay(v *LabelView, content labelart.Content, checked labelart.Facts) (*labelart.Layout, error) {
	layout, err := labelart.Lay(content, labelart.Stock{WidthMM: v.WidthMM, HeightMM: v.HeightMM})
	if err != nil {
		return nil, err
	}
	if v.SVG, err = layout.SVG(); err != nil {
		return nil, err
	}
	v.Fits, v.content = layout.Fits(), content
	v.Points = layout.Check(checked)
	if v.doubt != "" {
		v.Block = append(v.Block, "An owner decides on the batch first: "+v.doubt+".")
	}
	if content.Hold {
		v.Block = append(v.Block, "Batch on hold: only HOLD stickers may be printed.")
	} else {
		v.Block = append(v.Block, labelart.Blocking(v.Points)...)
	}
	return layout, nil
}

func business(s Settings) string {
	if s.Address == "" {
		return s.Name
	}
	return s.Name + "\n" + s.Address
}

func storage(s Settings, v formula.Version, under *law.Law, verdict keeping.Verdict, pH *float64) string {
	days := s.OpenedDays
	if v.Keeping.AfterOpening > 0 {
		days = min(days, v.Keeping.AfterOpening)
	}
	return under.Storage(verdict.Condition, declaration.OpenedDays(days, verdict.Condition, pH, verdict.Days))
}

// labelBatch puts a batch's date, lot and state on the label. Nothing but HOLD is set while it is not released.
func (a *App) labelBatch(v *LabelView, c *labelart.Content, f *labelart.Facts, l *loaded, under *law.Law) {
	row := l.listed()
	summary := batchRow(row)
	v.Batch, v.Printed, v.doubt = &summary, l.record.Printed, row.doubt()
	c.Lot = declaration.LotText(under, l.row.Code)
	verdict := l.verdict(under)
	f.Released = l.record.State == bench.Released || l.record.OnlyWords() // for jars that get new labels
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
	c.Storage = storage(l.book.settings, l.version, under, verdict, pH)
	if verdict.Days == nil || verdict.DateKind == nil {
		return
	}
	last := l.row.MadeOn.AddDate(0, 0, *verdict.Days)
	if today := a.today(l.book.settings).Format(pantry.DateLayout); last.Format(pantry.DateLayout) >= today {
		c.DateLine = under.DateLine(*verdict.DateKind, l.row.MadeOn, last)
	}
}

// labelBatches lists the newest batches that the label may be set for.
func (a *App) labelBatches(st Store, v *LabelView, formulaID string) error {
	rows, err := st.ListBatches(BatchQuery{Formula: formulaID}, nil, pageOfBatches)
	for _, r := range rows {
		v.Batches = append(v.Batches, batchRow(r))
	}
	return err
}

// PrintRun is a finished print.
type PrintRun struct {
	PDF  []byte
	Name string
	Said string // by the printer that has it
}

// jobOf is the name that a printer knows a run by: one word.
func jobOf(key string) string { return fmt.Sprintf("%x", digestOf(key))[:24] }

// notePrint writes a print run into the batch record with what the label said, once under its key.
func (a *App) notePrint(ctx context.Context, st Store, v LabelView, batchID int64, print bench.Print,
	key string) error {
	digest := digestOf(print)
	before, err := st.EntryKey(batchID, key)
	if err != nil {
		return err
	}
	if before != nil {
		if !same(before, digest) {
			return otherContent()
		}
		return nil
	}
	if print.Kept, err = json.Marshal(keptLabel(v)); err != nil {
		return err
	}
	who := actor(ctx)
	entry := bench.Entry{At: a.Now(), By: who.Name, Role: who.Role, Body: &print}
	if _, err := st.AddEntry(batchID, entry, key, digest); err != nil {
		return entryKeyTaken(err)
	}
	return a.judge(ctx, st, batchID)
}

// Print draws count labels of a batch as a PDF and logs the run in the batch record. While the batch is on hold it
// prints HOLD stickers only; a label with a failed legal point is not printed.
func (a *App) Print(ctx context.Context, id, batchID int64, count int, key string) (PrintRun, error) {
	return a.print(ctx, id, batchID, count, key, nil)
}

// PrintOn prints on a label printer of the shop: the run is logged once the printer has said that it has it, and a run
// that is sent again under its key is not printed twice.
func (a *App) PrintOn(ctx context.Context, printer string, id, batchID int64, count int, key string) (PrintRun, error) {
	d, err := a.device(ctx, printer)
	if err != nil || d.Kind != PrinterDevice {
		return PrintRun{}, field("printer", "choose one of the shop's label printers")
	}
	if d.Address == "" && !a.StandIns {
		return PrintRun{}, field("printer", "%s is a stand-in that prints nothing: give it the address of yours",
			d.Name)
	}
	return a.print(ctx, id, batchID, count, key, &d)
}

func (a *App) print(ctx context.Context, id, batchID int64, count int, key string, on *Device) (PrintRun, error) {
	if _, err := person(ctx); err != nil {
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
	err := a.in(ctx, func(st Store) error {
		if err := st.LockBatches(batchID); err != nil {
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
		out = PrintRun{PDF: b.Bytes(), Name: fmt.Sprintf("%s-%s.pdf", what, v.Batch.Code)}
		run := bench.Print{Label: id, What: what, Count: count}
		if on != nil {
			run.Printer = on.Name
		}
		if err := a.notePrint(ctx, st, v, batchID, run, key); err != nil || on == nil {
			return err
		}
		out.Said, err = a.Instruments.Ask(ctx, *on, fmt.Sprintf("print %s %d %d", jobOf(key), count, b.Len()),
			b.Bytes())
		return deviceProblem(err)
	})
	return out, err
}
