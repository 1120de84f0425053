package bench

import (
	"fmt"
	"math"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/people"
)

// NetRule is what the label's law requires of the net weights of a version's jars, in grams.
type NetRule struct {
	Nominal amount.Grams `json:"nominal_g"` // what the label states
	Aim     amount.Grams `json:"aim_g"`     // what the hand fills to
	Short   amount.Grams `json:"short_g"`   // by which a jar may be under what the label states; zero: nobody said
	Twice   bool         `json:"twice"`     // none may be under it by more than twice as much
	Source  string       `json:"source"`
}

// Shares of handbook 04, "Fill and count".
const (
	leastSample   = 3
	samplePer100  = 5
	shortShare    = 0.025 // of the jars that may be short by more than is allowed
	shortSigmas   = 1.96  // so many deviations under the mean are under 2.5 % of the jars
	balanceAsks   = 3.0   // percent of the grams that went in, from which what nobody explains asks for a reason
	balanceRefuse = 2.0   // percent more in the jars than went in, from which a count is refused
	mostGross     = 500   // jars weighed at once
)

// SampleOf returns how many of the filled jars are weighed: 5 for every 100, at least 3, and never more than there are.
func SampleOf(jars int) int {
	return min(jars, max(leastSample, (jars*samplePer100+99)/100))
}

// NetWeights are jars that were weighed full, with what an empty one weighs. The latest count.
type NetWeights struct {
	Tare  amount.Grams   `json:"tare_g"`
	Gross []amount.Grams `json:"gross_g"`
	Scale string         `json:"scale,omitempty"` // that they were read from; empty where they were typed
	Over  int64          `json:"over,omitempty"`  // the net weights that the hand saw; 0: none
}

// Nets returns the net weights of the jars.
func (w *NetWeights) Nets() []amount.Grams {
	out := make([]amount.Grams, len(w.Gross))
	for i, g := range w.Gross {
		out[i] = g.Minus(w.Tare)
	}
	return out
}

// NetCheck is the legal verdict on net weights. Short and Far count the jars below the first and the second limit.
type NetCheck struct {
	NetRule
	Entry     int64          `json:"entry"`
	By        string         `json:"by"`
	Scale     string         `json:"scale"`
	Tare      amount.Grams   `json:"tare_g"`
	Nets      []amount.Grams `json:"nets_g"`
	Asked     int            `json:"asked"`
	Mean      amount.Grams   `json:"mean_g"`
	Deviation float64        `json:"deviation_g"`
	Least     amount.Grams   `json:"t1_g"` // a jar under it is short; zero: nobody said
	Lowest    amount.Grams   `json:"t2_g"` // no jar may be under it; zero: the law has none
	Short     int            `json:"under_t1"`
	Far       int            `json:"under_t2"`
	Fails     []string       `json:"fails"`
	Sentence  string         `json:"sentence"`
	Target    amount.Grams   `json:"suggest_g"` // to fill to from now on
}

// Judge judges net weights by the rule, given how many jars were filled.
func (r NetRule) Judge(w *NetWeights, jars int) NetCheck {
	c := NetCheck{NetRule: r, Tare: w.Tare, Scale: w.Scale, Nets: w.Nets(), Asked: SampleOf(jars), Fails: []string{}}
	if len(c.Nets) == 0 {
		return c
	}
	n := amount.Whole(int64(len(c.Nets)))
	mean := amount.Sum(c.Nets).Exact().Over(n)
	c.Mean = mean.Round(2).Grams()
	c.Deviation = deviation(c.Nets, mean.Float())
	if r.Short.IsPositive() {
		c.Least = r.Nominal.Minus(r.Short)
		if r.Twice {
			c.Lowest = c.Least.Minus(r.Short)
		}
	}
	for _, g := range c.Nets {
		if c.Least.IsPositive() && g.Cmp(c.Least) < 0 {
			c.Short++
		}
		if c.Lowest.IsPositive() && g.Cmp(c.Lowest) < 0 {
			c.Far++
		}
	}
	if mean.Cmp(r.Nominal.Exact()) < 0 {
		c.Fails = append(c.Fails, fmt.Sprintf("the average of %s g is under the %s g of the label", c.Mean, r.Nominal))
	}
	if float64(c.Short) > shortShare*float64(len(c.Nets)) {
		c.Fails = append(c.Fails, fmt.Sprintf("%s under %s g", jarsAre(c.Short), c.Least))
	}
	if c.Far > 0 {
		c.Fails = append(c.Fails, fmt.Sprintf("%s under %s g, and none may be", jarsAre(c.Far), c.Lowest))
	}
	c.Target = r.suggest(mean, c.Deviation)
	c.Sentence = c.say()
	return c
}

func jarsAre(n int) string {
	if n == 1 {
		return "1 jar is"
	}
	return fmt.Sprintf("%d jars are", n)
}

