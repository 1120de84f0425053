package judge

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
)

// Batch is a batch as planned and as recorded, with its version and the library that the version refers to.
type Batch struct {
	Version formula.Version
	Lib     formula.Library
	Record  bench.Record
	Targets []bench.Target
	Planned *bench.Planned
	Jars    int // planned
	Lots    map[int64]lots.Facts
}

// AsWeighed returns the version with the weighed grams in place of its own, once all lines are weighed.
func (b Batch) AsWeighed() formula.Version {
	v, r := b.Version, b.Record
	if !r.Weighed {
		return v
	}
	made := v
	made.Lines = nil
	total := amount.Grams{}
	for i, l := range v.Lines {
		if r.Lines[i].LeftOut {
			continue
		}
		l.Grams = *r.Lines[i].Actual
		total = total.Plus(l.Grams)
		made.Lines = append(made.Lines, l)
	}
	for _, x := range r.Added {
		total = total.Plus(x.Grams)
		if x.Ingredient != "" {
			made.Lines = append(made.Lines, formula.Line{ID: bench.AddedLineID(x.Entry), Ingredient: x.Ingredient,
				Grams: x.Grams})
		} // a leftover is the product itself, and leaves it as it is
	}
	if v.WaterDrivenOff.IsPositive() {
		made.WaterDrivenOff = v.WaterDrivenOff.Exact().Times(total.Exact()).Over(v.GramsIn().Exact()).Grams()
	}
	return made
}

// Declared returns the version that a batch's label lists, with what was added or left out at the bench; planned is
// true if nothing was.
func (b Batch) Declared() (v formula.Version, planned bool) {
	out := slices.ContainsFunc(b.Record.Lines, func(s bench.LineState) bool { return s.LeftOut })
	if !out && len(b.Record.Added) == 0 {
		return b.Version, true
	}
	return b.AsWeighed(), false
}

// Resolved returns what went in, with the ingredient actually taken for each line that allows several; the version
// itself if that is unknown.
func (b Batch) Resolved() formula.Version {
	made, err := b.AsWeighed().Resolve(b.Record.Uses())
	if err != nil {
		return b.Version
	}
	return made
}

// Nodes returns the lines of the batch as weighed, with additions and toppings; nil if they cannot be expanded.
func (b Batch) Nodes() []formula.Node {
	nodes, err := b.Lib.Expand(b.Resolved())
	if err != nil {
		return nil
	}
	return append(nodes, b.onTop()...)
}

// onTop returns the toppings in the grams that were weighed, or planned before that.
func (b Batch) onTop() []formula.Node {
	onTop, err := b.Lib.OnTop(b.Version)
	if err != nil {
		return nil
	}
	out := make([]formula.Node, 0, len(onTop))
	for _, n := range onTop {
		at := slices.IndexFunc(b.Record.Lines, func(s bench.LineState) bool { return s.Line == n.Line.ID })
		if at < 0 {
			continue
		}
		line := *n.Line
		if line.Grams = b.Record.Lines[at].Grams; b.Record.Lines[at].Actual != nil {
			line.Grams = *b.Record.Lines[at].Actual
		}
		n.Line, n.Grams = &line, line.Grams.Float()
		out = append(out, n)
	}
	return out
}

