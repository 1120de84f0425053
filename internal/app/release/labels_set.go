package release

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/declaration"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"
)

// labelled is what a label is set from: the newest locked version, or the one a batch was made by.
type labelled struct {
	name    string
	newest  int
	version formula.Version
	panel   assess.Panel
	batch   *production.Loaded
	named   []string // by the label, beside the marked lines
}

func (a *Room) labelled(st kernel.Store, row kernel.Label, batchID int64) (labelled, error) {
	var of labelled
	var err error
	if of.version, err = kernel.NewestLocked(st, row.FormulaID); err != nil {
		return of, err
	}
	of.newest = of.version.Number
	if batchID != 0 {
		l, err := a.Production.Load(st, batchID)
		if err != nil {
			return of, err
		}
		if l.Row.FormulaID != row.FormulaID {
			return of, kernel.Mistake("batch", "this batch is of another formula")
		}
		of.batch, of.version = &l, l.Version
	}
	f, err := st.Formula(row.FormulaID)
	if err != nil {
		return of, err
	}
	of.name = f.Name
	of.named = row.Design.Named
	of.version.Wording.Named = of.named
	of.panel, err = a.Catalog.Panel(st, of.version)
	return of, err
}

// asMade is the version that a label declares, with each group as the ingredients its batch used.
func (a *Room) asMade(st kernel.Store, of labelled) (formula.Version, assess.Panel, error) {
	if of.batch == nil {
		return of.version, of.panel, nil
	}
	made, planned := of.batch.Made().Declared()
	uses := of.batch.Record.Uses()
	if planned && len(uses) == 0 {
		return of.version, of.panel, nil
	}
	v, err := made.Resolve(uses)
	if err != nil {
		return v, of.panel, err
	}
	v.Wording.Named = of.named
	p, err := a.Catalog.Panel(st, v)
	return v, p, err
}

// row is the label in the list, as it concerns what it is set for.
func (of labelled) row(row kernel.Label, now kernel.LabelFacts) kernel.LabelRow {
	r := labelRow(row, of.name, of.newest, now)
	// The label moved on; this batch has the words of its own version.
	if of.batch != nil && of.version.Number < row.Version {
		r.State, r.Gained = kernel.LabelCurrent, []string{}
	}
	return r
}

// drawn is a label as it is set: the one for sale, and the HOLD sticker if only that may be printed.
type drawn struct {
	sale, hold *labelart.Layout
	stock      func() (*labelart.Layout, error) // without date and lot, as it is printed before
}

// edition identifies the words of a label. It is printed on stock made in advance, and date and lot go only onto stock
// with the batch's own edition. What varies by batch is not part of it.
func (v LabelView) edition() string {
	k := keptLabel(v)
	k.Version, k.DateLine, k.UseBy, k.Lot, k.MayContain, k.Hold = 0, "", false, "", "", false
	return strings.ToUpper(fmt.Sprintf("%x", kernel.DigestOf(k))[:5])
}

// prints is what comes out of the printer.
func (d drawn) prints() *labelart.Layout {
	if d.hold != nil {
		return d.hold
	}
	return d.sale
}

// setLabel draws the label and runs its check list.
func (a *Room) setLabel(st kernel.Store, id, batchID int64) (LabelView, drawn, error) {
	row, err := st.Label(id)
	if err != nil {
		return LabelView{}, drawn{}, err
	}
	under, err := law.Of(row.Regime)
	if err != nil {
		return LabelView{}, drawn{}, err
	}
	s, _, err := a.Settings(st)
	if err != nil {
		return LabelView{}, drawn{}, err
	}
	of, err := a.labelled(st, row, batchID)
	if err != nil {
		return LabelView{}, drawn{}, err
	}
	now := kernel.Facts(of.name, of.version, of.panel, under)
	v := LabelView{LabelRow: of.row(row, now), Rev: row.Rev, Design: row.Design, Change: []declaration.Piece{},
		Carry: []Carrying{}, Batches: []kernel.BatchRow{}, Figures: of.panel.Nutrition[row.Regime], Block: []string{},
		Claims: assess.ClaimRules(), Paper: row.Paper(s), Place: 1}
	v.Design.Form = row.Design.DrawnForm()
	if v.State != kernel.LabelCurrent {
		v.Change = declaration.WordDiff(row.Facts.Words(), now.Words())
	}
	version, panel, err := a.asMade(st, of)
	if err != nil {
		return LabelView{}, drawn{}, err
	}
	x := setting{row: row, under: under, shop: s, version: version, panel: panel,
		set: kernel.Facts(of.name, version, panel, under), jar: row.Design.JarOf(s, version)}
	content, checked := x.content(), x.checked(v.State != kernel.LabelCurrent)
	content.Claims = x.claims(&checked)
	if of.batch != nil {
		a.labelBatch(&v, &content, &checked, of.batch, under)
		of.batch.Contact().OnLabel(&content, &checked, under)
	} else {
		content.Storage = storage(s, version, under, panel.Keeping[row.Regime], nil)
	}
	v.set.version, v.set.allergens = version.Number, x.set.Allergens
	d, err := a.lay(st, &v, x, content, checked)
	if err != nil {
		return v, d, err
	}
	if err := a.labelBatches(st, &v, of, now, s); err != nil {
		return v, d, err
	}
	return v, d, nextPlace(st, &v)
}