// deviation is the standard deviation of a sample in grams, to 0.01.
func deviation(list []amount.Grams, mean float64) float64 {
	if len(list) < 2 {
		return 0
	}
	sum := 0.0
	for _, g := range list {
		sum += (g.Float() - mean) * (g.Float() - mean)
	}
	return math.Round(math.Sqrt(sum/float64(len(list)-1))*100) / 100
}

// suggest returns the fill to aim at: at least what the label states, and high enough that fewer than 2.5 % of jars
// scattering like these fall below the limit. If the jars come out below the aim, the aim is raised by as much.
func (r NetRule) suggest(mean amount.Exact, s float64) amount.Grams {
	to := r.Nominal.Exact()
	if r.Short.IsPositive() {
		safe := r.Nominal.Minus(r.Short).Exact().Plus(amount.ExactFloat(shortSigmas * s))
		if safe.Cmp(to) > 0 {
			to = safe
		}
	}
	if off := r.Aim.Exact().Minus(mean); r.Aim.IsPositive() && off.Sign() > 0 {
		to = to.Plus(off)
	}
	return amount.Whole(-amount.Whole(0).Minus(to).Floor()).Grams() // up to whole grams
}

func (c *NetCheck) say() string {
	what := fmt.Sprintf("%d jars, %s g on average, deviation %.2f g", len(c.Nets), c.Mean, c.Deviation)
	switch {
	case len(c.Fails) > 0:
		return "Short: " + strings.Join(c.Fails, "; ") + "."
	case len(c.Nets) < c.Asked:
		return fmt.Sprintf("%s; %d are asked for.", what, c.Asked)
	case !c.Least.IsPositive():
		return what + ". Nobody said by how much a single jar may be short: only the average is judged."
	}
	if c.Short > 0 {
		return fmt.Sprintf("%s: %s under %s g, and of so many that is allowed.", what, jarsAre(c.Short), c.Least)
	}
	return what + ": none is short."
}

// lacks returns what in the net weights stands in the way of a release; empty if nothing does.
func (c *NetCheck) lacks(jars int) string {
	asked := SampleOf(jars)
	switch {
	case c == nil || len(c.Nets) < asked:
		return fmt.Sprintf("the net weights of %d jars", asked)
	case len(c.Fails) > 0:
		return "full jars: " + strings.Join(c.Fails, "; ")
	}
	return ""
}

// Counted closes a filling: what was left in the vessel, what was kept back as samples, the seals, and why more is
// missing than usual. The latest counts.
type Counted struct {
	Residue amount.Grams `json:"residue_g"`
	Samples amount.Grams `json:"sample_g"`
	Seals   int          `json:"seals"`        // that were looked at
	Failed  int          `json:"seals_failed"` // of those; they are set aside
	Clean   bool         `json:"clean_down"`   // the vessel was cleaned down after it
	Reason  string       `json:"reason,omitempty"`
}

// Aimed is what the next jars of a version are filled to, with the reason.
type Aimed struct {
	Grams  amount.Grams `json:"grams"`
	Reason string       `json:"reason"`
}

// Balance says where the grams of a batch went. In equals Jars, Residue, Samples, Spilt, Elsewhere and Unexplained
// together, to the milligram.
type Balance struct {
	In          amount.Grams   `json:"in_g"`
	Jars        amount.Grams   `json:"jars_g"`
	Residue     amount.Grams   `json:"residue_g"`
	Samples     amount.Grams   `json:"samples_g"`
	Spilt       amount.Grams   `json:"spilt_g"`
	Elsewhere   amount.Grams   `json:"elsewhere_g"`   // of the bowl, in jars of other sizes
	Unexplained amount.Grams   `json:"unexplained_g"` // under nothing where more came out than went in
	Share       amount.Percent `json:"unexplained_percent"`
	AsksReason  bool           `json:"asks_reason"`
	Impossible  bool           `json:"impossible"`
}

// BalanceOf balances what went in, spills included, with what so many jars of a mean weight hold, what of the bowl went
// elsewhere, and what else is known.
func BalanceOf(in, spilt, elsewhere, mean amount.Grams, jars int, c *Counted) Balance {
	b := Balance{In: in, Spilt: spilt, Elsewhere: elsewhere, Jars: mean.Times(jars)}
	if c != nil {
		b.Residue, b.Samples = c.Residue, c.Samples
	}
	b.Unexplained = in.Minus(b.Jars).Minus(b.Residue).Minus(b.Samples).Minus(spilt).Minus(elsewhere)
	if in.IsPositive() {
		b.Share = b.Unexplained.Exact().Over(in.Exact()).Round(4).Percent()
	}
	b.AsksReason = b.Share.Float() > balanceAsks
	b.Impossible = b.Share.Float() < -balanceRefuse
	return b
}

func (f *Fold) netWeights(e Entry, x *NetWeights) {
	f.net, f.netAt, f.netAim = x, e, f.n.Net.Aim
	if f.r.Aimed != nil {
		f.netAim = f.r.Aimed.Grams
	}
	f.hand(e)
}

