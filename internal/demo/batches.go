package demo

import (
	"context"
	"fmt"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/people"
)

// story is one batch as it went. Days count back from today; readings are the mean pH of first and last jar.
type story struct {
	formula   string
	version   int
	daysAgo   int
	jars      int
	short     int     // jars fewer than planned
	firstDay  float64 // 0: none taken
	equi      float64 // 0: none taken
	spread    float64 // last jar below the first
	decision  string  // released, rejected, or empty for on hold
	reason    string
	perished  int // days that the freshest-ending lot had left at making
	unweighed bool
	atBench   bool
}

// left are the days that the freshest-ending lot has left when it is weighed.
func (s story) left() int {
	if s.perished == 0 {
		return 45
	}
	return s.perished
}

// stories are three months of batches in different states.
var stories = []story{
	{"ginger_paste", 1, 90, 4, 0, 0, 3.24, 0.01, "released", "", 30, false, false},
	{"carrot_miso_dressing", 1, 88, 40, 1, 0, 4.05, 0.02, "released", "", 16, false, false},
	{"ginger_paste", 2, 80, 4, 0, 0, 3.21, 0.01, "released", "", 30, false, false},
	{"carrot_miso_dressing", 2, 74, 48, 0, 0, 4.01, 0.03, "released", "", 14, false, false},
	{"beetroot_horseradish_dip", 1, 70, 48, 2, 0, 4.61, 0.05, "rejected",
		"Highest jar over the limit; poured away, 46 jars washed.", 18, false, false},
	{"beetroot_horseradish_dip", 2, 58, 48, 1, 0, 4.03, 0.02, "released", "", 24, false, false},
	{"tamarind_date_dressing", 1, 52, 36, 0, 0, 3.24, 0.01, "released", "", 0, false, false},
	{"hazelnut_kale_pesto", 1, 45, 30, 1, 0, 4.09, 0.04, "released", "", 0, false, false},
	{"smoky_lime_yolk_dressing", 1, 40, 24, 0, 0, 3.62, 0.02, "released", "", 35, false, false},
	{"lentil_tahini_dip", 1, 30, 48, 2, 0, 3.88, 0.02, "released", "", 4, false, false},
	{"ginger_paste", 2, 26, 8, 0, 0, 3.21, 0.01, "released", "", 30, false, false},
	{"carrot_miso_dressing", 3, 24, 60, 1, 0, 3.92, 0.02, "released", "", 40, false, false},
	{"beetroot_horseradish_dip", 2, 18, 48, 0, 0, 4.06, 0.03, "released", "", 25, false, false},
	{"carrot_miso_dressing", 3, 12, 60, 2, 0, 3.95, 0.02, "released", "", 40, false, false},
	{"lime_garlic_base", 1, 11, 5, 0, 0, 2.64, 0.02, "released", "", 0, false, false},
	{"pumpkin_cumin_spread", 1, 9, 40, 1, 0, 3.71, 0.03, "released", "", 16, false, true},
	{"hazelnut_kale_pesto", 2, 6, 36, 1, 0, 3.78, 0.03, "released", "", 0, false, true},
	{"tamarind_date_dressing", 1, 5, 36, 0, 0, 3.22, 0.01, "released", "", 0, false, true},
	{"lentil_tahini_dip", 1, 1, 48, 1, 4.16, 0, 0.02, "", "", 5, false, false},
	{"smoky_lime_yolk_dressing", 1, 0, 24, 0, 0, 0, 0, "", "", 30, true, false},
}

// teller writes one batch's entries at their own times.
type teller struct {
	ctx context.Context
	app *app.App
	id  int64
	n   int
	tag string
}

// fewJars are made in a jug, more in the cutter.
const fewJars = 10

func (r *room) vessel(jars int) *int64 {
	id := r.cutter
	if jars <= fewJars {
		id = r.jug
	}
	return &id
}

func (t *teller) write(at time.Time, by people.Person, e bench.Entry) error {
	then := t.app.At(func() time.Time { return at })
	t.n++
	if d, ok := e.Body.(*bench.Decided); ok {
		b, err := then.Production.Batch(t.ctx, t.id)
		if err != nil {
			return err
		}
		d.Seen = b.Record.Last
	}
	told := func(func() production.BatchView) {}
	return then.Production.Write(kernel.As(t.ctx, by), t.id, e, fmt.Sprintf("demo-%s-%d", t.tag, t.n), told)
}

// tell writes one batch as it went and returns its id.
func (r *room) tell(now time.Time, n int, s story) (int64, error) {
	ctx, a := r.ctx, r.app
	made := time.Date(now.Year(), now.Month(), now.Day(), 9, 0, 0, 0, now.Location()).AddDate(0, 0, -s.daysAgo)
	if made.After(now) {
		made = now
	}
	then := at(a, made)
	b, err := then.Production.PlanBatch(ctx, production.PlanAsk{Ref: formula.Ref{Formula: s.formula,
		Version: s.version}, Jars: s.jars,
		MadeOn: day.Of(made), Vessel: r.vessel(s.jars)})
	if err != nil {
		return 0, err
	}
	t := &teller{ctx: ctx, app: a, id: b.ID, tag: fmt.Sprint(n)}
	from, err := r.larder.buy(b, made, s.left())
	if err != nil {
		return b.ID, err
	}
	weigh := func() error { return t.weigh(b, made, s, from) }
	if s.atBench {
		weigh = func() error { return t.weighAtBench(b, made) }
	}
	if err := weigh(); err != nil || s.unweighed {
		return b.ID, err
	}
	return b.ID, t.finish(now, made, n, s)
}

