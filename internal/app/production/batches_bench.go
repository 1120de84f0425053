package production

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
)

// checkBench refuses what an act of the bench cannot hold, and completes what the program knows.
func (a *Room) checkBench(st kernel.Store, l Loaded, e *bench.Entry) error {
	if l.beforeMaking(a.Now()) {
		return kernel.Refuse("not_today", "This batch is planned for %s; plan one for today to make it now.",
			day.Of(l.Row.MadeOn))
	}
	switch x := e.Body.(type) {
	case *bench.Capture:
		return a.checkCapture(st, l, x)
	case *bench.Tared:
		return a.ownDevice(l, x.Scale, "tared.scale")
	case *bench.Choice:
		x.Factor, x.Word = l.choiceRests(x)
	case *bench.LeftOut:
		return l.mayLeaveOut(x)
	case *bench.Added:
		return a.checkAdded(st, l, x)
	case *bench.Cooled:
		x.At = a.toTheMinute(x.At)
		return a.ownDevice(l, x.Probe, "cooled.probe")
	}
	return nil
}

// checkCapture names the lots of a capture and how it pours.
func (a *Room) checkCapture(st kernel.Store, l Loaded, x *bench.Capture) error {
	i := slices.IndexFunc(l.Row.Targets, func(t bench.Target) bool { return t.Line == x.Line })
	if i < 0 {
		return kernel.Mistake("capture.line", "this line is not in the batch")
	}
	t := l.Row.Targets[i]
	if x.Grams.Float() > amount.MaxGrams {
		return kernel.Mistake("capture.grams", "at most 10 000 kg")
	}
	x.Class = t.Class
	if x.Manual = x.Manual || x.Scale == ""; x.Manual {
		x.Stopped, x.Reading, x.Scale, x.Unstable = nil, nil, "", false
	} else if err := a.ownDevice(l, x.Scale, "capture.scale"); err != nil {
		return err
	}
	if x.Stopped != nil && (x.Stopped.IsNegative() || x.Stopped.Cmp(x.Grams) > 0) {
		x.Stopped = nil // a scale that was touched tells nothing about a pour
	}
	if t.NeedsLot && len(x.Draws) == 0 {
		return kernel.Mistake("capture.draws", "which lot is it from? Scan it, or choose it")
	}
	if len(x.Draws) > 0 {
		want, err := nameDraws(st, l, x.Line, "capture", x.Draws)
		if err != nil {
			return err
		}
		x.Complete(l.Needs.Lots, a.Now(), l.Book.Settings.Zone())
		if len(want.ids) > 1 {
			x.Used = usedOf(x.Draws)
		}
	}
	w := bench.Weighing{Line: x.Line, Grams: x.Grams, Used: x.Used}
	if err := checkUsed(t, &w); err != nil {
		return err
	}
	return l.cooledFirst(x, t)
}

// cooledFirst keeps what comes hot out of the bowl until its cooling log is begun.
func (l Loaded) cooledFirst(x *bench.Capture, t bench.Target) error {
	if t.Hot == "" || !slices.ContainsFunc(x.Draws, func(d bench.Draw) bool { return d.Step != "" }) {
		return nil
	}
	begun := slices.ContainsFunc(l.Record.Cooling, func(c bench.Cooling) bool {
		return c.What == x.Line && c.State != bench.CoolingNone
	})
	if begun {
		return nil
	}
	return kernel.Refuse("cooling", "%s came hot: take its temperature for the cooling log first, then weigh it in.",
		t.Name)
}

// ownDevice refuses a reading of a device that the shop has not, and of a stand-in where food is made: that measures
// nothing real.
func (a *Room) ownDevice(l Loaded, name, of string) error {
	if name == "" {
		return nil
	}
	i := slices.IndexFunc(l.Book.Settings.Devices, func(d kernel.Device) bool { return d.Name == name })
	switch {
	case i < 0:
		return kernel.Mistake(of, "the shop has no device called %q; type the weight instead", field.Clip(name))
	case l.Book.Settings.Devices[i].Address == "" && !a.StandIns:
		return kernel.Mistake(of,
			"%s is a stand-in that measures nothing real: give it the address of yours, or type the weight", name)
	}
	return nil
}

// choiceRests is what a choice rests on, as it was shown.
func (l Loaded) choiceRests(x *bench.Choice) (amount.Exact, string) {
	for _, s := range l.Record.Loads {
		if s.Over == nil || x.Load != 0 && s.No != x.Load {
			continue
		}
		switch x.How {
		case bench.AcceptOver:
			return s.Over.Factor, s.Over.Accept
		case bench.Rebalances:
			return s.Over.Factor, s.Over.Rebalance
		}
	}
	return amount.Whole(1), ""
}

