package bench

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/law"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// bowlOf is a plan of one oil, vinegar, garlic held back by half, and salt, for a vessel of 3 kg.
func bowlOf(loads int) (*Planned, []Target) {
	p := &Planned{Vessel: Vessel{Name: "the small bowl", Least: amount.G(500), Greatest: amount.G(3000)},
		Scale: Scale{Name: "bench", Division: amount.MustGrams("0.1")}, Fill: amount.G(190),
		Errands: []Errand{{Key: "rest", Text: "rest 10 min", Minutes: 10},
			{Key: "guards", Text: "guards on", Once: true}}}
	targets := []Target{{Line: "oil", Name: "Oil", Tolerance: 1}, {Line: "vinegar", Name: "Vinegar", Tolerance: 2},
		{Line: "garlic", Name: "Garlic", Tolerance: 5, Hold: 50, Optional: true},
		{Line: "salt", Name: "Salt", Tolerance: 2}}
	for range loads {
		p.Loads = append(p.Loads, []amount.Grams{amount.G(1200), amount.G(640), amount.G(40), amount.G(30)})
	}
	for i := range targets {
		targets[i].Grams = p.Loads[0][i].Times(loads)
	}
	return p, targets
}

// hand works at a bench and keeps what was written down.
type hand struct {
	w       *Weighout
	entries []Entry
	role    people.Role
}

func newHand(loads int) *hand {
	p, targets := bowlOf(loads)
	return &hand{w: NewWeighout(p, targets), role: people.Maker}
}

func (h *hand) try(body any) error {
	e := Entry{ID: int64(len(h.entries) + 1), By: "Bram", Role: h.role, Body: body}
	if err := h.w.Refuses(e); err != nil {
		return err
	}
	h.w.Add(e)
	h.entries = append(h.entries, e)
	return nil
}

// pour captures so much of a line, having seen what was captured before.
func (h *hand) pour(load int, line string, g float64) error {
	return h.try(&Capture{Load: load, Line: line, Grams: amount.G(g),
		Saw: h.w.loads[load-1].lines[h.w.line(line)].last})
}

func (h *hand) line(load int, line string) BenchLine {
	return h.w.Loads()[load-1].Lines[h.w.line(line)]
}

func codeOf(t *testing.T, err error) string {
	t.Helper()
	var r entry.Refusal
	require.ErrorAs(t, err, &r)
	return r.Code
}

func TestAnOverPourAsksAndARebalanceKeepsTheRatio(t *testing.T) {
	h := newHand(1)
	require.NoError(t, h.pour(1, "oil", 1296))
	assert.Equal(t, LineOver, h.line(1, "oil").State)
	assert.Equal(t, entry.NotReady, codeOf(t, h.pour(1, "vinegar", 640)), "first a choice")
	over := h.w.Loads()[0].Over
	require.NotNil(t, over)
	assert.Equal(t, "1.08", over.Factor.String())
	assert.Empty(t, over.TopUp)
	assert.Contains(t, over.Rebalance, "8.0 %")
	h.role = people.Helper
	assert.Equal(t, entry.NotYours, codeOf(t, h.try(&Choice{Load: 1, How: AcceptOver, Reason: "it is only oil"})))
	require.NoError(t, h.try(&Choice{Load: 1, How: Rebalances}), "the ratio is put right by whoever weighs")
	assert.Equal(t, LineDone, h.line(1, "oil").State)
	assert.Equal(t, "691.2", h.line(1, "vinegar").Now.String())
	assert.Equal(t, "21.6", h.line(1, "garlic").Now.String(), "half is held back")
	require.NoError(t, h.pour(1, "vinegar", 691.2))
	assert.Equal(t, entry.Closed, codeOf(t, h.try(&Choice{Load: 1, How: Rebalances})), "nothing waits any more")
}

func TestARebalanceTopsUpWhatIsInAndTakesAPortionOutWhereItDoesNotFit(t *testing.T) {
	h := newHand(1)
	h.w.p.Vessel.Greatest = amount.G(1960)
	require.NoError(t, h.pour(1, "oil", 1203))
	require.NoError(t, h.pour(1, "vinegar", 691.2))
	over := h.w.Loads()[0].Over
	require.NotNil(t, over)
	err := h.try(&Choice{Load: 1, How: Rebalances})
	assert.ErrorContains(t, err, "would come to 2062.8 g")
	require.True(t, over.Portion.IsPositive())
	assert.Contains(t, over.Rebalance, "First take")
	require.NoError(t, h.try(&Choice{Load: 1, How: Rebalances, Portion: over.Portion}))
	s := h.w.Loads()[0]
	assert.LessOrEqual(t, s.Target.Cmp(amount.G(1960)), 0)
	require.Nil(t, s.Over)
	oil := h.line(1, "oil")
	assert.Equal(t, LineOpen, oil.State, "it is topped up")
	require.NoError(t, h.pour(1, "oil", oil.Now.Minus(oil.In).Float()))
	assert.InDelta(t, 1200.0/640, h.line(1, "oil").In.Float()/h.line(1, "vinegar").In.Float(), 0.0005)
}

