package production

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/judge"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"
)

// PlanAsk is what is wanted of a batch: a number of jars, or as many as a mass or the rest of a lot fills. What is nil
// takes its usual value: the vessel that the formula was last made in, the version's overfill and loss, the shop's
// samples.
type PlanAsk struct {
	formula.Ref
	Jars    int
	Grams   amount.Grams
	UseUp   string // a lot's code
	MadeOn  day.Day
	StartAt string
	Vessel  *int64
	Over    *amount.Percent
	Loss    *amount.Percent
	Samples *amount.Grams
}

// usualStart is when work begins unless somebody says otherwise.
const usualStart = "09:00"

// PlanBatch plans a batch of a locked version: loads that fit the vessel, and a target for each line.
func (a *Room) PlanBatch(ctx context.Context, ask PlanAsk) (BatchView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return BatchView{}, err
	}
	var l Loaded
	var read kernel.BatchRecord
	view, err := kernel.Once(ctx, a.Kernel, func(st kernel.Store) (BatchView, error) {
		d, err := a.draft(st, ask)
		if err != nil {
			return BatchView{}, err
		}
		b := d.batch
		b.CreatedBy = by
		if err := st.LockBatches(); err != nil {
			return BatchView{}, err
		}
		if b.Code, err = freshCode(st, b.MadeOn); err != nil {
			return BatchView{}, err
		}
		if err := st.AddBatch(&b); err != nil {
			return BatchView{}, err
		}
		if l, read, err = a.opens(st, b.ID, "", nil); err != nil {
			return BatchView{}, err
		}
		if err := a.settleAfter(ctx, st, []Loaded{l}, nil); err != nil {
			return BatchView{}, err
		}
		return l.View(), nil
	})
	if err == nil {
		a.Desk.keep(l.desk, read)
	}
	return view, err
}

// drafted is a plan that nobody has confirmed yet.
type drafted struct {
	batch   kernel.Batch
	version formula.Version
	lib     formula.Library
	nodes   []formula.Node
	size    bench.Size
	ask     bench.Ask
	book    catalog.Book
	start   time.Time
	vessels []kernel.Vessel
	kitchen *kitchen
	aim     *kernel.AimedAt // what its jars are filled to since somebody said so
}

// draft scales a locked version to what is wanted. Errors name the field that is wrong.
func (a *Room) draft(st kernel.Store, ask PlanAsk) (drafted, error) {
	d, err := a.draftOf(st, ask.Ref)
	if err != nil {
		return d, err
	}
	day, err := a.dayOf(d.book.Settings, ask, &d)
	if err != nil {
		return d, err
	}
	n, err := a.needOf(st, ask, &d)
	if err != nil {
		return d, err
	}
	if n.Jars, err = a.jarsOf(st, ask, d, n); err != nil {
		return d, err
	}
	if err := a.sizeHolds(st, d.version, n.Jars); err != nil {
		return d, err
	}
	targets, planned, size, err := bench.Plan(d.version, d.nodes, n)
	if err != nil {
		return d, kernel.MistakeOf(err)
	}
	d.size = size
	d.ask, _ = bench.AskOf(d.version, n.Jars, n)
	bench.WidenGroups(targets, d.version, d.lib)
	onTop, err := d.lib.OnTop(d.version)
	if err != nil {
		return d, kernel.Mistake("version", "%s", err.Error())
	}
	targets = append(targets, bench.OnTop(onTop, n.Jars)...)
	planned.StartAt = d.start.Format("15:04")
	d.batch = kernel.Batch{FormulaID: ask.Formula, Version: ask.Version, Jars: n.Jars, MadeOn: day, Targets: targets,
		Planned: planned}
	if d.kitchen, err = a.kitchen(st, d.book, d.version, targets, day); err != nil {
		return d, err
	}
	d.hotLines()
	return d, d.errands(st)
}

// draftOf reads what a plan of a version needs.
func (a *Room) draftOf(st kernel.Store, ref formula.Ref) (drafted, error) {
	d := drafted{}
	row, err := st.Version(ref)
	if errors.Is(err, kernel.ErrNotFound) {
		return d, kernel.Mistake("version", "there is no version %d of this formula", ref.Version)
	}
	if err != nil {
		return d, err
	}
	if row.State != formula.Locked {
		return d, kernel.Mistake("version", "a batch is made from a locked version; lock version %d first", ref.Version)
	}
	d.version = row.Core()
	if d.book, err = a.Catalog.Book(st); err != nil {
		return d, err
	}
	if d.lib, err = kernel.Library(st, d.version); err != nil {
		return d, err
	}
	d.nodes, err = d.lib.Expand(d.version)
	return d, catalog.LineProblem(err)
}

