package lots

import (
	"fmt"
	"testing"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEveryWordForAUnit(t *testing.T) {
	water := &pantry.Ingredient{ID: "w", Name: "Water", DensityGPerML: 1, PieceGrams: 10}
	words := map[string][]string{"1": {"g", "gram", "grams", "gr"}, "1000": {"kg", "kilo", "kilos", "kgs", "l", "litre",
		"litres", "liter", "liters", "ltr"}, "10": {"cl", "piece", "pieces", "pc", "pcs", "ea"}, "100": {"dl"},
		"453.592": {"lb", "lbs"}, "28.35": {"oz"}, "29.574": {"fl oz", "floz", "fl_oz"}, "473.176": {"pint"},
		"946.353": {"quart"}, "3785.412": {"gal", "gallon", "gallons"}, "240": {"tin", "tins"},
		"85": {"bunch", "bunches"}}
	for grams, units := range words {
		for _, u := range units {
			got, err := ReadPack("1 "+u, water, amount.USGallon, measures)
			if assert.NoError(t, err, u) {
				assert.Equal(t, grams, got.String(), u)
			}
		}
	}
	got, err := ReadPack("1 ml", water, amount.USGallon, measures)
	require.NoError(t, err)
	assert.Equal(t, "1", got.String())
	_, err = ReadPack("1 cup", water, amount.USGallon, measures)
	require.Error(t, err, "goods are not bought by the cup")
	seen := ""
	_, err = ReadPack("2 red boxes", water, amount.USGallon,
		func(m string) (float64, bool) { seen += m + ";"; return 7, m == "red_boxes" })
	require.NoError(t, err)
	assert.Equal(t, "red boxes;red boxe;red_boxes;", seen, "as it stands, as one of it, as a measure is named")
}

// TestAGallonIsTheShopsOwn: the same note brings more in a shop whose gallon is the imperial one.
func TestAGallonIsTheShopsOwn(t *testing.T) {
	water := &pantry.Ingredient{ID: "w", Name: "Water", DensityGPerML: 1}
	for note, want := range map[string][2]string{"1 gal": {"3785.412", "4546.09"}, "2 pints": {"946.353", "1136.523"},
		"1 quart": {"946.353", "1136.523"}, "10 fl oz": {"295.735", "284.131"}, "1 lb": {"453.592", "453.592"}} {
		for i, gallon := range []amount.Gallon{amount.USGallon, amount.Imperial} {
			got, err := ReadPack(note, water, gallon, measures)
			require.NoError(t, err)
			assert.Equal(t, want[i], got.String(), "%s, %s", note, gallon)
		}
	}
}

func TestTheMarksOfADelivery(t *testing.T) {
	check := func(f func(*Received)) int {
		r := Received{Supplier: "Mill", Day: "2026-11-25", Grams: amount.G(1), Ends: "2026-12-25", EndKind: BestBefore}
		f(&r)
		return len(r.Check(oil, today))
	}
	for name, x := range map[string]struct {
		change func(*Received)
		wrong  int
	}{
		"today":          {func(r *Received) {}, 0},
		"most grams":     {func(r *Received) { r.Grams = amount.G(amount.MaxGrams) }, 0},
		"more":           {func(r *Received) { r.Grams = amount.G(amount.MaxGrams + 1) }, 1},
		"nothing to pay": {func(r *Received) { m := amount.MustMoney("0"); r.Cost = &m }, 0},
		"the coldest":    {func(r *Received) { r.ArrivalC, r.LimitC = value(-60), value(-60) }, 0},
		"colder":         {func(r *Received) { r.ArrivalC = value(-60.1) }, 1},
		"the warmest":    {func(r *Received) { r.ArrivalC = value(60) }, 0},
		"warmer":         {func(r *Received) { r.ArrivalC = value(60.1) }, 1},
		"all acid":       {func(r *Received) { r.Strength = value(100) }, 0},
		"no acid":        {func(r *Received) { r.Strength = value(0) }, 0},
		"pH 14":          {func(r *Received) { r.PH = value(14) }, 0},
		"pH 0":           {func(r *Received) { r.PH = value(0) }, 0},
		"below":          {func(r *Received) { r.PH = value(-0.1) }, 1},
		"80 letters":     {func(r *Received) { r.Text = fmt.Sprintf("%080d", 1) }, 0},
		"200 letters": {func(r *Received) {
			r.Note, r.Statement = fmt.Sprintf("%0200d", 1),
				fmt.Sprintf("%0200d", 1)
		}, 0},
		"201 letters":         {func(r *Received) { r.Note = fmt.Sprintf("%0201d", 1) }, 1},
		"twenty years":        {func(r *Received) { r.Ends = "2046-11-25" }, 0},
		"a day no calendar":   {func(r *Received) { r.Ends = "2026-02-30" }, 1},
		"neither kind of end": {func(r *Received) { r.EndKind = "" }, 1},
		"its day is no day":   {func(r *Received) { r.Day = "yesterday" }, 1},
	} {
		assert.Equal(t, x.wrong, check(x.change), name)
	}
}

func TestTheMarksOfActs(t *testing.T) {
	s := newShelf(t, nuts, Received{})
	s.does(people.Maker, &Accepted{})
	assert.Equal(t, int64(2), s.f.Lot().Last)
	for _, x := range []Roasted{{100, 600}, {300, 0.1}} {
		s.does(people.Helper, &x)
	}
	for _, x := range []Roasted{{99.9, 10}, {300.1, 10}, {150, 600.1}, {150, 0}} {
		s.refuses(people.Helper, &x)
	}
	s.does(people.Maker, &Stated{Statement: "S 1"})
	s.refuses(people.Maker, &Stated{Statement: "S1"})
	assert.Contains(t, s.refuses(people.Helper, &Held{Reason: "mould"}).Message, "a maker or an owner")
	assert.Contains(t, s.refuses(people.Maker, &Freed{Reason: "fine"}).Message, "for an owner")
	assert.Contains(t, s.refuses("", &Thawed{}).Message, "people who work here")
	s.does(people.Maker, &Held{Reason: "wet"})
	s.refuses(people.Maker, &TurnedAway{Reason: "?!. 12"})
	s.does(people.Maker, &TurnedAway{Reason: "wet through"})
	s.refuses(people.Maker, &Held{Reason: "still wet"})
	s.does(people.Helper, &Counted{Change: amount.G(-1000), Thrown: true, Reason: "all of it"})
	s.there = amount.Grams{}
	s.refuses(people.Helper, &Counted{Change: amount.G(-0.001), Thrown: true, Reason: "more than all"})
	s.does(people.Helper, &Counted{Change: amount.G(amount.MaxGrams), Reason: "a silo"})
	s.refuses(people.Helper, &Counted{Change: amount.G(amount.MaxGrams + 1), Reason: "two silos"})
}

func TestALotIsFrozenUpToItsLastDay(t *testing.T) {
	s := newShelf(t, yogurt, Received{Ends: today, EndKind: UseBy, ArrivalC: value(3), LimitC: value(8)})
	s.does(people.Maker, &Accepted{})
	of := s.facts(yogurt)
	require.NoError(t, s.f.CanFreeze(of, s.there, today, s.moment()), "all of it, on its last day")
	of.Ends = "2026-11-24"
	require.ErrorContains(t, s.f.CanFreeze(of, s.there, today, s.moment()), "past its end")
	of.Ends = ""
	require.NoError(t, s.f.CanFreeze(of, s.there, "2026-11-20", s.moment()), "on the day it came in")
	part := &shelf{t: t, f: NewFold(Part, yogurt), there: amount.G(1)}
	assert.Equal(t, entry.Wrong, part.refuses(people.Maker, &Froze{Day: "2026-11-26"}).Code)
	l := part.does(people.Maker, &Froze{Grams: amount.G(1), Day: today, Days: 90})
	l.Thawed = today
	assert.Equal(t, day.Day("2026-11-29"), l.Of(1, "P1", Facts{}).Ends, "four days where there was no end")
}

func TestHowDeepPreparationsAreFollowed(t *testing.T) {
	var steps []pantry.Preparation
	for i := range 6 {
		steps = append(steps, pantry.Preparation{ID: fmt.Sprint(i), Input: fmt.Sprintf("g%d", i+1),
			Output: fmt.Sprintf("g%d", i), YieldPercent: 50})
	}
	got := Sources("g0", func(string) float64 { return 100 }, steps)
	require.Len(t, got, 5, "four steps and itself")
	assert.InDelta(t, 16, got[4].Share.Float(), 0)
	none := []pantry.Preparation{{ID: "x", Input: "a", Output: "b", YieldPercent: 50, CoOutput: "c", CoYield: 0}}
	assert.Len(t, Sources("c", func(string) float64 { return 100 }, none), 1, "nothing comes of it")
	assert.Equal(t, "sugar", IngredientIn([]Entry{{Body: &CameIn{Received: Received{Ingredient: "salt"}}},
		{Body: &Held{}}, {Body: &Corrected{CameIn: CameIn{Received: Received{Ingredient: "sugar"}}}}}))
	for _, pair := range [][2]string{{"a, b (c)", "A,b(c)"}, {"a; b", "a, b."}, {"a [b]: c", "a[b]:c"}} {
		assert.True(t, SameList(pair[0], pair[1]), pair)
	}
	assert.False(t, SameList("a b", "ab"))
}
