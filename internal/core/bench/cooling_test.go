package bench

import (
	"slices"
	"testing"
	"time"

	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// hotBowl is a bowl whose leek comes hot from a roast, under a law's limits.
func hotBowl(t *testing.T, r law.Regime) *bowl {
	t.Helper()
	under, err := law.Of(r)
	require.NoError(t, err)
	b := newBowl(t)
	b.f.n.Targets[0].Hot = "roast"
	b.f.n.Cooling = under.Cooling
	b.f.n.Bounds.Zone = time.UTC
	return b
}

func (b *bowl) cools(what string, celsius float64, at time.Time) {
	b.t.Helper()
	b.take(at, people.Helper, &Cooled{What: what, Celsius: celsius, At: at})
}

// log is the cooling log of a thing as it stands at a time.
func (b *bowl) log(what string, now time.Time) Cooling {
	b.t.Helper()
	return theOne(b.t, b.f.Record(now).Cooling, what, func(c Cooling) string { return c.What })
}

// theOne is what a list has under a name.
func theOne[T any](t *testing.T, list []T, name string, of func(T) string) T {
	t.Helper()
	i := slices.IndexFunc(list, func(x T) bool { return of(x) == name })
	require.GreaterOrEqual(t, i, 0, "nothing is called %s", name)
	return list[i]
}

func TestWhatCameHotIsReleasedOnlyWithItsCoolingLog(t *testing.T) {
	after := func(min int) time.Time { return filled.Add(time.Duration(min) * time.Minute) }
	b := hotBowl(t, law.GB)
	assert.Equal(t, CoolingNone, b.log("1", filled).State)
	assert.Contains(t, b.f.Record(filled).Missing, "the cooling log of Leek")

	b.cools("1", 84, filled)
	c := b.log("1", after(5))
	assert.Equal(t, CoolingRuns, c.State)
	require.NotNil(t, c.Due)
	assert.Equal(t, after(90), *c.Due, "8 °C within 90 min")
	assert.Contains(t, c.Word, "13:30", "by the shop's clock")
	assert.Contains(t, b.f.Record(after(5)).Missing, "Leek at 8.0 °C")

	b.cools("1", 7, after(80))
	c = b.log("1", after(200))
	assert.Equal(t, CoolingMet, c.State)
	require.Len(t, c.Taken, 2)
	assert.Equal(t, string(people.Helper), c.Taken[1].By)
	r := b.f.Record(after(200))
	for _, lack := range r.Missing {
		assert.NotContains(t, lack, "cooling")
	}
	assert.Empty(t, r.Asks.Owner)
}

func TestAMissedCoolingAsksAnOwner(t *testing.T) {
	after := func(min int) time.Time { return filled.Add(time.Duration(min) * time.Minute) }
	b := hotBowl(t, law.US)
	b.cools("1", 80, filled)
	b.cools("1", 30, after(130))
	assert.Equal(t, CoolingMissed, b.log("1", after(131)).State, "70 °F within 2 h")
	assert.Contains(t, b.f.Record(after(131)).Asks.Owner, "the cooling of Leek was missed")
	b.cools("1", 4, after(200))
	assert.Equal(t, CoolingMissed, b.log("1", after(201)).State, "what was missed stays missed")

	told := hotBowl(t, law.US)
	told.cools("1", 4, after(200)) // in whatever order they are typed
	told.cools("1", 80, filled)
	told.cools("1", 20, after(100))
	assert.Equal(t, CoolingMet, told.log("1", after(201)).State)
}

func TestWhatLayColdOnTheShelfHasNoCoolingLog(t *testing.T) {
	b := hotBowl(t, law.GB)
	b.f.n.Targets[0].NeedsLot = true
	b.f.n.Lots = map[int64]lots.Facts{3: lot(3, ""), 4: lot(4, "")}
	b.take(filled, people.Helper, b.weighed(filled, Draw{Lot: 3, Grams: b.f.n.Targets[0].Grams}))
	assert.Empty(t, b.f.Record(filled).Cooling, "it was bought as it went in")

	fresh := hotBowl(t, law.GB)
	fresh.f.n.Targets[0].NeedsLot = true
	fresh.f.n.Lots = b.f.n.Lots
	fresh.take(filled, people.Helper, fresh.weighed(filled, Draw{Lot: 3, Grams: b.f.n.Targets[0].Grams, Step: "roast"}))
	assert.Equal(t, CoolingNone, fresh.log("1", filled).State, "it was roasted for this batch")
}

func TestHotFilledJarsHaveACoolingLogOfTheirOwn(t *testing.T) {
	b := hotBowl(t, law.GB)
	b.f.n.Targets[0].Hot = ""
	assert.Empty(t, b.f.Record(filled).Cooling)
	b.f.n.Planned = &Planned{HotFilled: true}
	assert.Contains(t, b.f.Record(filled).Missing, "the cooling log of the hot-filled jars")
	b.cools(HotJars, 85, filled)
	b.cools(HotJars, 6, filled.Add(time.Hour))
	assert.Equal(t, CoolingMet, b.log(HotJars, filled.Add(2*time.Hour)).State)
}

func TestATemperatureThatCannotBeIsRefused(t *testing.T) {
	b := hotBowl(t, law.GB)
	for field, x := range map[string]*Cooled{
		"cooled.what":    {What: "2", Celsius: 80, At: filled},
		"cooled.celsius": {What: "1", Celsius: 251, At: filled},
		"cooled.at":      {What: "1", Celsius: 80, At: filled.Add(time.Hour)},
	} {
		assert.Equal(t, field, b.field(people.Helper, x))
	}
	assert.Empty(t, b.refused(filled, people.Helper, &Cooled{What: "1", Celsius: -18, At: filled}))
	b.made()
	require.Empty(t, b.decide(filled, people.Owner, Rejected, "it smelled of the tin"))
	assert.Equal(t, entry.Closed, b.refused(filled.Add(time.Hour), people.Helper,
		&Cooled{What: "1", Celsius: 6, At: filled}), "what was decided does not change behind it")
}

func TestHowAThingPours(t *testing.T) {
	of := func(water, fat float64, tags ...string) formula.Node {
		g := &pantry.Ingredient{ID: "x", Name: "x", Flags: tags}
		g.Composition.Water, g.Composition.Fat = water, fat
		return formula.Node{Ingredient: g}
	}
	for _, c := range []struct {
		name string
		node formula.Node
		want string
	}{
		{"a component", formula.Node{}, PoursPaste},
		{"an oil", of(0, 100, pantry.FlagRefinedOil), PoursOil},
		{"a vinegar", of(95, 0, "acidulant"), PoursThin},
		{"a juice that is less thin", of(60, 0, "acidulant"), PoursThin},
		{"a salt", of(0.2, 0), PoursDry},
		{"a dry acid", of(0.5, 0, "acidulant"), PoursDry},
		{"a purée", of(88, 0), PoursPaste},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, ClassOf(c.node)) })
	}
}