// dayOf reads the day and the hour of a plan.
func (a *Room) dayOf(s shop.Settings, ask PlanAsk, d *drafted) (time.Time, error) {
	on, err := pantry.ParseDay(ask.MadeOn)
	if err != nil {
		return on, kernel.Mistake("made_on", "a day as in 2026-11-25")
	}
	if day.Of(on) > day.Of(a.TodayIn(s).AddDate(0, 0, farthestPlan)) {
		return on, kernel.Mistake("made_on", "a batch is planned at most %d days ahead", farthestPlan)
	}
	at := ask.StartAt
	if at == "" {
		at = usualStart
	}
	clock, err := time.Parse("15:04", at)
	if err != nil {
		return on, kernel.Mistake("start_at", "an hour as in 09:30")
	}
	d.start = time.Date(on.Year(), on.Month(), on.Day(), clock.Hour(), clock.Minute(), 0, 0, s.Zone())
	return on, nil
}

// needOf returns what the plan is computed from besides its jars.
func (a *Room) needOf(st kernel.Store, ask PlanAsk, d *drafted) (bench.Need, error) {
	s := d.book.Settings
	n := bench.NeedOf(d.version, ask.Jars)
	n.Samples = s.SampleGrams
	aim, aimed, err := st.LastAim(ask.Ref)
	if err != nil {
		return n, err
	}
	if aimed {
		n.Over, d.aim = judge.Overfill(d.version, aim.Grams), &aim
	}
	n.Scale, n.Fine = s.Scales()
	n.Vessel.Residue = s.Residue
	percent := func(name string, into *amount.Percent, p *amount.Percent, most float64) error {
		if p == nil {
			return nil
		}
		if p.IsNegative() || p.Float() > most {
			return kernel.Mistake(name, "between 0 and %g %%", most)
		}
		*into = *p
		return nil
	}
	if err := errors.Join(percent("overfill_percent", &n.Over, ask.Over, 50),
		percent("loss_percent", &n.Loss, ask.Loss, 50)); err != nil {
		return n, err
	}
	if ask.Samples != nil {
		if n.Samples = *ask.Samples; n.Samples.IsNegative() || n.Samples.Float() > 100_000 {
			return n, kernel.Mistake("sample_g", "between 0 and 100 kg")
		}
	}
	n.Vessel, err = a.vesselFor(st, ask, d, n.Vessel)
	return n, err
}

// vesselFor returns the named vessel, or the formula's usual one; its name is empty if there is none.
func (a *Room) vesselFor(st kernel.Store, ask PlanAsk, d *drafted, none bench.Vessel) (bench.Vessel, error) {
	all, err := st.Vessels()
	if err != nil {
		return none, err
	}
	d.vessels = slices.DeleteFunc(all, func(v kernel.Vessel) bool { return v.Retired || !v.Greatest.IsPositive() })
	want := int64(-1)
	if ask.Vessel != nil {
		want = *ask.Vessel
	} else if want, err = st.LastVessel(ask.Formula); err != nil {
		return none, err
	}
	for _, v := range d.vessels {
		if v.ID == want {
			return bench.Vessel{ID: v.ID, Name: v.Name, Least: v.Least, Greatest: v.Greatest, Residue: v.Residue}, nil
		}
	}
	if ask.Vessel != nil && want != 0 {
		return none, kernel.Mistake("vessel", "this vessel is not there, or nobody said what it takes")
	}
	return none, nil
}

// jarsOf returns how many jars are wanted if a mass or a lot decides that.
func (a *Room) jarsOf(st kernel.Store, ask PlanAsk, d drafted, n bench.Need) (int, error) {
	if ask.Grams.IsZero() && ask.UseUp == "" {
		return ask.Jars, nil
	}
	n.Jars = 1
	size, err := bench.AskOf(d.version, 1, n)
	if err != nil {
		return 0, kernel.MistakeOf(err)
	}
	in := ask.Grams.Exact()
	if ask.UseUp != "" {
		if in, err = a.inOfLot(st, ask, d); err != nil {
			return 0, err
		}
	}
	if !in.IsPositive() || in.Float() > amount.MaxGrams {
		return 0, kernel.Mistake("grams", "above zero and at most 10 000 kg")
	}
	jars := size.JarsFrom(in)
	if jars < 1 {
		return 0, kernel.Mistake("grams", "this is less than one jar takes")
	}
	return jars, nil
}

