package demo

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/people"
)

// The made-up people. Their PINs stand on the demo's sign-in page, and nowhere else.
var (
	owner  = people.Person{Name: "Ines", Role: people.Owner}
	maker  = people.Person{Name: "Bram", Role: people.Maker}
	second = people.Person{Name: "Noor", Role: people.Maker}
	helper = people.Person{Name: "Ola", Role: people.Helper}
)

// MadeUp are the demo's people with their PINs.
func MadeUp() []office.MadeUp {
	return []office.MadeUp{{Name: owner.Name, Secret: "274910"}, {Name: maker.Name, Secret: "583026"},
		{Name: second.Name, Secret: "916408"}, {Name: helper.Name, Secret: "350279"}}
}

// Owner is the name that the demo's address signs in.
func Owner() string { return owner.Name }

// hire lets the made-up people work here.
func hire(ctx context.Context, a *app.App) error {
	pins := MadeUp()
	if _, err := a.Office.FirstOwner(ctx, pins[0].Name, pins[0].Secret); err != nil {
		return fmt.Errorf("demo people: %w", err)
	}
	for i, p := range []people.Person{maker, second, helper} {
		if _, err := a.Office.AddPerson(kernel.As(ctx, owner), p.Name, p.Role, pins[i+1].Secret); err != nil {
			return fmt.Errorf("demo people: %w", err)
		}
	}
	return nil
}

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

// Load fills an empty shop with the demo; it does nothing where there is a shop already.
func Load(ctx context.Context, a *app.App) error {
	shop, err := a.Office.Shop(ctx)
	if err != nil || shop.SetUp {
		return err
	}
	a = a.At(a.Now)
	a.Production.StandIns = true // its scale is made up like all of it
	b, err := Bundle()
	if err != nil {
		return err
	}
	if err := hire(ctx, a); err != nil {
		return err
	}
	ctx = kernel.As(ctx, owner)
	if _, err := a.Office.Import(ctx, b, true); err != nil {
		return fmt.Errorf("demo bundle: %w", err)
	}
	if err := keepShopTime(ctx, a); err != nil {
		return err
	}
	if err := vessels(ctx, a); err != nil {
		return err
	}
	if err := prepare(ctx, a); err != nil {
		return err
	}
	return tellAll(ctx, a)
}

// keepShopTime lets the clock tell the time where the shop is: its days are not those of the machine.
func keepShopTime(ctx context.Context, a *app.App) error {
	shop, err := a.Office.Shop(ctx)
	if err != nil {
		return err
	}
	zone, err := time.LoadLocation(shop.TimeZone)
	if err != nil {
		return fmt.Errorf("demo time zone: %w", err)
	}
	clock := a.Now
	a.Now = func() time.Time { return clock().In(zone) }
	return nil
}

// prepare gives what was written down before the first batch: documents, prices, and who read which packet.
func prepare(ctx context.Context, a *app.App) error {
	if err := attach(ctx, a); err != nil {
		return err
	}
	if err := price(ctx, a, "olive_oil_extra_virgin", "Pellow Oils", "5000", "ml", "46.5"); err != nil {
		return err
	}
	if err := lookAtAll(ctx, a); err != nil {
		return err
	}
	return nil
}

// tellAll tells the batches, and what happened to the shop with them.
func tellAll(ctx context.Context, a *app.App) error {
	now := a.Now()
	room, err := furnish(ctx, a)
	if err != nil {
		return err
	}
	for i, s := range stories {
		id, err := room.tell(now, i, s)
		if err != nil {
			return fmt.Errorf("demo batch %d of %s: %w", i+1, s.formula, err)
		}
		if err := room.sell(now, id, s); err != nil {
			return fmt.Errorf("demo jars of batch %d of %s: %w", i+1, s.formula, err)
		}
	}
	if err := room.tellCallBack(now); err != nil {
		return fmt.Errorf("demo call-back: %w", err)
	}
	if err := room.shelves(now); err != nil {
		return fmt.Errorf("demo stock: %w", err)
	}
	if err := withdraw(ctx, a, now); err != nil {
		return fmt.Errorf("demo document: %w", err)
	}
	if err := room.dangers(now); err != nil {
		return err
	}
	slog.Info("demo shop loaded", "batches", len(stories)+3)
	if err := outdate(ctx, a); err != nil {
		return err
	}
	if err := gainEgg(ctx, a); err != nil {
		return err
	}
	if err := drill(ctx, a, now); err != nil {
		return fmt.Errorf("demo drill: %w", err)
	}
	return nil
}

// at is the shop at a time.
func at(a *app.App, when time.Time) *app.App {
	return a.At(func() time.Time { return when })
}

