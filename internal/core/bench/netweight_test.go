package bench

import (
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// of190 is the rule for jars of 190 g under the law of Great Britain.
func of190() NetRule {
	return NetRule{Nominal: amount.G(190), Aim: amount.G(190), Short: amount.MustGrams("8.6"), Twice: true}
}

func fullJars(tare string, gross ...string) *NetWeights {
	w := &NetWeights{Tare: amount.MustGrams(tare)}
	for _, g := range gross {
		w.Gross = append(w.Gross, amount.MustGrams(g))
	}
	return w
}

func TestHowManyJarsAreWeighed(t *testing.T) {
	for jars, want := range map[int]int{0: 0, 1: 1, 2: 2, 3: 3, 12: 3, 60: 3, 61: 4, 100: 5, 101: 6, 240: 12} {
		assert.Equal(t, want, SampleOf(jars), "of %d", jars)
	}
}

func TestNetWeightsAreJudgedByTheLabelsLaw(t *testing.T) {
	good := of190().Judge(fullJars("120", "311", "310.4", "312"), 12)
	assert.Empty(t, good.Fails)
	assert.Equal(t, "191.13", good.Mean.String())
	assert.InDelta(t, 0.81, good.Deviation, 1e-9)
	assert.Equal(t, []string{"181.4", "172.8"}, []string{good.Least.String(), good.Lowest.String()})
	assert.Equal(t, "190", good.Target.String())

	low := of190().Judge(fullJars("0", "189", "190", "190"), 12)
	assert.Equal(t, []string{"the average of 189.67 g is under the 190 g of the label"}, low.Fails)
	assert.Equal(t, "191", low.Target.String(), "the hand runs a third of a gram under its aim")

	short := of190().Judge(fullJars("0", "181.3", "200", "200"), 12)
	assert.Equal(t, 1, short.Short)
	assert.Equal(t, []string{"1 jar is under 181.4 g"}, short.Fails)
	assert.Equal(t, "203", short.Target.String(), "181.4 g and 1.96 deviations of 10.8 g")

	far := of190().Judge(fullJars("0", "172.7", "205", "205"), 12)
	assert.Equal(t, 1, far.Far)
	assert.Contains(t, far.Sentence, "1 jar is under 172.8 g, and none may be")

	edge := of190().Judge(fullJars("0", "181.4", "200", "200"), 12)
	assert.Zero(t, edge.Short, "at the limit is not under it")

	few := of190().Judge(fullJars("0", "191", "191"), 12)
	assert.Equal(t, "the net weights of 3 jars", few.lacks(12))
	unknown := NetRule{Nominal: amount.G(190)}.Judge(fullJars("0", "100", "290", "290"), 12)
	assert.Empty(t, unknown.Fails, "only the average is judged")
	assert.Contains(t, unknown.Sentence, "Nobody said")
}

// TestOneShortJarInMany: 1 in 40 may be short, 2 in 40 may not.
func TestOneShortJarInMany(t *testing.T) {
	w := fullJars("0")
	for range 40 {
		w.Gross = append(w.Gross, amount.G(192))
	}
	w.Gross[0] = amount.G(180)
	one := of190().Judge(w, 800)
	assert.Empty(t, one.Fails)
	assert.Contains(t, one.Sentence, "1 jar is under 181.4 g, and of so many that is allowed")
	w.Gross[1] = amount.G(180)
	assert.Equal(t, []string{"2 jars are under 181.4 g"}, of190().Judge(w, 800).Fails)
}

func TestNetWeightsLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := of190()
		w := &NetWeights{}
		for range rapid.IntRange(1, 30).Draw(t, "n") {
			w.Gross = append(w.Gross, amount.Milligrams(int64(rapid.IntRange(150_000, 230_000).Draw(t, "g"))))
		}
		c := r.Judge(w, rapid.IntRange(1, 600).Draw(t, "jars"))
		require.GreaterOrEqual(t, c.Target.Cmp(r.Nominal), 0, "never under the label")
		require.GreaterOrEqual(t, c.Target.Float(), r.Nominal.Float()-8.6+1.96*c.Deviation-0.01)
		require.LessOrEqual(t, c.Far, c.Short)
		heavier := &NetWeights{}
		for _, g := range w.Gross {
			heavier.Gross = append(heavier.Gross, g.Plus(amount.G(1)))
		}
		require.LessOrEqual(t, len(r.Judge(heavier, 12).Fails), len(c.Fails),
			"a gram more in every jar never makes it worse")
		tared := &NetWeights{Tare: amount.G(77)}
		for _, g := range w.Gross {
			tared.Gross = append(tared.Gross, g.Plus(amount.G(77)))
		}
		require.Equal(t, c.Nets, r.Judge(tared, 12).Nets)
	})
}

