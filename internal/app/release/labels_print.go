package release

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/field"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/shop"
)

// jobOf is the name of a run for a printer: one word.
func jobOf(key string) string { return fmt.Sprintf("%x", kernel.DigestOf(key))[:24] }

// notePrint writes a print run into the batch record with what the label said, once under its key.
func (a *Room) notePrint(ctx context.Context, st kernel.Store, v LabelView, batchID int64, print bench.Print,
	key string) error {
	digest := kernel.DigestOf(bench.Print{Label: print.Label, What: print.What, Count: print.Count,
		Printer: print.Printer,
		Part:    print.Part})
	before, err := st.EntryKey(batchID, key)
	if err != nil {
		return err
	}
	if before != nil {
		if !production.Same(before, digest) {
			return kernel.OtherContent()
		}
		return nil
	}
	if print.Kept, err = json.Marshal(keptLabel(v)); err != nil {
		return err
	}
	who := kernel.Actor(ctx)
	entry := bench.Entry{At: a.Now(), By: who.Name, Role: who.Role, Body: &print}
	if _, err := st.AddEntry(batchID, entry, key, digest); err != nil {
		return production.EntryKeyTaken(err)
	}
	return a.Production.Judge(ctx, st, batchID)
}

// Artwork is the label as a PDF for a printing house, with the place for date and lot left free. It is not logged.
// Errors: Problem of kind Refused where a legal point fails or is unanswered.
func (a *Room) Artwork(ctx context.Context, id int64) (kernel.PrintRun, error) {
	v, d, err := a.setLabel(a.On(ctx), id, 0)
	if err != nil {
		return kernel.PrintRun{}, err
	}
	if len(v.Block) > 0 {
		return kernel.PrintRun{}, kernel.Refuse("label_fails", "Not drawn. %s", v.Block[0])
	}
	var b bytes.Buffer
	single := labelart.Stock{Kind: labelart.Single, WidthMM: v.WidthMM, HeightMM: v.HeightMM}
	stock, err := d.stock()
	if err != nil {
		return kernel.PrintRun{}, err
	}
	if !stock.Fits() {
		return kernel.PrintRun{}, kernel.Refuse("label_fails", "Not drawn. %s", stock.Advice())
	}
	_, err = stock.Print(&b, single, 1, 1, v.FormulaName)
	return kernel.PrintRun{PDF: b.Bytes(), Name: "artwork-" + field.Slug(v.FormulaName) + ".pdf"}, err
}

// PrintAsk is a run of labels to be printed. From is the place on the first sheet, 0 for the next free one. Sure says
// that more labels than jars are meant. Printer is one of the shop's, or empty for a PDF.
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

// The greatest run, and how many spare labels may be printed without a question, since a few are spoilt.
const (
	mostLabels  = 2000
	spareLabels = 5
	spareShare  = 10 // a tenth of the jars
)

// Print draws a batch's labels as a PDF, sends them to a printer if one is named, and logs the run once in the batch
// record. While the batch is on hold, only HOLD stickers are printed. A label with a failed legal point is not printed.
func (a *Room) Print(ctx context.Context, id int64, ask PrintAsk, key string) (kernel.PrintRun, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return kernel.PrintRun{}, err
	}
	on, err := a.labelPrinter(ctx, ask.Printer)
	if err != nil {
		return kernel.PrintRun{}, err
	}
	switch {
	case ask.Count < 1 || ask.Count > mostLabels:
		return kernel.PrintRun{}, kernel.Mistake("count", "between 1 and %d labels", mostLabels)
	case ask.Batch == 0:
		return kernel.PrintRun{}, kernel.Mistake("batch",
			"choose the batch to print for: the date and the lot come from it")
	case key == "" || len(key) > 100:
		return kernel.PrintRun{}, kernel.Mistake("key", "an idempotency key has 1 to 100 characters")
	}
	var out kernel.PrintRun
	err = a.In(ctx, func(st kernel.Store) error {
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
		out.Said, err = a.Production.Instruments.Ask(ctx, *on, fmt.Sprintf("print %s %d %d", jobOf(key), out.Pages,
			b.Len()),
			b.Bytes())
		return production.DeviceProblem(err)
	})
	return out, err
}

// labelPrinter is the printer a run goes to, or nil for a PDF. A run is logged once the printer has confirmed it; sent
// again under its key, it is not printed twice.
func (a *Room) labelPrinter(ctx context.Context, id string) (*shop.Device, error) {
	if id == "" {
		return nil, nil //nolint:nilnil // a PDF needs none
	}
	d, err := a.Production.Device(ctx, id)
	if err != nil || d.Kind != shop.Printer {
		return nil, kernel.Mistake("printer", "choose one of the shop's label printers")
	}
	if d.Address == "" && !a.Production.StandIns {
		return nil, kernel.Mistake("printer", "%s is a stand-in that prints nothing: give it the address of yours",
			d.Name)
	}
	return &d, nil
}