// finish fills, reads and decides.
func (t *teller) finish(now, made time.Time, n int, s story) error {
	filled := made.Add(3 * time.Hour)
	if filled.After(now) {
		filled = now
	}
	if err := t.write(filled, helper, bench.Entry{Body: &bench.Fill{Jars: s.jars - s.short, Rejected: s.short,
		At: filled}}); err != nil {
		return err
	}
	if err := t.count(filled, s); err != nil {
		return err
	}
	if s.firstDay > 0 {
		if err := t.read(filled.Add(20*time.Minute), 1, s.firstDay, s.spread, s.formula); err != nil {
			return err
		}
	}
	if s.equi == 0 {
		return nil
	}
	read := filled.Add(26 * time.Hour)
	if err := t.read(read, 1, s.equi, s.spread, s.formula); err != nil {
		return err
	}
	if s.decision == "" {
		return nil
	}
	by := []people.Person{owner, maker, second}[n%3]
	if s.decision != bench.Released {
		by = owner
	}
	return t.write(read.Add(time.Hour), by,
		bench.Entry{Body: &bench.Decided{State: s.decision, Reason: s.reason}})
}

// count weighs full jars and says where the grams went.
func (t *teller) count(at time.Time, s story) error {
	b, err := t.app.Production.Batch(t.ctx, t.id)
	if err != nil {
		return err
	}
	w := bench.NetWeights{Tare: amount.MustGrams("121.5"), Scale: "Bench scale"}
	for i := range b.Asked {
		net := b.Net.Nominal.Float() + 1.4 + float64(wobble[(i+int(t.id))%len(wobble)])/3
		w.Gross = append(w.Gross, w.Tare.Plus(amount.G(amount.HalfUp(net, 1))))
	}
	if err := t.write(at.Add(10*time.Minute), helper, bench.Entry{Body: &w}); err != nil {
		return err
	}
	if b, err = t.app.Production.Batch(t.ctx, t.id); err != nil || b.Balance == nil {
		return err
	}
	c := bench.Counted{Seals: s.jars, Clean: true}
	if left := amount.HalfUp(b.Balance.Unexplained.Float()-b.Balance.In.Float()*0.008, 0); left > 0 {
		c.Residue = amount.G(min(left, mostLeft))
		if left > mostLeft {
			c.Reason = "A tub for the staff table."
		}
	}
	return t.write(at.Add(25*time.Minute), helper, bench.Entry{Body: &c})
}

// mostLeft is what stays in a vessel at most.
const mostLeft = 400.0

// wobble is a small deviation that differs from line to line, in thousandths of the target.
var wobble = []int64{0, 3, -2, 5, -4, 1, -6, 2}

func (t *teller) weigh(b production.BatchView, made time.Time, s story, from map[string][]production.Candidate) error {
	for i, l := range b.Record.Lines {
		if s.unweighed && i >= 3 {
			return nil
		}
		grams := amount.G(amount.HalfUp(l.Grams.Float()*(1+float64(wobble[(i+int(t.id))%len(wobble)])/1000), 1))
		w := bench.Weighing{Line: l.Line, Grams: grams, Draws: draws(grams, from[l.Line])}
		if err := t.write(made.Add(time.Duration(5+i*4)*time.Minute), helper, bench.Entry{Body: &w}); err != nil {
			return err
		}
	}
	return nil
}

// read checks the meter and takes two readings on the first and the last jar.
func (t *teller) read(at time.Time, sample int, ph, spread float64, formulaID string) error {
	then := t.app.At(func() time.Time { return at })
	ctx := kernel.As(t.ctx, maker)
	check, err := then.Production.CheckMeter(ctx, "Bench meter", acidity.InMV(172.6, -1.4, 22),
		at.Add(-10*time.Minute))
	if err != nil {
		return err
	}
	preparation, fraction := "semi_solid", "paste"
	if formulaID == "carrot_miso_dressing" || formulaID == "tamarind_date_dressing" {
		preparation, fraction = "pourable", "water layer"
	}
	b, err := then.Production.Batch(t.ctx, t.id)
	if err != nil {
		return err
	}
	jars := []string{acidity.FirstJar, acidity.FirstJar, acidity.LastJar, acidity.LastJar}
	for i := range len(jars) * len(b.Record.Loads) {
		jar := jars[i%len(jars)]
		value := ph + 0.01*float64(i%2)
		if jar == acidity.LastJar {
			value -= spread
		}
		r := acidity.Reading{Load: 1 + i/len(jars), Jar: jar, Sample: sample, Preparation: preparation,
			Fraction: fraction, PH: value, Celsius: 22, MeterCheck: check.ID,
			At: at.Add(time.Duration(i) * time.Minute)}
		if err := t.write(at.Add(time.Duration(i)*time.Minute), maker, bench.Entry{Body: &r}); err != nil {
			return err
		}
	}
	later := t.app.At(func() time.Time { return at.Add(20 * time.Minute) })
	_, err = later.Production.CloseMeter(ctx, check.ID, 4.02, 22)
	return err
}