func TestAcceptingLeavesTheRestAndGivingUpBeginsAnew(t *testing.T) {
	h := newHand(2)
	require.NoError(t, h.pour(1, "oil", 1300))
	assert.ErrorContains(t, h.try(&Choice{Load: 1, How: AcceptOver}), "reason")
	require.NoError(t, h.try(&Choice{Load: 1, How: AcceptOver, Reason: "the jar is known to bear it"}))
	assert.Equal(t, LineDone, h.line(1, "oil").State)
	assert.Equal(t, "8.33", h.line(1, "oil").Deviation.Fixed(2))
	assert.Equal(t, "640", h.line(1, "vinegar").Now.String())
	require.NoError(t, h.pour(1, "vinegar", 640))
	require.NoError(t, h.try(&Choice{Load: 1, How: Discards, Reason: "a splinter of glass fell in"}))
	s := h.w.Loads()[0]
	assert.Equal(t, 1, s.Tries)
	assert.Equal(t, "1940", s.Wasted.String())
	assert.True(t, s.Bowl.IsZero())
	assert.Equal(t, LineOpen, h.line(1, "oil").State)
}

func TestWhatIsHeldBackWaitsForATaste(t *testing.T) {
	h := newHand(1)
	assert.Equal(t, entry.Closed, codeOf(t, h.try(&Tasted{Load: 1, Line: "garlic", More: amount.G(20)})))
	require.NoError(t, h.pour(1, "garlic", 20))
	assert.Equal(t, LineTaste, h.line(1, "garlic").State)
	assert.Equal(t, entry.NotReady, codeOf(t, h.pour(1, "garlic", 20)), "taste first")
	require.NoError(t, h.try(&Tasted{Load: 1, Line: "garlic", More: amount.G(8)}), "less")
	assert.Equal(t, "28", h.line(1, "garlic").Now.String())
	require.NoError(t, h.pour(1, "garlic", 8))
	assert.Equal(t, LineDone, h.line(1, "garlic").State)

	none := newHand(1)
	require.NoError(t, none.pour(1, "garlic", 20))
	require.NoError(t, none.try(&Tasted{Load: 1, Line: "garlic"}))
	assert.Equal(t, LineDone, none.line(1, "garlic").State, "no more of it")
	whole := newHand(1)
	require.NoError(t, whole.pour(1, "garlic", 40))
	assert.Equal(t, LineTaste, whole.line(1, "garlic").State, "all of it at once is no over-pour")
}

func TestASpillLeavesTheRatioOfWhatIsToCome(t *testing.T) {
	h := newHand(1)
	require.NoError(t, h.pour(1, "oil", 1200))
	assert.ErrorContains(t, h.try(&TakenOut{Load: 1, What: "spilled", Grams: amount.G(1300), Reason: "knocked"}),
		"1200 g")
	require.NoError(t, h.try(&TakenOut{Load: 1, What: "spilled", Grams: amount.G(120), Reason: "the jug tipped"}))
	assert.Equal(t, "1080", h.line(1, "oil").In.String())
	assert.Equal(t, "576", h.line(1, "vinegar").Now.String(), "a tenth less")
	assert.Equal(t, LineDone, h.line(1, "oil").State)
}

func TestALoadClosesOnlyWhenNothingIsMissing(t *testing.T) {
	h := newHand(2)
	for load := 1; load <= 2; load++ {
		require.NoError(t, h.pour(load, "oil", 1200))
		require.NoError(t, h.pour(load, "vinegar", 640))
		assert.Equal(t, entry.NotReady, codeOf(t, h.try(&Added{Load: load, Ingredient: "salt", Purpose: "salt",
			Grams: amount.G(2)})), "not before the last line")
		require.NoError(t, h.pour(load, "garlic", 20))
		require.NoError(t, h.try(&Tasted{Load: load, Line: "garlic", More: amount.G(20)}))
		require.NoError(t, h.pour(load, "garlic", 20))
		require.NoError(t, h.pour(load, "salt", 30))
		err := h.try(&Closed{Load: load})
		assert.ErrorContains(t, err, "rest 10 min")
		assert.Equal(t, load == 1, h.try(&Ticked{Load: load, Key: "guards"}) == nil, "guards once")
		require.NoError(t, h.try(&Ticked{Load: load, Key: "rest"}))
		require.NoError(t, h.try(&Added{Load: load, Ingredient: "salt", Purpose: "salt", Grams: amount.G(2)}))
		require.NoError(t, h.try(&Closed{Load: load}))
		assert.Equal(t, entry.Closed, codeOf(t, h.pour(load, "salt", 1)))
	}
	assert.True(t, h.w.AllClosed())
	assert.Empty(t, h.w.Missing(false))
	assert.Equal(t, 20, h.w.Expected(), "two loads of 1912 g fill twenty jars of 190 g")
}