// TestGramsInAreGramsOut: what went in is in the jars, left over, kept, spilt or unexplained, to the milligram.
func TestGramsInAreGramsOut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mg := func(name string, most int) amount.Grams {
			return amount.Milligrams(int64(rapid.IntRange(0, most).Draw(t, name)))
		}
		c := &Counted{Residue: mg("residue", 300_000), Samples: mg("samples", 200_000)}
		b := BalanceOf(mg("in", 20_000_000), mg("spilt", 500_000), mg("elsewhere", 900_000), mg("mean", 400_000),
			rapid.IntRange(0, 60).Draw(t, "jars"), c)
		out := b.Jars.Plus(b.Residue).Plus(b.Samples).Plus(b.Spilt).Plus(b.Elsewhere).Plus(b.Unexplained)
		require.Equal(t, b.In, out)
		require.False(t, b.AsksReason && b.Impossible)
	})
	b := BalanceOf(amount.G(10_000), amount.G(100), amount.Grams{}, amount.G(190), 48, &Counted{Residue: amount.G(80)})
	assert.Equal(t, "700", b.Unexplained.String())
	assert.Equal(t, "7", b.Share.String())
	assert.True(t, b.AsksReason)
	of := func(mean float64, jars int) Balance {
		return BalanceOf(amount.G(10_000), amount.Grams{}, amount.Grams{}, amount.G(mean), jars, nil)
	}
	assert.False(t, of(194, 50).AsksReason, "3 % is usual")
	assert.True(t, of(190, 54).Impossible)
	assert.False(t, of(200, 51).Impossible, "2 % is the scales")
}

func TestJarsAreWeighedBeforeTheyLeave(t *testing.T) {
	now := time.Date(2026, 11, 2, 12, 0, 0, 0, time.UTC)
	f := NewFold(Needs{Net: of190()})
	n, role := int64(0), people.Helper
	act := func(body any) error {
		n++
		e := Entry{ID: n, At: now, By: "Bram", Role: role, Body: body}
		err := f.Refuses(e)
		if err == nil {
			f.Add(e)
		}
		return err
	}
	missing := func() []string { return f.Record(now).Missing }
	require.Error(t, act(&Counted{Seals: 3}), "no jar was counted yet")
	require.NoError(t, act(&Fill{Jars: 12, Rejected: 1, At: now, Weighed: true}))
	assert.Contains(t, missing(), "the net weights of 3 jars")
	assert.Contains(t, missing(), "the seals looked at, and what was left over")
	require.NoError(t, act(fullJars("0", "189", "188", "190")))
	assert.Contains(t, missing(), "full jars: the average of 189 g is under the 190 g of the label")
	require.Error(t, act(fullJars("0", "191", "191", "191")), "somebody weighed meanwhile")
	again := fullJars("0", "191", "191", "191")
	again.Over = f.Record(now).Net.Entry
	require.NoError(t, act(again))
	require.Error(t, act(&Counted{Seals: 14}), "more than there are")
	require.Error(t, act(&Counted{Seals: 5, Failed: 2}), "the second is not set aside")
	require.NoError(t, act(&Counted{Seals: 13, Failed: 1}))
	for _, m := range missing() {
		assert.NotContains(t, m, "jars")
		assert.NotContains(t, m, "seals")
	}
	require.Error(t, act(&NetWeights{Over: again.Over}), "no jar")
	wrong := fullJars("200", "191")
	wrong.Over = f.Record(now).Net.Entry
	require.Error(t, act(wrong), "lighter than an empty one")
	wrong = fullJars("0", "780")
	wrong.Over = f.Record(now).Net.Entry
	require.Error(t, act(wrong), "another jar")
	require.Error(t, act(&Aimed{Grams: amount.G(192), Reason: "two jars were short"}), "a helper decides nothing")
	role = people.Maker
	require.Error(t, act(&Aimed{Grams: amount.G(180), Reason: "thrift"}))
	require.Error(t, act(&Aimed{Grams: amount.G(192)}), "no reason")
	require.NoError(t, act(&Aimed{Grams: amount.G(192), Reason: "two jars were short"}))
	assert.Equal(t, "192", f.Record(now).Aimed.Grams.String())

	old := NewFold(Needs{Net: of190()})
	old.Add(Entry{ID: 1, At: now, Body: &Fill{Jars: 12, At: now}})
	for _, m := range old.Record(now).Missing {
		assert.NotContains(t, m, "net weights", "jars from before are not weighed again")
	}
}