// inOfLot returns the size of a batch that uses up a lot.
func (a *Room) inOfLot(st kernel.Store, ask PlanAsk, d drafted) (amount.Exact, error) {
	w := a.larder(d.book)
	of := Loaded{Version: d.version, Lib: d.lib}
	for _, l := range d.version.Lines {
		wants, err := w.wantedBy(st, of, l.ID)
		if err != nil {
			return amount.Exact{}, err
		}
		c, err := w.find(st, wants[0], ask.UseUp)
		if err != nil {
			var p kernel.Problem
			if errors.As(err, &p) {
				continue
			}
			return amount.Exact{}, err
		}
		if c.WhyNot != "" {
			return amount.Exact{}, kernel.Mistake("use_up", "%s is not used: %s", c.Code, c.WhyNot)
		}
		return c.Reaches.Exact().Over(l.Grams.Exact()).Times(d.version.GramsIn().Exact()), nil
	}
	return amount.Exact{}, kernel.Mistake("use_up", "no lot of this product's ingredients is called %q",
		field.Clip(ask.UseUp))
}

// farthestPlan is how many days ahead a batch may be planned.
const farthestPlan = 366

// sizeHolds refuses a size at which lines that scale less than the rest lift the estimate's high end above the target
// (handbook 03).
func (a *Room) sizeHolds(st kernel.Store, v formula.Version, jars int) error {
	if !v.ScalesLess() || jars < 1 {
		return nil
	}
	at, err := a.atSize(st, v, jars)
	if err != nil {
		return err
	}
	if high := at.Panel.PH.High; high != nil && *high > v.PHTarget {
		return kernel.Mistake("jars",
			"at %d jars the lines that scale less leave the top of the band at pH %.2f, over the target of %.2f; plan a smaller batch or let them grow with it", jars, *high, v.PHTarget)
	}
	return nil
}

// SizeView is a version at a planned size.
type SizeView struct {
	Jars    int             `json:"jars"`
	Version formula.Version `json:"version"`
	Panel   assess.Panel    `json:"panel"`
	Less    bool            `json:"scales_less"`
}

// AtSize shows a version's lines, percents and panel at the size of a batch of that many jars.
func (a *Room) AtSize(ctx context.Context, ref formula.Ref, jars int) (SizeView, error) {
	st := a.On(ctx)
	if jars < 1 || jars > 100_000 {
		return SizeView{}, kernel.Mistake("jars", "between 1 and 100 000 jars")
	}
	row, err := st.Version(ref)
	if err != nil {
		return SizeView{}, err
	}
	return a.atSize(st, row.Core(), jars)
}

func (a *Room) atSize(st kernel.Store, v formula.Version, jars int) (SizeView, error) {
	out := SizeView{Jars: jars, Version: v, Less: v.ScalesLess()}
	if v.FinishedGrams().IsPositive() && v.JarGrams().IsPositive() {
		finished := v.JarGrams().Times(amount.Whole(int64(jars)))
		out.Version = v.AtSize(finished.Times(v.GramsIn().Exact()).Over(v.FinishedGrams()))
	}
	var err error
	out.Panel, err = a.Catalog.Panel(st, out.Version)
	return out, catalog.LineProblem(err)
}

// freshCode returns a new lot code: year, day of the year, and a letter for each batch of the day.
func freshCode(st kernel.Store, day time.Time) (string, error) {
	taken, err := st.CodesOn(day)
	if err != nil {
		return "", err
	}
	stem := fmt.Sprintf("%s-%03d-", day.Format("06"), day.YearDay())
	for n := 0; ; n++ {
		letter := string(rune('A' + n%26))
		if n >= 26 {
			letter = string(rune('A'+(n/26-1)%26)) + letter
		}
		if n >= 26*27 {
			return "", kernel.Mistake("made_on", "too many batches on one day")
		}
		if !slices.Contains(taken, stem+letter) {
			return stem + letter, nil
		}
	}
}