func TestWhatIsCapturedTwiceIsShownToTheSecondHand(t *testing.T) {
	h := newHand(1)
	require.NoError(t, h.pour(1, "oil", 1200))
	err := h.try(&Capture{Load: 1, Line: "oil", Grams: amount.G(1199), Saw: 0})
	assert.Equal(t, entry.Behind, codeOf(t, err))
	assert.ErrorContains(t, err, "Bram captured Oil in load 1 meanwhile: 1200 g")
}

func TestWhatMayBeLeftOut(t *testing.T) {
	h := newHand(1)
	assert.Equal(t, entry.Closed, codeOf(t, h.try(&LeftOut{Load: 1, Line: "salt", Reason: "none there"})))
	h.role = people.Helper
	assert.Equal(t, entry.NotYours, codeOf(t, h.try(&LeftOut{Load: 1, Line: "garlic", Reason: "none there"})))
	h.role = people.Maker
	require.NoError(t, h.try(&LeftOut{Load: 1, Line: "garlic", Reason: "the market had none"}))
	assert.Equal(t, LineLeftOut, h.line(1, "garlic").State)
	assert.Error(t, h.pour(1, "garlic", 20))
	require.NoError(t, h.pour(1, "oil", 1296))
	require.NoError(t, h.try(&Choice{Load: 1, How: Rebalances}))
	assert.Equal(t, "691.2", h.line(1, "vinegar").Now.String())
}

func TestTheSheetAndTheBenchAreOneWeighing(t *testing.T) {
	h := newHand(2)
	h.w.Add(Entry{ID: 7, By: "Ola", Body: &Weighing{Line: "oil", Grams: amount.G(2592)}})
	require.True(t, h.w.pending(h.w.loads[0]) && h.w.pending(h.w.loads[1]), "the over-pour is in both loads")
	require.NoError(t, h.try(&Choice{How: Rebalances}))
	assert.Equal(t, "691.2", h.line(2, "vinegar").Now.String())
}

// anyAct is any act of the bench, sensible or not.
func anyAct(t *rapid.T, h *hand) any {
	load := rapid.IntRange(1, len(h.w.loads)).Draw(t, "load")
	l := h.w.loads[load-1]
	i := rapid.IntRange(0, len(l.lines)-1).Draw(t, "line")
	line, x := h.w.targets[i].Line, &l.lines[i]
	grams := func(most float64) amount.Grams {
		return amount.G(rapid.Float64Range(0.1, most).Draw(t, "grams"))
	}
	reason := rapid.SampledFrom([]string{"", "as it was"}).Draw(t, "reason")
	switch rapid.IntRange(0, 13).Draw(t, "act") {
	case 0:
		return &Choice{Load: load, How: Rebalances, Portion: amount.Milligrams(h.w.portion(l).Steps())}
	case 1:
		return &Choice{Load: load, How: rapid.SampledFrom([]string{AcceptOver, Discards}).Draw(t, "how"),
			Reason: reason}
	case 2, 3:
		return &Tasted{Load: load, Line: line, More: grams(60)}
	case 4:
		return &LeftOut{Load: load, Line: line, Reason: reason}
	case 5:
		return &TakenOut{Load: load, What: "spilled", Grams: grams(400), Reason: reason}
	case 6:
		return &Added{Load: load, Ingredient: "water", Purpose: "thinner", Grams: grams(300)}
	case 7:
		return &Ticked{Load: load, Key: rapid.SampledFrom([]string{"rest", "guards"}).Draw(t, "key"),
			Off: rapid.IntRange(0, 9).Draw(t, "off") == 0}
	case 8:
		return &Closed{Load: load}
	case 9:
		return &Capture{Load: load, Line: line, Grams: grams(2500), Saw: x.last}
	}
	b := h.w.benchLine(l, i) // what a good hand does: up to the target, a little off
	off := rapid.Float64Range(0.97, 1.09).Draw(t, "off")
	return &Capture{Load: load, Line: line, Grams: amount.G(b.Now.Minus(b.In).Float() * off), Saw: x.last}
}

