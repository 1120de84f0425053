package bench

import (
	"testing"
	"time"

	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
)

func TestWhatWasMeasuredHasBounds(t *testing.T) {
	for _, c := range []struct {
		body any
		code string
	}{
		{&Heat{ColdestC: 85, Minutes: 10}, ""},
		{&Heat{ColdestC: 131, Minutes: 10}, entry.Wrong},
		{&Heat{ColdestC: 85, Minutes: 1441}, entry.Wrong},
		{&Laboratory{WaterActivity: 0.83, Report: "26-114"}, ""},
		{&Laboratory{WaterActivity: 1.01, Report: "26-114"}, entry.Wrong},
		{&Laboratory{WaterActivity: 0, Report: "26-114"}, entry.Wrong},
		{&Laboratory{WaterActivity: 0.83}, entry.Wrong},
		{&Worked{Minutes: 90}, ""},
		{&Worked{Minutes: 0}, entry.Wrong},
		{&Worked{Minutes: 20_001}, entry.Wrong},
		{&Timed{From: filled.Add(2 * time.Minute)}, entry.Wrong},
		{&Strained{Clear: true}, entry.Wrong},
	} {
		assert.Equal(t, c.code, newBowl(t).refused(filled, people.Maker, c.body), "%T %+v", c.body, c.body)
	}
}

// TestADecidedBatchIsNotMeasuredAnew: what would change a decision waits until the batch is on hold again.
func TestADecidedBatchIsNotMeasuredAnew(t *testing.T) {
	b := newBowl(t).made()
	assert.Empty(t, b.decide(filled.Add(time.Hour), people.Owner, Rejected, "a splinter of glass"))
	for _, body := range []any{&Heat{ColdestC: 85, Minutes: 10}, &Laboratory{WaterActivity: 0.83, Report: "26-114"}} {
		assert.Equal(t, entry.Closed, b.refused(filled.Add(2*time.Hour), people.Owner, body), "%T", body)
	}
}

func TestAnOilThatPlantsWereKeptInIsSaidToBeClear(t *testing.T) {
	b := newBowl(t)
	b.f.n.Infused = true
	assert.False(t, recordAt(b, filled).StrainedClear())
	b.take(filled, people.Helper, &Strained{Clear: false})
	assert.False(t, recordAt(b, filled).StrainedClear(), "cloudy is not clear")
	b.take(filled, people.Helper, &Strained{Clear: true})
	assert.True(t, recordAt(b, filled).StrainedClear())
}

func TestHeatIsMetOnTheColdestJarForLongEnough(t *testing.T) {
	n := Needs{HeatC: 85, HeatMin: 10}
	for _, c := range []struct {
		heat *Heat
		met  bool
	}{{nil, false}, {&Heat{ColdestC: 84.9, Minutes: 20}, false}, {&Heat{ColdestC: 85, Minutes: 9}, false},
		{&Heat{ColdestC: 85, Minutes: 10}, true}} {
		r := Record{Heat: c.heat}
		assert.Equal(t, c.met, r.HeatMet(n), "%+v", c.heat)
		assert.False(t, r.HeatMet(Needs{}), "where no heat step is asked none is met")
	}
}

// lacking is a batch that was released and called back since its labels do not name sesame.
func lacking(t *testing.T) *bowl {
	b := newBowl(t).made()
	b.take(filled.Add(time.Hour), people.Owner, &Recall{Cause: "its labels do not name sesame", Change: 7, Lacks: "sesame"})
	return b
}

func TestJarsThatLackAWordAreMadeGoodByAnOwnerAlone(t *testing.T) {
	at := filled.Add(3 * time.Hour)
	good := func(change func(*MadeGood)) *MadeGood {
		x := &MadeGood{Change: 7, How: Gone, Reason: "all were sold at the stall", Told: "the stall's list, by telephone",
			Authority: "the council's food team", Day: day.Of(at)}
		change(x)
		return x
	}
	for name, c := range map[string]struct {
		role people.Role
		body *MadeGood
		code string
	}{
		"an owner, with everything told": {people.Owner, good(func(*MadeGood) {}), ""},
		"a maker":                        {people.Maker, good(func(*MadeGood) {}), entry.NotYours},
		"another change":                 {people.Owner, good(func(x *MadeGood) { x.Change = 8 }), entry.Closed},
		"in no way that there is":        {people.Owner, good(func(x *MadeGood) { x.How = "eaten" }), entry.Wrong},
		"without a reason":               {people.Owner, good(func(x *MadeGood) { x.Reason = "-" }), entry.Wrong},
		"gone, and nobody told":          {people.Owner, good(func(x *MadeGood) { x.Told = " " }), entry.Wrong},
		"gone, no authority":             {people.Owner, good(func(x *MadeGood) { x.Authority = "" }), entry.Wrong},
		"told tomorrow": {people.Owner, good(func(x *MadeGood) { x.Day = day.Of(at.AddDate(0, 0, 1)) }),
			entry.Wrong},
		"relabelled, and none printed": {people.Owner, good(func(x *MadeGood) { x.How = Relabelled }), entry.Closed},
		"withdrawn":                    {people.Owner, good(func(x *MadeGood) { x.How = Withdrawn }), ""},
	} {
		assert.Equal(t, c.code, lacking(t).refused(at, c.role, c.body), name)
	}
	b := lacking(t)
	assert.Equal(t, "sesame", recordAt(b, at).Lacks())
	b.take(at, people.Owner, good(func(x *MadeGood) { x.How = Withdrawn }))
	assert.Empty(t, recordAt(b, at).Lacks())
	assert.Equal(t, entry.Closed, b.refused(at, people.Owner, good(func(*MadeGood) {})), "it is dealt with once")
}

func recordAt(b *bowl, at time.Time) *Record {
	r := b.f.Record(at)
	return &r
}
