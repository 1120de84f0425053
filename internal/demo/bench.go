package demo

import (
	"time"

	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
)

// runsOn is how far the made-up hands' pours run on, in grams, by class.
var runsOn = map[string]float64{bench.PoursOil: 17.4, bench.PoursThin: 9.2, bench.PoursPaste: 1.2, bench.PoursDry: 0.4}

// weighAtBench weighs a batch load by load on the tablet, from lots as they are there, and closes each load. What goes
// onto the jars is weighed on the sheet.
func (t *teller) weighAtBench(b production.BatchView, made time.Time) error {
	when := made.Add(4 * time.Minute)
	do := func(body any) error {
		when = when.Add(2 * time.Minute)
		return t.write(when, helper, bench.Entry{Body: body})
	}
	for _, load := range b.Record.Loads {
		for _, e := range load.Errands {
			if err := do(&bench.Ticked{Load: load.No, Key: e.Key}); err != nil {
				return err
			}
		}
		from, err := t.lotsNow(when)
		if err != nil {
			return err
		}
		shows, on := amount.Grams{}, "" // what the scale shows, and which it is
		for i, l := range load.Lines {
			if l.Scale.Name != on {
				shows, on = amount.G(812.4), l.Scale.Name
				tare := shows
				if err := do(&bench.Tared{Load: load.No, Scale: on, Reading: &tare}); err != nil {
					return err
				}
			}
			off := 1 + float64(wobble[(i+load.No)%len(wobble)])/1000
			c := &bench.Capture{Load: load.No, Line: l.Line, Grams: amount.G(amount.HalfUp(l.Now.Float()*off, 1)),
				Scale: l.Scale.Name}
			shows = shows.Plus(c.Grams)
			reading := shows
			c.Reading = &reading
			if stopped := c.Grams.Minus(amount.G(runsOn[l.Class] + float64(i%3)/10)); stopped.IsPositive() {
				c.Stopped = &stopped
			}
			c.Draws = draws(c.Grams, from[l.Line])
			if err := do(c); err != nil {
				return err
			}
		}
		if err := do(&bench.Closed{Load: load.No}); err != nil {
			return err
		}
	}
	return t.ontoJars(b, when)
}

// lotsNow are the lots of a batch's lines as they are there at a time.
func (t *teller) lotsNow(when time.Time) (map[string][]production.Candidate, error) {
	list, err := at(t.app, when).Production.LotsFor(t.ctx, t.id)
	out := map[string][]production.Candidate{}
	for _, l := range list {
		out[l.Line] = l.Lots
	}
	return out, err
}

func (t *teller) ontoJars(b production.BatchView, when time.Time) error {
	from, err := t.lotsNow(when)
	if err != nil {
		return err
	}
	for _, l := range b.Record.Lines {
		if l.Phase != bench.OntoJars {
			continue
		}
		w := bench.Weighing{Line: l.Line, Grams: l.Grams, Draws: draws(l.Grams, from[l.Line])}
		if err := t.write(when.Add(time.Minute), helper, bench.Entry{Body: &w}); err != nil {
			return err
		}
	}
	return nil
}