// allergensOf are an ingredient's allergens under every law.
func allergensOf(g *pantry.Ingredient) []string {
	var out []string
	for _, under := range law.All() {
		out = append(out, g.Allergens[under.Regime]...)
		out = append(out, g.Inherited.Allergens[under.Regime]...)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// mayLeaveOut keeps a line in that alone brings an allergen: the jars would have other words than their labels.
func (l Loaded) mayLeaveOut(x *bench.LeftOut) error {
	codes := func(skip string) []string {
		var out []string
		v := l.Version
		v.Lines = slices.DeleteFunc(slices.Clone(v.Lines), func(line formula.Line) bool { return line.ID == skip })
		nodes, err := l.Lib.Expand(v)
		if err != nil {
			return nil
		}
		for _, g := range leavesOf(nodes) {
			out = append(out, allergensOf(g)...)
		}
		slices.Sort(out)
		return slices.Compact(out)
	}
	rest := codes(x.Line)
	alone := slices.DeleteFunc(codes(""), func(code string) bool { return slices.Contains(rest, code) })
	if len(alone) > 0 {
		return kernel.Refuse("allergen",
			"It alone brings %s. Without it the labels would be wrong: make a new version.",
			strings.Join(alone, ", "))
	}
	return nil
}

// checkAdded refuses what would put an allergen into jars whose labels do not name it, and works out what an addition
// does to the pH.
func (a *Room) checkAdded(st kernel.Store, l Loaded, x *bench.Added) error {
	x.PHBefore, x.PHAfter, x.Name = nil, nil, ""
	if x.Grams.Float() > amount.MaxGrams {
		return kernel.Mistake("added.grams", "at most 10 000 kg")
	}
	w := l.desk.larder()
	if x.Purpose == bench.Leftover {
		x.Name = "leftover of " + l.name
		want := wanted{component: &formula.Ref{Formula: l.Row.FormulaID, Version: l.Row.Version}}
		if len(x.Draws) != 1 {
			return kernel.Mistake("added.draws", "which batch is it left over from? Give its lot")
		}
		return w.nameAdded(a, st, l, want, x)
	}
	row, err := st.Ingredient(x.Ingredient)
	if err != nil {
		return kernel.Mistake("added.ingredient", "choose what goes in")
	}
	g := row.Data
	x.Name = g.Name
	if lacks := l.newAllergens(&g); len(lacks) > 0 {
		return kernel.Mistake("added.ingredient",
			"%s brings %s, which the labels of this product do not name: make a new version",
			g.Name, strings.Join(lacks, ", "))
	}
	if len(x.Draws) == 0 && !g.Has(pantry.FlagWater) {
		return kernel.Mistake("added.draws", "which lot is it from?")
	}
	sources := lots.Sources(g.ID, w.usable, w.steps)
	stands := map[string]int{}
	for _, s := range sources {
		stands[s.Ingredient] = 0
	}
	if err := w.nameAdded(a, st, l, wanted{ids: []string{g.ID}, sources: sources, stands: stands}, x); err != nil {
		return err
	}
	before, after, err := a.phOfAddition(st, l, x.Load, &g, x.Grams)
	x.PHBefore, x.PHAfter = before.High, after.High
	return err
}

func (w *larder) nameAdded(a *Room, st kernel.Store, l Loaded, want wanted, x *bench.Added) error {
	if err := w.name(st, l, want, "added", x.Draws); err != nil {
		return err
	}
	x.Complete(l.Needs.Lots, a.Now(), l.Book.Settings.Zone())
	return nil
}

// newAllergens are an ingredient's allergens that the product has not.
func (l Loaded) newAllergens(g *pantry.Ingredient) []string {
	nodes, err := l.Lib.Expand(l.Version)
	if err != nil {
		return allergensOf(g)
	}
	own := map[string]bool{}
	for _, x := range leavesOf(nodes) {
		for _, code := range allergensOf(x) {
			own[code] = true
		}
	}
	return slices.DeleteFunc(allergensOf(g), func(code string) bool { return own[code] })
}

// phOfAddition is the band of what is in the bowl of a load, before and after so much of an ingredient goes in.
func (a *Room) phOfAddition(st kernel.Store, l Loaded, load int, g *pantry.Ingredient, grams amount.Grams) (before,
	after assess.PH,
	err error) {
	made := l.Version
	made.Lines = nil
	if load < 1 || load > len(l.Record.Loads) {
		return before, after, kernel.Mistake("added.load", "there is no such load")
	}
	s := l.Record.Loads[load-1]
	for i, line := range l.Version.Lines {
		if line.Grams = s.Lines[i].In; line.Grams.IsPositive() {
			made.Lines = append(made.Lines, line)
		}
	}
	for i, x := range s.Added {
		if x.Ingredient != "" {
			made.Lines = append(made.Lines, formula.Line{ID: fmt.Sprintf("in-%d", i), Ingredient: x.Ingredient,
				Grams: x.Grams})
		}
	}
	if len(made.Lines) == 0 {
		return before, after, kernel.Mistake("added.load", "nothing is in the bowl of this load")
	}
	made.WaterDrivenOff = amount.Grams{}
	in := assess.Inputs{Library: l.Lib, Terms: l.Book.Terms, Rules: l.Book.Rules, Documents: l.documents}
	in.Library.Ingredients = map[string]*pantry.Ingredient{g.ID: g}
	for id, x := range l.Lib.Ingredients {
		in.Library.Ingredients[id] = x
	}
	panel, err := assess.Version(made, in)
	if err != nil {
		return before, after, catalog.LineProblem(err)
	}
	made.Lines = append(made.Lines, formula.Line{ID: "added", Ingredient: g.ID, Grams: grams})
	then, err := assess.Version(made, in)
	return panel.PH, then.PH, catalog.LineProblem(err)
}

// AdditionView is what an addition would do.
type AdditionView struct {
	Before assess.PH   `json:"before"`
	After  assess.PH   `json:"after"`
	Raises bool        `json:"raises"` // the band's high end
	Over   bool        `json:"over"`   // and over the target
	Lacks  []string    `json:"lacks"`  // allergens that it would bring
	Lots   []Candidate `json:"lots"`
}

// PreviewAddition shows what an addition at the bench would do, before it goes in.
func (a *Room) PreviewAddition(ctx context.Context, id int64, load int, ingredient string,
	grams amount.Grams) (AdditionView,
	error) {
	st := a.On(ctx)
	out := AdditionView{Lacks: []string{}, Lots: []Candidate{}}
	l, err := a.Load(st, id)
	if err != nil {
		return out, err
	}
	row, err := st.Ingredient(ingredient)
	if err != nil {
		return out, kernel.Mistake("ingredient", "choose what goes in")
	}
	if !grams.IsPositive() || grams.Float() > amount.MaxGrams {
		return out, kernel.Mistake("grams", "above zero and at most 10 000 kg")
	}
	if out.Before, out.After, err = a.phOfAddition(st, l, load, &row.Data, grams); err != nil {
		return out, err
	}
	if b, c := out.Before.High, out.After.High; b != nil && c != nil {
		out.Raises, out.Over = *c > *b+0.005, *c > *b+0.005 && *c > l.Version.PHTarget
	}
	out.Lacks = append(out.Lacks, l.newAllergens(&row.Data)...)
	w := l.desk.larder()
	if err := w.know(st, []string{ingredient}); err != nil {
		return out, err
	}
	sources := lots.Sources(ingredient, w.usable, w.steps)
	stands := map[string]int{}
	for _, s := range sources {
		stands[s.Ingredient] = 0
	}
	list, err := w.there(st, wanted{ids: []string{ingredient}, sources: sources, stands: stands})
	if err == nil && len(list) > 0 {
		out.Lots = append(out.Lots, list[0]...)
	}
	return out, err
}

// RehearsalView is a rehearsal as it stands. Refused says why its last act was not taken; empty where it was.
type RehearsalView struct {
	Name     string                    `json:"name"`
	Planned  *bench.Planned            `json:"planned"`
	Loads    []bench.LoadState         `json:"loads"`
	Parts    map[string]formula.MakeUp `json:"parts"`
	Expected int                       `json:"jars_expected"`
	Refused  string                    `json:"refused"`
}

// Rehearse plays acts on a locked version that is made of so many jars. Nothing is written.
func (a *Room) Rehearse(ctx context.Context, ref formula.Ref, jars int, acts []bench.Entry) (RehearsalView, error) {
	st := a.On(ctx)
	s, _, err := a.Settings(st)
	if err != nil {
		return RehearsalView{}, err
	}
	none := int64(0)
	d, err := a.draft(st, PlanAsk{Ref: ref, Jars: jars, MadeOn: day.Of(a.TodayIn(s)), Vessel: &none})
	if err != nil {
		return RehearsalView{}, err
	}
	p := d.batch.Planned
	p.Errands = slices.DeleteFunc(p.Errands, func(e bench.Errand) bool { return strings.HasPrefix(e.Key, "prep-") })
	who := kernel.Actor(ctx)
	for i := range acts {
		acts[i].ID, acts[i].At, acts[i].By, acts[i].Role = int64(i+1), a.Now(), who.Name, who.Role
	}
	r := bench.Rehearse(p, bench.ForRehearsal(p, d.batch.Targets), acts)
	out := RehearsalView{Name: d.lib.Name(ref.Formula), Planned: p, Loads: r.Loads, Expected: r.Expected,
		Parts: Loaded{Version: d.version, Lib: d.lib}.parts()}
	if r.Refused != nil {
		out.Refused = r.Refused.Error()
	}
	return out, nil
}

// parts are what a gram of each line is made of.
func (l Loaded) parts() map[string]formula.MakeUp {
	out := map[string]formula.MakeUp{}
	nodes, err := l.Lib.Expand(l.Version)
	if err != nil {
		return out
	}
	for i := range nodes {
		if g := nodes[i].Grams; g > 0 {
			out[nodes[i].Line.ID] = nodes[i].MakeUp().Scale(1 / g)
		}
	}
	return out
}

// LagView is how far a class of things runs on after a pour stops.
type LagView struct {
	Class string       `json:"class"`
	Grams amount.Grams `json:"grams"`
	Pours int          `json:"pours"`
}

// Lags are the lags that were learned so far.
func (a *Room) Lags(ctx context.Context) ([]LagView, error) {
	st := a.On(ctx)
	out := []LagView{}
	for _, class := range []string{bench.PoursOil, bench.PoursThin, bench.PoursPaste, bench.PoursDry} {
		pours, err := st.Pours(class, bench.LagPours)
		if err != nil {
			return nil, err
		}
		if lag, ok := bench.Lag(pours); ok {
			out = append(out, LagView{class, lag, len(pours)})
		}
	}
	return out, nil
}

// lastIn reports whether the batch was the last thing in a vessel.
func (l Loaded) lastIn(vessel int64) bool {
	return slices.ContainsFunc(l.were, func(v kernel.VesselTurns) bool {
		return v.ID == vessel && len(v.Turns) > 0 && v.Turns[len(v.Turns)-1].Batch == l.Row.ID
	})
}

// usesVessel writes down that the batch was in its vessel, with the first thing that went into it, and that the vessel
// was cleaned down before.
func (a *Room) usesVessel(st kernel.Store, l Loaded, e bench.Entry, record *kernel.BatchRecord) error {
	turn, is := l.turns(e)
	if !is {
		return nil
	}
	record.Vessels, record.Turned = slices.Clone(record.Vessels), record.Turned+1
	for i, v := range record.Vessels {
		if v.ID == turn.Vessel {
			now := append(slices.Clip(v.Turns), turn)
			slices.SortStableFunc(now, func(x, y kernel.VesselEntry) int { return x.At.Compare(y.At) })
			record.Vessels[i].Turns = now
		}
	}
	return st.AddVesselEntry(turn)
}

// turns is what an entry does to the batch's vessel, and whether it does anything.
func (l Loaded) turns(e bench.Entry) (kernel.VesselEntry, bool) {
	p := l.Row.Planned
	if p == nil || p.Vessel.ID == 0 {
		return kernel.VesselEntry{}, false
	}
	turn := kernel.VesselEntry{Vessel: p.Vessel.ID, Kind: bench.VesselUsed, Batch: l.Row.ID,
		What:      l.name + ", " + l.Row.Code,
		Allergens: law.Each[[]string]{}, At: e.At, EnteredAt: e.At, By: e.By}
	switch x := e.Body.(type) {
	case *bench.Ticked:
		turn.Kind, turn.Batch, turn.What = bench.VesselCleaned, 0, "before "+l.Row.Code
		return turn, x.Key == bench.CleanDown && !x.Off
	case *bench.Counted:
		// what came into the vessel after this batch stays in it, whenever the tick is made
		turn.Kind, turn.Batch, turn.What = bench.VesselCleaned, 0, "after "+l.Row.Code
		was := l.Record.Counted
		return turn, x.Clean && (was == nil || !was.Clean) && l.lastIn(p.Vessel.ID)
	case *bench.Capture:
		for _, under := range law.All() {
			turn.Allergens[under.Regime] = l.panel.Allergens[under.Regime]
		}
		return turn, !l.Record.Bench && !slices.ContainsFunc(l.were, func(v kernel.VesselTurns) bool {
			return v.ID == p.Vessel.ID && v.Held(l.Row.ID)
		})
	}
	return turn, false
}