func TestAnySequenceAtTheBenchKeepsItsLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h := newHand(rapid.IntRange(1, 3).Draw(t, "loads"))
		for range rapid.IntRange(5, 60).Draw(t, "acts") {
			act := anyAct(t, h)
			err := h.try(act)
			for _, l := range h.w.loads {
				if l.bowl().Cmp(h.w.p.Vessel.Greatest.Exact()) > 0 {
					t.Fatalf("load %d holds %s g after %+v", l.no, l.bowl(), act)
				}
			}
			if x, ok := act.(*Choice); ok && err == nil && x.How == Rebalances {
				ratiosHold(t, h.w, h.w.loads[x.Load-1])
			}
			if x, ok := act.(*Closed); ok && err == nil {
				require.Empty(t, h.w.missing(h.w.loads[x.Load-1]))
			}
		}
		p, targets := bowlOf(len(h.w.loads))
		again := NewWeighout(p, targets)
		for _, e := range h.entries {
			again.Add(e)
		}
		was, err := json.Marshal(h.w.Loads())
		require.NoError(t, err)
		now, err := json.Marshal(again.Loads())
		require.NoError(t, err)
		require.Equal(t, string(was), string(now), "the same acts, the same state")
	})
}

// ratiosHold: after a rebalance the targets stand to each other as in the plan, but for what a taste decided, within
// one division of the scale for each line.
func ratiosHold(t *rapid.T, w *Weighout, l *load) {
	base, total := amount.Exact{}, amount.Exact{}
	for i := range l.lines {
		if x := &l.lines[i]; !x.tasted && !x.leftOut {
			base, total = base.Plus(w.p.Loads[l.no-1][i].Exact()), total.Plus(x.target)
		}
	}
	for i := range l.lines {
		x := &l.lines[i]
		if x.tasted || x.leftOut || !base.IsPositive() {
			continue
		}
		want := w.p.Loads[l.no-1][i].Exact().Times(total).Over(base)
		on, _ := w.p.WeighedOn(x.target.Grams())
		off := want.Minus(w.benchLine(l, i).Target.Exact()).Float()
		if off > on.Division.Float() || -off > on.Division.Float() {
			t.Fatalf("%s is %s g where the ratio asks %s", w.targets[i].Name, x.target, want)
		}
	}
}

func TestALagIsToldFromThreePoursOn(t *testing.T) {
	pour := func(stopped, captured float64) Pour { return Pour{amount.G(stopped), amount.G(captured)} }
	_, ok := Lag([]Pour{pour(10, 12), pour(20, 22)})
	assert.False(t, ok)
	lag, ok := Lag([]Pour{pour(10, 12), pour(20, 22), pour(30, 35)})
	require.True(t, ok)
	assert.Equal(t, "3", lag.String())
	many := []Pour{pour(0, 500)}
	for range 10 {
		many = append(many, pour(100, 101))
	}
	lag, _ = Lag(many)
	assert.Equal(t, "1", lag.String(), "only the last ten count")
}

func TestCoolingIsJudgedByEachLaw(t *testing.T) {
	began := time.Date(2026, 11, 28, 8, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		name  string
		law   law.Regime
		taken string // °C@minutes
		at    int
		want  string
	}{
		{"nothing taken", law.US, "", 0, CoolingNone},
		{"on its way", law.US, "80@0 40@60", 61, CoolingRuns},
		{"down in both steps", law.US, "80@0 60@20 20@130 4@350", 400, CoolingMet},
		{"the first step too slow", law.US, "80@0 40@121", 125, CoolingMissed},
		{"the second step too slow", law.US, "80@0 20@90 9@331", 332, CoolingMissed},
		{"begun when it was cold", law.US, "40@0 4@30", 40, CoolingMissed},
		{"warm again", law.US, "80@0 20@90 30@100 4@120", 130, CoolingMissed},
		{"within ninety minutes", law.GB, "85@0 8@89", 90, CoolingMet},
		{"ninety-one minutes", law.GB, "85@0 8@91", 92, CoolingMissed},
		{"no word after ninety minutes", law.GB, "85@0 30@60", 91, CoolingMissed},
	} {
		t.Run(c.name, func(t *testing.T) {
			under, err := law.Of(c.law)
			require.NoError(t, err)
			var taken []CooledAt
			for rest := c.taken; rest != ""; {
				var x CooledAt
				var min int
				_, err := fmt.Sscanf(rest, "%f@%d", &x.Celsius, &min)
				require.NoError(t, err)
				x.At = began.Add(time.Duration(min) * time.Minute)
				taken = append(taken, x)
				for rest != "" && rest[0] != ' ' {
					rest = rest[1:]
				}
				if rest != "" {
					rest = rest[1:]
				}
			}
			got := JudgeCooling(taken, under.Cooling, began.Add(time.Duration(c.at)*time.Minute))
			assert.Equal(t, c.want, got.State, got.Word)
		})
	}
}