func (f *Fold) counted(e Entry, x *Counted) {
	f.r.Counted = x
	f.hand(e)
}

func (f *Fold) split(e Entry, x *Split) {
	f.r.Splits = append(f.r.Splits, *x)
	f.hand(e)
}

func (f *Fold) fromBowl(_ Entry, x *FromBowl) { f.r.FromBowl = x }

func (f *Fold) aimed(_ Entry, x *Aimed) { f.r.Aimed = x }

// judgeNet judges the latest net weights; nil if no jar was weighed.
func (f *Fold) judgeNet() *NetCheck {
	if f.net == nil {
		return nil
	}
	jars := 0
	if f.r.Fill != nil {
		jars = f.r.Fill.Jars
	}
	rule := f.n.Net
	rule.Aim = f.netAim
	c := rule.Judge(f.net, jars)
	c.Entry, c.By = f.netAt.ID, f.netAt.By
	return &c
}

// refusesNet checks what can be known of net weights without their rule.
func (f *Fold) refusesNet(_ Entry, x *NetWeights) error {
	if err := f.closed("what the jars weigh"); err != nil {
		return err
	}
	if n := len(x.Gross); n == 0 || n > mostGross {
		return entry.Refuse(entry.Wrong, "net_weights.gross_g", "weigh 1 to %d jars", mostGross)
	}
	if f.net != nil && f.netAt.ID != x.Over {
		return entry.Refuse(entry.Behind, "",
			"%s weighed jars meanwhile. Look, then weigh again if it is still needed.",
			f.netAt.By)
	}
	if x.Tare.IsNegative() {
		return entry.Refuse(entry.Wrong, "net_weights.tare_g", "an empty jar does not weigh less than nothing")
	}
	most := f.n.Net.Nominal.Times(3)
	for i, g := range x.Nets() {
		switch {
		case !g.IsPositive():
			return entry.Refuse(entry.Wrong, fmt.Sprintf("net_weights.gross_g.%d", i),
				"jar %d weighs less than an empty one",
				i+1)
		case most.IsPositive() && g.Cmp(most) > 0:
			return entry.Refuse(entry.Wrong, fmt.Sprintf("net_weights.gross_g.%d", i),
				"jar %d holds %s g and its label says %s: was it another jar, or the tare forgotten?", i+1, g,
				f.n.Net.Nominal)
		}
	}
	return nil
}

func (f *Fold) refusesCounted(_ Entry, x *Counted) error {
	if err := f.closed("the count"); err != nil {
		return err
	}
	switch {
	case f.r.Fill == nil:
		return entry.Refuse(entry.Wrong, "", "count the jars first")
	case x.Residue.IsNegative():
		return entry.Refuse(entry.Wrong, "counted.residue_g", "nothing less than nothing")
	case x.Samples.IsNegative():
		return entry.Refuse(entry.Wrong, "counted.sample_g", "nothing less than nothing")
	case x.Seals < 0 || x.Seals > f.r.Fill.Jars+f.r.Fill.Rejected:
		return entry.Refuse(entry.Wrong, "counted.seals", "there are %d jars", f.r.Fill.Jars+f.r.Fill.Rejected)
	case x.Failed < 0 || x.Failed > x.Seals:
		return entry.Refuse(entry.Wrong, "counted.seals_failed", "of the %d that were looked at", x.Seals)
	case x.Failed > f.r.Fill.Rejected:
		return entry.Refuse(entry.Wrong, "counted.seals_failed",
			"set the jars whose seal failed aside first: %d are set aside", f.r.Fill.Rejected)
	}
	return nil
}

// refusesAimed lets jars be filled to more than their label says, within reason.
func (f *Fold) refusesAimed(e Entry, x *Aimed) error {
	nominal := f.n.Net.Nominal
	switch {
	case !e.Role.May(people.Maker):
		return entry.Refuse(entry.NotYours, "", "A maker says what jars are filled to from now on.")
	case x.Grams.Cmp(nominal) < 0:
		return entry.Refuse(entry.Wrong, "aimed.grams", "the label says %s g: jars are filled to that at least",
			nominal)
	case x.Grams.Cmp(nominal.Plus(nominal)) > 0:
		return entry.Refuse(entry.Wrong, "aimed.grams", "that is more than twice what the label says")
	case strings.TrimSpace(x.Reason) == "":
		return entry.Refuse(entry.Wrong, "aimed.reason", "say why")
	}
	return nil
}

// countLacks returns what the filling still lacks, in the order of work.
func countLacks(r *Record) []string {
	if r.Fill == nil || !r.Fill.Weighed || r.Fill.Jars == 0 {
		return nil
	}
	var out []string
	if what := r.Net.lacks(r.Fill.Jars); what != "" {
		out = append(out, what)
	}
	if r.Counted == nil || r.Counted.Seals == 0 {
		out = append(out, "the seals looked at, and what was left over")
	}
	return out
}