// run makes the record of a run, or says what stands against it.
func (a *Room) run(st kernel.Store, v LabelView, id int64, ask PrintAsk, key string) (bench.Print, error) {
	run := bench.Print{Label: id, What: bench.PrintedLabel, Count: ask.Count, Stock: v.Paper.ID}
	if v.Hold {
		run.What = bench.PrintedHold
	} else if len(v.Block) > 0 {
		return run, kernel.Refuse("label_fails", "Not printed. %s", v.Block[0])
	}
	if ask.Part != "" && ask.Part != PartDate {
		return run, kernel.Mistake("part", "the whole label, or the date alone")
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
		return run, kernel.Refuse("more_than_jars",
			"%d labels for %s that still %s one: %s filled, %d printed, %d of them spoilt. Print fewer, or say that you mean it.",
			ask.Count, kernel.Plural(max(0, lack), "jar"), lacks(lack), kernel.Plural(v.Jars, "jar"), v.Printed,
			v.Spoilt)
	}
	if v.Paper.Kind == labelart.Sheet {
		run.From = cmp.Or(ask.From, v.Place)
		if before != nil { // the same sheet again
			if run.From, err = st.PlaceOf(ask.Batch, key); err != nil {
				return run, err
			}
		}
		if run.From < 1 || run.From > v.Paper.PerSheet() {
			return run, kernel.Mistake("from", "a place of the sheet, 1 to %d", v.Paper.PerSheet())
		}
	}
	return run, nil
}

// mayTakeDate refuses stock whose printed words are not those the batch needs.
func (v LabelView) mayTakeDate(edition string) error {
	edition = strings.ToUpper(strings.TrimSpace(edition))
	switch {
	case v.content.MayContain != "":
		return kernel.Refuse("overprint",
			"Not printed. Labels printed before do not bear “%s”, which this batch needs: "+
				"print whole labels.", v.content.MayContain)
	case edition == "":
		return kernel.Mistake("edition", "type the edition that stands on the stock, behind the address")
	case edition != v.edition():
		return kernel.Mistake("edition", "edition %s has other words than this batch needs: print whole labels",
			field.Clip(edition))
	}
	return nil
}

func lacks(n int) string {
	if n == 1 {
		return "lacks"
	}
	return "lack"
}

// drawRun writes the PDF and notes the last place used on the sheet.
func drawRun(b *bytes.Buffer, v LabelView, d drawn, run *bench.Print, ask PrintAsk) (kernel.PrintRun, error) {
	prints := d.prints()
	if ask.Part == PartDate && !v.Hold {
		stock, err := d.stock()
		if err != nil {
			return kernel.PrintRun{}, err
		}
		if prints, err = stock.Overprint(v.content.DateLine, v.content.Lot); err != nil {
			return kernel.PrintRun{}, kernel.Refuse("overprint", "Not printed. %s.", kernel.Capital(err.Error()))
		}
		run.Part = PartDate
	}
	drawn, err := prints.Print(b, v.Paper, ask.Count, max(1, run.From), v.FormulaName+" "+v.Batch.Code)
	if err != nil {
		return kernel.PrintRun{}, err
	}
	if v.Paper.Kind == labelart.Sheet {
		run.Next = drawn.Next
	}
	return kernel.PrintRun{PDF: b.Bytes(), Name: fmt.Sprintf("%s-%s.pdf", run.What, v.Batch.Code),
		Pages: drawn.Pages}, nil
}

// Spoil counts a batch's labels that were printed and thrown away, once per key.
func (a *Room) Spoil(ctx context.Context, id, batch int64, count int, key string) (LabelView, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return LabelView{}, err
	}
	if key == "" || len(key) > 100 {
		return LabelView{}, kernel.Mistake("key", "an idempotency key has 1 to 100 characters")
	}
	var out LabelView
	err := a.In(ctx, func(st kernel.Store) error {
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
			return kernel.Mistake("spoilt", "between 1 and the %d that were printed", most)
		}
		run := bench.Print{Label: id, What: bench.PrintedSpoilt, Count: count}
		if err := a.notePrint(ctx, st, v, batch, run, key); err != nil {
			return err
		}
		out, err = a.labelView(st, id, batch)
		return err
	})
	return out, err
}
