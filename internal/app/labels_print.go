package app

import (
	"bytes"
	"cmp"
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
	"gallipot/internal/core/pack"
	"gallipot/internal/core/pantry"
)

// labelled is what a label stands on: the newest locked version, or what one batch was made by.
type labelled struct {
	name    string
	newest  int
	version formula.Version
	panel   assess.Panel
	batch   *loaded
	named   []string // by the label, beside the marked lines
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
	of.named = row.Design.Named
	of.version.Wording.Named = of.named
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
	v.Wording.Named = of.named
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

// drawn is a label as it is set: for sale, and the HOLD sticker where only that may be printed.
type drawn struct {
	sale, hold *labelart.Layout
	stock      func() (*labelart.Layout, error) // without date and lot, as it is printed before
}

// edition tells words of labels apart: it stands on stock that is printed before, and date and lot go only onto stock
// that bears the batch's own. What comes with the batch is no part of it.
func (v LabelView) edition() string {
	k := keptLabel(v)
	k.Version, k.DateLine, k.Lot, k.MayContain, k.Hold = 0, "", "", "", false
	return strings.ToUpper(fmt.Sprintf("%x", digestOf(k))[:5])
}

// prints is what comes out of the printer.
func (d drawn) prints() *labelart.Layout {
	if d.hold != nil {
		return d.hold
	}
	return d.sale
}

// setLabel draws the label and runs its check list.
func (a *App) setLabel(st Store, id, batchID int64) (LabelView, drawn, error) {
	row, err := st.Label(id)
	if err != nil {
		return LabelView{}, drawn{}, err
	}
	under, err := law.Of(row.Regime)
	if err != nil {
		return LabelView{}, drawn{}, err
	}
	s, _, err := a.settings(st)
	if err != nil {
		return LabelView{}, drawn{}, err
	}
	of, err := a.labelled(st, row, batchID)
	if err != nil {
		return LabelView{}, drawn{}, err
	}
	now := facts(of.name, of.version, of.panel, under)
	v := LabelView{LabelRow: of.row(row, now), Rev: row.Rev, Design: row.Design, Change: []declaration.Piece{},
		Carry: []Carrying{}, Batches: []BatchRow{}, Figures: of.panel.Nutrition[row.Regime], Block: []string{},
		Claims: assess.ClaimRules(), Paper: row.paper(s), Place: 1}
	v.Design.Form = row.Design.form()
	if v.State != LabelCurrent {
		v.Change = declaration.WordDiff(row.Facts.words(), now.words())
	}
	version, panel, err := a.asMade(st, of)
	if err != nil {
		return LabelView{}, drawn{}, err
	}
	x := setting{row: row, under: under, shop: s, version: version, panel: panel,
		set: facts(of.name, version, panel, under), jar: row.Design.jarOf(s, version)}
	content, checked := x.content(), x.checked(v.State != LabelCurrent)
	content.Claims = x.claims(&checked)
	if of.batch != nil {
		a.labelBatch(&v, &content, &checked, of.batch, under)
		of.batch.contact().onLabel(&content, &checked, under)
	} else {
		content.Storage = storage(s, version, under, panel.Keeping[row.Regime], nil)
	}
	v.set.version, v.set.allergens = version.Number, x.set.Allergens
	d, err := a.lay(st, &v, x, content, checked)
	if err != nil {
		return v, d, err
	}
	return v, d, a.labelBatches(st, &v, row, now)
}

// setting is all that a label is set from.
type setting struct {
	row     Label
	under   *law.Law
	shop    Settings
	version formula.Version
	panel   assess.Panel
	set     LabelFacts
	jar     pack.Jar
}

// mostOffered is how many ingredients are offered to be marked.
const mostOffered = 5

// checked are the facts that the check list asks for.
func (x setting) checked(outOfDate bool) labelart.Facts {
	d := x.row.Design
	f := labelart.Facts{Allergens: x.set.Allergens, OutOfDate: outOfDate, Open: openNames(x.panel.Open),
		Unnamed: assess.Unnamed(x.panel, x.under), Notes: x.panel.Declaration[x.row.Regime].Notes,
		NothingElse: d.NothingElse == x.set.Name || x.version.Wording.StressesNothing,
		NameSays:    d.NameSays == x.set.Name, Nutrition: d.Nutrition,
		SugarUnknown: x.panel.Nutrients.Unknown, MayName: x.panel.MayName(x.under, mostOffered)}
	_, f.AddressWrong = x.shop.business(x.under)
	named := []string{}
	for _, q := range x.panel.Declaration[x.row.Regime].Quantified {
		named, f.Named = append(named, q.Name), append(f.Named, q.Name+" "+q.Text)
	}
	for _, s := range x.panel.Stressed(x.set.Name, x.under) {
		if !slices.Contains(named, s) && !slices.Contains(d.NotNamed, s) {
			f.Stressed = append(f.Stressed, s)
		}
	}
	f.MayName = slices.DeleteFunc(f.MayName, func(s string) bool {
		return slices.Contains(named, s) || slices.Contains(d.NotNamed, s)
	})
	if d.ownClaims() && f.Nutrition != labelart.Shown {
		f.Nutrition = "" // a claim on nutrients takes the exemption away
	}
	x.pack(&f)
	return f
}

// pack tells of the jar, or offers those of the shop that hold the fill.
func (x setting) pack(f *labelart.Facts) {
	amount, unit := nominal(x.version)
	ml := x.version.FillVolume()
	if unit == "ml" {
		ml = amount
	}
	if x.jar.Sized() {
		f.SurfaceCM2 = x.jar.SurfaceCM2()
		f.Fill = x.jar.Name
		if ml > 0 {
			f.Overfull = ml > x.jar.ML
			f.Fill = fmt.Sprintf("%s: %.0f ml of %.0f ml to the brim, %.0f mm of headspace.", x.jar.Name, ml, x.jar.ML,
				max(0, x.jar.HeadspaceMM(ml)))
			if f.Overfull {
				f.Fill = fmt.Sprintf("%s holds %.0f ml to the brim; the fill is %.0f ml.", x.jar.Name, x.jar.ML, ml)
			}
		}
		return
	}
	for _, j := range x.shop.Jars {
		if j.Sized() && j.ML >= max(ml, x.version.NetGrams().Float()/heaviestFill) {
			f.Jars = append(f.Jars, labelart.Answer{Key: "jar:" + j.ID, Text: j.Name})
		}
	}
}

// heaviestFill in g per mL: denser food is not filled into jars.
const heaviestFill = 1.45

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

// content is what stands on a label whichever batch it is for.
func (x setting) content() labelart.Content {
	amount, unit := nominal(x.version)
	c := labelart.Content{Law: x.under, Shop: x.shop.Name, ProductName: x.set.Name, LegalName: x.set.LegalName,
		List: x.set.List, Contains: x.set.Contains, Allergens: pantry.PlainAllergens(x.set.Allergens),
		NetQuantity: x.set.NetQuantity, Nominal: amount, Directions: x.set.Directions, Barcode: x.row.Design.Barcode,
		QR: x.row.Design.QR}
	c.Business, _ = x.shop.business(x.under)
	if x.row.Design.Nutrition == labelart.Shown {
		c.Nutrition = x.panel.Nutrients.Panel(x.under, declaration.PanelAsk{Style: x.version.ProductStyle,
			DensityGPerML: x.version.DensityGPerML, NetGrams: x.version.NetGrams().Float(), ByVolume: unit == "ml",
			ServingGrams: x.row.Design.ServingGrams})
	}
	return c
}

func (x setting) claims(f *labelart.Facts) string {
	var words string
	f.Claims, words = x.row.Design.claims(x.panel, x.under)
	return words
}

// wear puts the label on its jar.
func (x setting) wear(v *LabelView) {
	if !x.jar.Sized() {
		return
	}
	ml := x.version.FillVolume()
	if ml == 0 {
		ml = x.version.NetGrams().Float() // for the picture alone
	}
	v.Jar, v.Level = &x.jar, min(1, ml/x.jar.ML)
}

// lay sets the label and tells what stands against printing it.
func (a *App) lay(st Store, v *LabelView, x setting, content labelart.Content, checked labelart.Facts) (drawn, error) {
	var d drawn
	mark, err := drawnMark(st)
	if err != nil {
		return d, err
	}
	design := labelart.Design{Form: x.row.Design.form(), Colour: cmp.Or(x.row.Design.Colour, x.shop.Colour), Mark: mark,
		Mono: x.row.Design.Mono}
	v.Tint = design.Tint()
	size := v.Paper.Size()
	v.WidthMM, v.HeightMM = size.WidthMM, size.HeightMM
	if d.sale, err = labelart.Lay(content, design, size, x.jar); err != nil {
		return d, err
	}
	d.stock = func() (*labelart.Layout, error) {
		before := content
		before.DateLine, before.Lot, before.Hold, before.MayContain = "", "", false, ""
		before.Business += " · " + v.edition()
		return labelart.Lay(before, design, size, x.jar)
	}
	for i, p := range d.sale.Pieces {
		svg, err := d.sale.SVG(i)
		if err != nil {
			return d, err
		}
		v.Pieces = append(v.Pieces, LabelPiece{p.Name, svg, p.HighMM})
	}
	v.Faces, v.Fits, v.content = d.sale.Faces, d.sale.Fits(), content
	v.Points = d.sale.Check(checked)
	x.wear(v)
	if v.doubt != "" {
		v.Block = append(v.Block, "An owner decides on the batch first: "+v.doubt+".")
	}
	if !v.Hold {
		v.Block = append(v.Block, labelart.Blocking(v.Points)...)
		return d, nil
	}
	v.Block = append(v.Block, "Batch on hold: only HOLD stickers may be printed.")
	content.Hold, v.content.Hold = true, true
	if d.hold, err = labelart.Lay(content, design, size, x.jar); err != nil {
		return d, err
	}
	v.Sticker, err = d.hold.SVG(0)
	return d, err
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
	v.Batch, v.Printed, v.Spoilt, v.doubt = &summary, l.record.Printed, l.record.Spoilt, row.doubt()
	v.Jars = l.row.Jars
	if l.record.Fill != nil {
		v.Jars = l.record.Fill.Jars
	}
	f.HasBatch = true
	c.Lot = declaration.LotText(under, l.row.Code)
	verdict := l.verdict(under)
	f.Released = l.record.State == bench.Released || l.record.OnlyWords() // for jars that get new labels
	f.HasReading = verdict.Days != nil && !verdict.Provisional
	c.Storage = storage(l.book.settings, l.version, under, verdict, nil)
	if !f.Released {
		v.Hold = true
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

// labelBatches lists the newest batches that the label may be set for, and those whose jars carry other words.
func (a *App) labelBatches(st Store, v *LabelView, row Label, now LabelFacts) error {
	rows, err := st.ListBatches(BatchQuery{Formula: row.FormulaID}, nil, pageOfBatches)
	if err != nil {
		return err
	}
	ids := make([]int64, len(rows))
	for i, r := range rows {
		v.Batches, ids[i] = append(v.Batches, batchRow(r)), r.Batch
	}
	prints, err := st.PrintsOf(ids)
	if err != nil {
		return err
	}
	s, _, err := a.settings(st)
	if err != nil {
		return err
	}
	today := a.today(s).Format(pantry.DateLayout)
	for _, r := range rows {
		n, carries := 0, false
		for _, e := range prints[r.Batch] {
			p, is := e.Body.(*bench.Print)
			if !is || p.What != bench.PrintedLabel || p.Label != row.ID {
				continue
			}
			if v.Last == nil || e.At.After(v.Last.At) {
				v.Last = &LastPrint{e.At, r.Code}
			}
			kept, err := keptOf(p)
			n, carries = n+p.Count, err != nil || kept.List != now.List || kept.Contains != now.Contains
		}
		if n > 0 && carries && (r.LastDay == "" || r.LastDay >= today) {
			v.Carry = append(v.Carry, Carrying{r.Batch, r.Code, min(n, r.Jars)})
		}
	}
	v.Place = 1
	if v.Paper.Kind == labelart.Sheet {
		v.Place, err = st.NextPlace(v.Paper.ID)
		v.Place = min(v.Place, v.Paper.PerSheet())
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
	digest := digestOf(bench.Print{Label: print.Label, What: print.What, Count: print.Count, Printer: print.Printer,
		Part: print.Part})
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

// Artwork is the label without date and lot as a PDF, for a printing house: its place for them is kept. Nothing of it
// is logged. Errors: Problem of kind Refused where a legal point fails or is not answered.
func (a *App) Artwork(ctx context.Context, id int64) (PrintRun, error) {
	v, d, err := a.setLabel(a.on(ctx), id, 0)
	if err != nil {
		return PrintRun{}, err
	}
	if len(v.Block) > 0 {
		return PrintRun{}, refused("label_fails", "Not drawn. %s", v.Block[0])
	}
	var b bytes.Buffer
	single := labelart.Stock{Kind: labelart.Single, WidthMM: v.WidthMM, HeightMM: v.HeightMM}
	stock, err := d.stock()
	if err != nil {
		return PrintRun{}, err
	}
	if !stock.Fits() {
		return PrintRun{}, refused("label_fails", "Not drawn. %s", stock.Advice())
	}
	_, err = stock.Print(&b, single, 1, 1, v.FormulaName)
	return PrintRun{PDF: b.Bytes(), Name: "artwork-" + slug(v.FormulaName) + ".pdf"}, err
}

// PrintAsk is a run of labels that somebody asks for. From is the place on the first sheet, 0 for the next free one.
// Sure says that more labels than jars are meant. Printer is one of the shop's; empty: a PDF.
type PrintAsk struct {
	Batch   int64
	Count   int
	From    int
	Sure    bool
	Printer string
	Part    string
	Edition string // that stands on the stock, where the date alone is printed
}

// PartDate prints date and lot alone, on labels that were printed before.
const PartDate = "date"

// Greatest run, and how many labels may be over the jars that still lack one without a question: a few are spoilt.
const (
	mostLabels  = 2000
	spareLabels = 5
	spareShare  = 10 // a tenth of the jars
)

// Print draws labels of a batch as a PDF, sends them to a printer where one is named, and logs the run in the batch
// record once. While the batch is on hold it prints HOLD stickers only; a label with a failed legal point is not
// printed.
func (a *App) Print(ctx context.Context, id int64, ask PrintAsk, key string) (PrintRun, error) {
	if _, err := person(ctx); err != nil {
		return PrintRun{}, err
	}
	on, err := a.labelPrinter(ctx, ask.Printer)
	if err != nil {
		return PrintRun{}, err
	}
	switch {
	case ask.Count < 1 || ask.Count > mostLabels:
		return PrintRun{}, field("count", "between 1 and %d labels", mostLabels)
	case ask.Batch == 0:
		return PrintRun{}, field("batch", "choose the batch to print for: the date and the lot come from it")
	case key == "" || len(key) > 100:
		return PrintRun{}, field("key", "an idempotency key has 1 to 100 characters")
	}
	var out PrintRun
	err = a.in(ctx, func(st Store) error {
		if err := st.LockBatches(ask.Batch); err != nil {
			return err
		}
		v, d, err := a.setLabel(st, id, ask.Batch)
		if err != nil {
			return err
		}
		run, err := a.run(st, v, id, ask, key)
		if err != nil {
			return err
		}
		var b bytes.Buffer
		out, err = drawRun(&b, v, d, &run, ask)
		if err != nil {
			return err
		}
		if on != nil {
			run.Printer = on.Name
		}
		if err := a.notePrint(ctx, st, v, ask.Batch, run, key); err != nil || on == nil {
			return err
		}
		out.Said, err = a.Instruments.Ask(ctx, *on, fmt.Sprintf("print %s %d %d", jobOf(key), ask.Count, b.Len()),
			b.Bytes())
		return deviceProblem(err)
	})
	return out, err
}

// labelPrinter is the printer that a run goes to; nil for a PDF. A run is logged once the printer has said that it has
// it, and one that is sent again under its key is not printed twice.
func (a *App) labelPrinter(ctx context.Context, id string) (*Device, error) {
	if id == "" {
		return nil, nil //nolint:nilnil // a PDF needs none
	}
	d, err := a.device(ctx, id)
	if err != nil || d.Kind != PrinterDevice {
		return nil, field("printer", "choose one of the shop's label printers")
	}
	if d.Address == "" && !a.StandIns {
		return nil, field("printer", "%s is a stand-in that prints nothing: give it the address of yours", d.Name)
	}
	return &d, nil
}

// run is the record of a run, unless something speaks against it.
func (a *App) run(st Store, v LabelView, id int64, ask PrintAsk, key string) (bench.Print, error) {
	run := bench.Print{Label: id, What: bench.PrintedLabel, Count: ask.Count, Stock: v.Paper.ID}
	if v.Hold {
		run.What = bench.PrintedHold
	} else if len(v.Block) > 0 {
		return run, refused("label_fails", "Not printed. %s", v.Block[0])
	}
	if ask.Part != "" && ask.Part != PartDate {
		return run, field("part", "the whole label, or the date alone")
	}
	if ask.Part == PartDate && !v.Hold {
		if err := v.mayTakeDate(ask.Edition); err != nil {
			return run, err
		}
	}
	before, err := st.EntryKey(ask.Batch, key)
	if err != nil {
		return run, err
	}
	lack := v.Jars - (v.Printed - v.Spoilt)
	spare := max(spareLabels, v.Jars/spareShare)
	if before == nil && !v.Hold && !ask.Sure && ask.Count > max(0, lack)+spare {
		return run, refused("more_than_jars",
			"%d labels for %s that still %s one: %s filled, %d printed, %d of them spoilt. Print fewer, or say that you mean it.",
			ask.Count, plural(max(0, lack), "jar"), lacks(lack), plural(v.Jars, "jar"), v.Printed, v.Spoilt)
	}
	if v.Paper.Kind == labelart.Sheet {
		run.From = cmp.Or(ask.From, v.Place)
		if before != nil { // the same sheet again
			if run.From, err = st.PlaceOf(ask.Batch, key); err != nil {
				return run, err
			}
		}
		if run.From < 1 || run.From > v.Paper.PerSheet() {
			return run, field("from", "a place of the sheet, 1 to %d", v.Paper.PerSheet())
		}
	}
	return run, nil
}

// mayTakeDate refuses stock that was printed with other words than the batch needs.
func (v LabelView) mayTakeDate(edition string) error {
	edition = strings.ToUpper(strings.TrimSpace(edition))
	switch {
	case v.content.MayContain != "":
		return refused("overprint", "Not printed. Labels printed before do not bear “%s”, which this batch needs: "+
			"print whole labels.", v.content.MayContain)
	case edition == "":
		return field("edition", "type the edition that stands on the stock, behind the address")
	case edition != v.edition():
		return field("edition", "edition %s has other words than this batch needs: print whole labels", clip(edition))
	}
	return nil
}

func lacks(n int) string {
	if n == 1 {
		return "lacks"
	}
	return "lack"
}

// drawRun writes the PDF and notes where on the sheet it ended.
func drawRun(b *bytes.Buffer, v LabelView, d drawn, run *bench.Print, ask PrintAsk) (PrintRun, error) {
	prints := d.prints()
	if ask.Part == PartDate && !v.Hold {
		stock, err := d.stock()
		if err != nil {
			return PrintRun{}, err
		}
		if prints, err = stock.Overprint(v.content.DateLine, v.content.Lot); err != nil {
			return PrintRun{}, refused("overprint", "Not printed. %s.", capital(err.Error()))
		}
		run.Part = PartDate
	}
	drawn, err := prints.Print(b, v.Paper, ask.Count, max(1, run.From), v.FormulaName+" "+v.Batch.Code)
	if err != nil {
		return PrintRun{}, err
	}
	if v.Paper.Kind == labelart.Sheet {
		run.Next = drawn.Next
	}
	return PrintRun{PDF: b.Bytes(), Name: fmt.Sprintf("%s-%s.pdf", run.What, v.Batch.Code)}, nil
}

// Spoil counts labels of a batch that came out and were thrown away, once under its key.
func (a *App) Spoil(ctx context.Context, id, batch int64, count int, key string) (LabelView, error) {
	if _, err := person(ctx); err != nil {
		return LabelView{}, err
	}
	if key == "" || len(key) > 100 {
		return LabelView{}, field("key", "an idempotency key has 1 to 100 characters")
	}
	var out LabelView
	err := a.in(ctx, func(st Store) error {
		if err := st.LockBatches(batch); err != nil {
			return err
		}
		v, _, err := a.setLabel(st, id, batch)
		if err != nil {
			return err
		}
		before, err := st.EntryKey(batch, key)
		if err != nil {
			return err
		}
		if most := v.Printed - v.Spoilt; before == nil && (count < 1 || count > most) {
			return field("spoilt", "between 1 and the %d that were printed", most)
		}
		run := bench.Print{Label: id, What: bench.PrintedSpoilt, Count: count, Stock: v.Paper.ID}
		if err := a.notePrint(ctx, st, v, batch, run, key); err != nil {
			return err
		}
		out, err = a.labelView(st, id, batch)
		return err
	})
	return out, err
}