// Parts returns the composition of a gram of each line, by line.
func (b Batch) Parts() map[string]formula.MakeUp {
	out := map[string]formula.MakeUp{}
	nodes, err := b.Lib.Expand(b.Version)
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

// GramsIn returns the grams that a batch had for its jars: what was weighed, less the water driven off, plus leftovers
// and toppings. Spills are included.
func (b Batch) GramsIn() amount.Grams {
	made := b.AsWeighed()
	in := made.GramsIn().Minus(made.WaterDrivenOff)
	for _, x := range b.Record.Added {
		if x.Purpose == bench.Leftover {
			in = in.Plus(x.Grams)
		}
	}
	for i := len(b.Version.Lines); i < len(b.Record.Lines); i++ { // what goes onto the jars fills them too
		in = in.Plus(*b.Record.Lines[i].Actual)
	}
	return in
}

// InBowl returns what of a weighed batch is not in other batches' jars.
func (b Batch) InBowl() amount.Grams {
	if !b.Record.Weighed {
		return amount.Grams{}
	}
	return b.AsWeighed().MixedGrams().Minus(b.Record.Elsewhere())
}

// Balance returns where the grams of a batch went, by the net weights of its jars or else by its label; nil before it
// is weighed and filled.
func (b Batch) Balance(c *bench.Counted) *bench.Balance {
	f := b.Record.Fill
	if !b.Record.Weighed || f == nil {
		return nil
	}
	mean := b.Version.NetGrams()
	if n := b.Record.Net; n != nil {
		mean = n.Mean
	}
	out := bench.BalanceOf(b.GramsIn(), b.Record.TakenOut, b.Record.Elsewhere(), mean, f.Jars+f.Rejected, c)
	return &out
}

// Unexplained returns what in the balance stands in the way of a release; empty if nothing does.
func (b Batch) Unexplained() string {
	c := b.Record.Counted
	x := b.Balance(c)
	switch {
	case c == nil || x == nil:
		return ""
	case x.Impossible:
		return fmt.Sprintf("the grams: the jars hold %s g more than was weighed", amount.Grams{}.Minus(x.Unexplained))
	case x.AsksReason && c.Reason == "":
		return fmt.Sprintf("the reason why %s %% of the grams are missing", x.Share)
	}
	return ""
}

// RefusesCount refuses a count that leaves grams unexplained. Errors: entry.Refusal.
func (b Batch) RefusesCount(c *bench.Counted) error {
	x := b.Balance(c)
	switch {
	case x == nil:
		return nil // the release asks for the weights first, and then looks again
	case x.Impossible:
		return entry.Refuse(entry.Wrong, "counted",
			"the jars, what was left over and the samples come to %s g more than was weighed: weigh jars "+
				"again, count again, or weigh in what is missing", amount.Grams{}.Minus(x.Unexplained))
	case x.AsksReason && c.Reason == "":
		return entry.Refuse(entry.Wrong, "counted.reason", "%s g of %s g are missing, %s %%: say where they went",
			x.Unexplained, x.In, x.Share)
	}
	return nil
}

// MostJars returns how many jars the weighed grams can fill.
func (b Batch) MostJars() int {
	return bench.MostJars(b.GramsIn().Minus(b.Record.TakenOut), b.Version.FillGrams)
}

// RefusesFill refuses more jars than the weighed grams can fill. Errors: entry.Refusal.
func (b Batch) RefusesFill(f *bench.Fill) error {
	if !b.Record.Weighed {
		return nil // a release asks for the weights first, and then looks again
	}
	if most := b.MostJars(); f.Jars+f.Rejected > most {
		return entry.Refuse(entry.Wrong, "fill.jars",
			"what was weighed fills %d jars at most; count again, or weigh in what is missing", most)
	}
	return nil
}

// RefusesHot refuses to weigh what comes hot before its cooling log is begun. Errors: entry.Refusal.
func (b Batch) RefusesHot(x *bench.Capture, t bench.Target) error {
	if t.Hot == "" || !slices.ContainsFunc(x.Draws, func(d bench.Draw) bool { return d.Step != "" }) {
		return nil
	}
	begun := slices.ContainsFunc(b.Record.Cooling, func(c bench.Cooling) bool {
		return c.What == x.Line && c.State != bench.CoolingNone
	})
	if begun {
		return nil
	}
	return entry.Refuse("cooling", "", "%s came hot: take its temperature for the cooling log first, then weigh it in.",
		t.Name)
}

// ChoiceRests returns what a choice after an over-pour rests on, as it was shown: its factor and its wording.
func (b Batch) ChoiceRests(x *bench.Choice) (amount.Exact, string) {
	for _, s := range b.Record.Loads {
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

// Allergens returns an ingredient's allergens under every law, inherited ones included.
func Allergens(g *pantry.Ingredient) []string {
	var out []string
	for _, under := range law.All() {
		out = append(out, g.Allergens[under.Regime]...)
		out = append(out, g.Inherited.Allergens[under.Regime]...)
	}
	return tidy(out)
}

// brought returns the allergens of everything in a version; nil if it cannot be expanded.
func (b Batch) brought(v formula.Version) []string {
	nodes, err := b.Lib.Expand(v)
	if err != nil {
		return nil
	}
	var out []string
	leaves, _ := formula.Leaves(nodes)
	for _, x := range leaves {
		out = append(out, Allergens(x.Ingredient)...)
	}
	return tidy(out)
}

// Lacks returns the allergens of an ingredient that the product does not have.
func (b Batch) Lacks(g *pantry.Ingredient) []string {
	own := b.brought(b.Version)
	return slices.DeleteFunc(Allergens(g), func(code string) bool { return slices.Contains(own, code) })
}

// RefusesLeavingOut refuses to leave out a line that alone brings an allergen, since the label would then be wrong.
// Errors: entry.Refusal.
func (b Batch) RefusesLeavingOut(line string) error {
	v := b.Version
	v.Lines = slices.DeleteFunc(slices.Clone(v.Lines), func(l formula.Line) bool { return l.ID == line })
	rest := b.brought(v)
	alone := slices.DeleteFunc(b.brought(b.Version), func(code string) bool { return slices.Contains(rest, code) })
	if len(alone) > 0 {
		return entry.Refuse("allergen", "",
			"It alone brings %s. Without it the labels would be wrong: make a new version.", strings.Join(alone, ", "))
	}
	return nil
}

// InLoad returns the version of what is in the bowl of a load. Errors: entry.Refusal if there is no such load or it is
// empty.
func (b Batch) InLoad(load int) (formula.Version, error) {
	made := b.Version
	made.Lines = nil
	if load < 1 || load > len(b.Record.Loads) {
		return made, entry.Refuse(entry.Wrong, "added.load", "there is no such load")
	}
	s := b.Record.Loads[load-1]
	for i, line := range b.Version.Lines {
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
		return made, entry.Refuse(entry.Wrong, "added.load", "nothing is in the bowl of this load")
	}
	made.WaterDrivenOff = amount.Grams{}
	return made, nil
}