// setting is everything a label is set from.
type setting struct {
	row     kernel.Label
	under   *law.Law
	shop    shop.Settings
	version formula.Version
	panel   assess.Panel
	set     kernel.LabelFacts
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
	_, f.AddressWrong = x.shop.Business(x.under)
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
	if d.OwnClaims() && f.Nutrition != labelart.Shown {
		f.Nutrition = "" // a claim on nutrients takes the exemption away
	}
	x.pack(&f)
	return f
}

// pack describes the jar, or offers the shop's jars that hold the fill.
func (x setting) pack(f *labelart.Facts) {
	ml := x.version.FillVolume()
	if x.jar.Sized() {
		full := x.jar.Filled(ml)
		f.SurfaceCM2, f.Overfull, f.Fill = x.jar.SurfaceCM2(), full.Over, x.jar.Name
		if full.Says != "" {
			f.Fill += ": " + full.Says + "."
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

// content is what a label says for every batch alike.
func (x setting) content() labelart.Content {
	amount, unit := kernel.Nominal(x.version)
	c := labelart.Content{Law: x.under, Shop: x.shop.Name, ProductName: x.set.Name, LegalName: x.set.LegalName,
		List: x.set.List, Contains: x.set.Contains, Allergens: pantry.PlainAllergens(x.set.Allergens),
		NetQuantity: x.set.NetQuantity, Nominal: amount, Directions: x.set.Directions, Barcode: x.row.Design.Barcode,
		QR: x.row.Design.QR}
	c.Business, _ = x.shop.Business(x.under)
	if x.row.Design.Nutrition == labelart.Shown {
		c.Nutrition = x.panel.Nutrients.Panel(x.under, declaration.PanelAsk{Style: x.version.ProductStyle,
			DensityGPerML: x.version.DensityGPerML, NetGrams: x.version.NetGrams().Float(), ByVolume: unit == "ml",
			ServingGrams: x.row.Design.ServingGrams})
	}
	return c
}

func (x setting) claims(f *labelart.Facts) string {
	var words string
	f.Claims, words = x.row.Design.ClaimsUnder(x.panel, x.under)
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

// lay sets the label and says what stands against printing it.
func (a *Room) lay(st kernel.Store, v *LabelView, x setting, content labelart.Content, checked labelart.Facts) (drawn,
	error) {
	var d drawn
	mark, err := drawnMark(st)
	if err != nil {
		return d, err
	}
	design := labelart.Design{Form: x.row.Design.DrawnForm(), Colour: cmp.Or(x.row.Design.Colour, x.shop.Colour),
		Mark: mark,
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

func storage(s shop.Settings, v formula.Version, under *law.Law, verdict keeping.Verdict, pH *float64) string {
	days := s.OpenedDays
	if v.Keeping.AfterOpening > 0 {
		days = min(days, v.Keeping.AfterOpening)
	}
	return under.Storage(verdict.Condition, declaration.OpenedDays(days, verdict.Condition, pH, verdict.Days))
}

// labelBatch puts a batch's date, lot and state on the label. Until it is released, only HOLD is set.
func (a *Room) labelBatch(v *LabelView, c *labelart.Content, f *labelart.Facts, l *production.Loaded, under *law.Law) {
	row := l.Listed()
	summary := production.RowOf(row)
	v.Batch, v.Printed, v.Spoilt, v.doubt = &summary, l.Record.Printed, l.Record.Spoilt, row.Doubt()
	v.Jars = l.Row.Jars
	if l.Record.Fill != nil {
		v.Jars = l.Record.Fill.Jars
	}
	f.HasBatch = true
	c.Lot = declaration.LotText(under, l.Row.Code)
	verdict := l.Verdict(under)
	f.Released = l.Record.State == bench.Released || l.Record.OnlyWords() // for jars that get new labels
	f.HasReading = verdict.Days != nil && !verdict.Provisional
	c.Storage = storage(l.Book.Settings, l.Version, under, verdict, nil)
	if !f.Released {
		v.Hold = true
		return
	}
	var pH *float64
	if l.Record.Acidity.Value > 0 {
		value := l.Record.Acidity.Value
		pH = &value
	}
	c.Storage = storage(l.Book.Settings, l.Version, under, verdict, pH)
	c.UseBy = verdict.DateKind != nil && *verdict.DateKind == keeping.UseBy
	if verdict.Days == nil || verdict.DateKind == nil {
		return
	}
	last := l.Row.MadeOn.AddDate(0, 0, *verdict.Days)
	if today := day.Of(a.TodayIn(l.Book.Settings)); day.Of(last) >= today {
		c.DateLine = under.DateLine(*verdict.DateKind, l.Row.MadeOn, last)
	}
}

// labelBatches lists the newest batches the label can be set for, and those whose jars carry other words than it has
// now.
func (a *Room) labelBatches(st kernel.Store, v *LabelView, of labelled, now kernel.LabelFacts,
	s shop.Settings) error {
	rows, err := st.ListBatches(kernel.BatchQuery{Formula: v.Formula}, nil, production.PageOfBatches)
	if err != nil {
		return err
	}
	ids := make([]int64, len(rows))
	for i, r := range rows {
		v.Batches, ids[i] = append(v.Batches, production.RowOf(r)), r.Batch
	}
	prints, err := st.PrintsOf(ids)
	if err != nil {
		return err
	}
	today := day.Of(a.TodayIn(s))
	for _, r := range rows {
		mine := v.printsOf(r.Code, prints[r.Batch])
		carry := carrying(mine, r.Jars, now)
		if carry == 0 || of.version.Number != of.newest || r.LastDay != "" && r.LastDay < today {
			continue
		}
		if r.Version == of.newest { // a group, or what was added at the bench, gives a batch words of its own
			own, err := a.wordsFor(st, v.ID, r.Batch)
			if err != nil {
				return err
			}
			carry = carrying(mine, r.Jars, own)
		}
		if carry > 0 {
			v.Carry = append(v.Carry, Carrying{r.Batch, r.Code, carry})
		}
	}
	return nil
}

// printsOf picks this label's prints from a batch's, and notes the newest.
func (v *LabelView) printsOf(code string, all []bench.Entry) []*bench.Print {
	var out []*bench.Print
	for _, e := range all {
		p, ok := e.Body.(*bench.Print)
		if !ok || p.What != bench.PrintedLabel || p.Label != v.ID {
			continue
		}
		if v.Last == nil || e.At.After(v.Last.At) {
			v.Last = &LastPrint{e.At, code}
		}
		out = append(out, p)
	}
	return out
}

// carrying counts a batch's jars that carry other words than these: printed with others and not relabelled since.
func carrying(prints []*bench.Print, jars int, now kernel.LabelFacts) int {
	other, same := 0, 0
	for _, p := range prints {
		if kept, err := kernel.KeptOf(p); err == nil && kept.Facts().Words() == now.Words() {
			same += p.Count
		} else {
			other += p.Count
		}
	}
	return max(0, min(other, jars-same))
}

// wordsFor are the words of a label for one batch.
func (a *Room) wordsFor(st kernel.Store, id, batch int64) (kernel.LabelFacts, error) {
	row, err := st.Label(id)
	if err != nil {
		return kernel.LabelFacts{}, err
	}
	under, err := law.Of(row.Regime)
	if err != nil {
		return kernel.LabelFacts{}, err
	}
	of, err := a.labelled(st, row, batch)
	if err != nil {
		return kernel.LabelFacts{}, err
	}
	version, panel, err := a.asMade(st, of)
	return kernel.Facts(of.name, version, panel, under), err
}

// nextPlace finds the next free place on the sheet.
func nextPlace(st kernel.Store, v *LabelView) (err error) {
	if v.Paper.Kind == labelart.Sheet {
		v.Place, err = st.NextPlace(v.Paper.ID)
		v.Place = min(v.Place, v.Paper.PerSheet())
	}
	return err
}