// tellCallBack tells of a batch that was released on its first readings, with labels on its jars, and failed the next
// day. It is being worked off: the jars are marked, and one was read again.
func (r *room) tellCallBack(now time.Time) error {
	ctx, a := r.ctx, r.app
	s := story{formula: "beetroot_horseradish_dip", version: 2, daysAgo: 2, jars: 48, short: 1, firstDay: 4.02,
		spread: 0.03, perished: 22}
	made := time.Date(now.Year(), now.Month(), now.Day(), 8, 0, 0, 0, now.Location()).AddDate(0, 0, -s.daysAgo)
	id, err := r.tell(now, len(stories), s)
	if err != nil {
		return err
	}
	t := &teller{ctx: ctx, app: a, id: id, tag: "back"}
	released := made.Add(6 * time.Hour)
	if err := t.write(released, owner, bench.Entry{Body: &bench.Decided{State: bench.Released}}); err != nil {
		return err
	}
	labels, err := a.Release.Labels(ctx)
	if err != nil {
		return err
	}
	for _, l := range labels {
		if l.Formula != s.formula || l.Regime != law.GB {
			continue
		}
		if _, err := at(a, released.Add(10*time.Minute)).Release.Print(ctx, l.ID,
			release.PrintAsk{Batch: id, Count: s.jars - s.short}, "demo-back"); err != nil {
			return err
		}
	}
	if err := r.sendBack(t, released.Add(2*time.Hour)); err != nil {
		return err
	}
	if err := t.read(made.Add(30*time.Hour), 1, 4.66, 0.05, s.formula); err != nil {
		return err
	}
	for _, l := range labels {
		if l.Formula != s.formula || l.Regime != law.GB {
			continue
		}
		if _, err := at(a, made.Add(31*time.Hour)).Release.Print(kernel.As(ctx, maker), l.ID,
			release.PrintAsk{Batch: id, Count: 31}, "demo-marked"); err != nil {
			return err
		}
	}
	return nil
}

// withdraw attaches a study after the fact and takes it back: what was decided before keeps its dates.
func withdraw(ctx context.Context, a *app.App, now time.Time) error {
	days := 75
	e, err := at(a, now.AddDate(0, 0, -4)).Release.Attach(ctx, kernel.Evidence{FormulaID: "hazelnut_kale_pesto",
		Document: keeping.Document{Kind: keeping.QualityStudy, Title: "Own study at 5 °C, ten pulls", Days: &days,
			Versions: []int{1, 2}}, FileName: "pesto-study.txt", MediaType: "text/plain",
		Content:     []byte("Own keeping study, ten pulls at 5 °C over sixteen weeks; study life 75 days.\n"),
		AttachedWhy: "the last pull still tasted fresh"})
	if err != nil {
		return err
	}
	return at(a, now.AddDate(0, 0, -1)).Release.Withdraw(ctx, e.ID,
		"the jars of the last three pulls had stood in the wrong fridge")
}

// attach gives products and components the maker's own studies, which replace the quality cap.
func attach(ctx context.Context, a *app.App) error {
	versions := map[string][]int{"carrot_miso_dressing": {1, 2, 3, 4}, "tamarind_date_dressing": {1},
		"ginger_paste": {1, 2}, "lime_garlic_base": {1}}
	for id, days := range map[string]int{"carrot_miso_dressing": 35, "tamarind_date_dressing": 42, "ginger_paste": 56,
		"lime_garlic_base": 49} {
		d := days
		text := fmt.Sprintf(
			"Own keeping study, jars pulled at 5 °C over eight weeks. Taste and colour good to the last pull; study life %d days.\n", days)
		paper := keeping.Document{Kind: keeping.QualityStudy, Title: "Own study at 5 °C, eight weeks", Days: &d,
			Versions: versions[id]}
		_, err := a.Release.Attach(ctx, kernel.Evidence{Document: paper, FormulaID: id, FileName: "study.txt",
			MediaType: "text/plain", Content: []byte(text), AttachedWhy: "eight weeks of pulls are in"})
		if err != nil {
			return fmt.Errorf("demo evidence: %w", err)
		}
	}
	return nil
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

// outdate changes one supplier's list after the label was confirmed, as happens, and locks a version with it.
func outdate(ctx context.Context, a *app.App) error {
	g, err := a.Catalog.Ingredient(ctx, "horseradish_prepared")
	if err != nil {
		return err
	}
	g.SupplierLists[law.GB] = "horseradish; spirit vinegar; water; rapeseed oil; salt; preservative: sulphur dioxide"
	g.Note = "Supplier changed the recipe: rapeseed oil added."
	if _, err = a.Catalog.SaveIngredient(ctx, g.Ingredient, false, g.Rev); err != nil {
		return err
	}
	if err := lookAt(ctx, a, g.ID); err != nil {
		return err
	}
	last := formula.Ref{Formula: "beetroot_horseradish_dip", Version: 2}
	next, err := a.Catalog.NextDraft(ctx, last, nil)
	if err != nil {
		return err
	}
	last.Version = next.Version.Number
	points, err := a.Catalog.BeforeLock(ctx, last)
	if err != nil {
		return err
	}
	_, err = a.Catalog.LockSheet(ctx, last, next.Rev, keysOf(points))
	return err
}
