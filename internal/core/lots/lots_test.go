package lots

import (
	"encoding/json"
	"slices"
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	noon   = time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	today  = day.Day("2026-11-25")
	yogurt = &pantry.Ingredient{ID: "yogurt", Name: "Yogurt", Flags: []string{"fresh_dairy"}, DensityGPerML: 1.03}
	nuts   = &pantry.Ingredient{ID: "nuts", Name: "Hazelnuts", Flags: []string{"nut_or_seed"}, PieceGrams: 1.2}
	oil    = &pantry.Ingredient{ID: "oil", Name: "Oil", Flags: []string{"refined_oil"}, DensityGPerML: 0.92}
)

func value(x float64) *float64 { return &x }

// shelf is a lot's record that is written act by act.
type shelf struct {
	t     *testing.T
	f     *Fold
	turn  int64
	there amount.Grams
	drawn bool
}

func newShelf(t *testing.T, g *pantry.Ingredient, r Received) *shelf {
	t.Helper()
	s := &shelf{t: t, f: NewFold(Incoming, g)}
	if r.Day == "" {
		r.Day = "2026-11-20"
	}
	if r.Grams.IsZero() {
		r.Grams = amount.G(1000)
	}
	s.there = r.Grams
	s.does(people.Helper, &CameIn{Received: r})
	return s
}

func (s *shelf) entry(role people.Role, body any) Entry {
	s.turn++
	return Entry{entry.Head{ID: s.turn, At: noon, By: string(role), Role: role}, body}
}

func (s *shelf) moment() Moment { return Moment{Today: today, There: s.there, Drawn: s.drawn} }

func (s *shelf) does(role people.Role, body any) Lot {
	s.t.Helper()
	e := s.entry(role, body)
	require.NoError(s.t, s.f.Refuses(e, s.moment()), "%T", body)
	s.f.Add(e)
	return s.f.Lot()
}

func (s *shelf) refuses(role people.Role, body any) entry.Refusal {
	s.t.Helper()
	var no entry.Refusal
	require.ErrorAs(s.t, s.f.Refuses(s.entry(role, body), s.moment()), &no, "%T by %s", body, role)
	return no
}

func (s *shelf) facts(g *pantry.Ingredient) Facts { return s.f.Lot().FactsOf(1, "P1001", g) }

func TestWhatCameInWaitsUntilAMakerAcceptsIt(t *testing.T) {
	s := newShelf(t, oil, Received{})
	assert.Equal(t, "nobody has accepted it yet", s.facts(oil).WhyNot(today))
	assert.Equal(t, entry.NotYours, s.refuses(people.Helper, &Accepted{}).Code)
	s.does(people.Maker, &Accepted{})
	assert.Empty(t, s.facts(oil).WhyNot(today))
	assert.Equal(t, entry.Closed, s.refuses(people.Maker, &Accepted{}).Code)
}

func TestWhatArrivedWarmIsAnOwnersToAccept(t *testing.T) {
	for name, r := range map[string]Received{
		"over the limit":  {ArrivalC: value(8.1), LimitC: value(8)},
		"never looked at": {LimitC: value(8)},
	} {
		t.Run(name, func(t *testing.T) {
			r.Ends, r.EndKind = "2026-12-05", UseBy
			s := newShelf(t, yogurt, r)
			assert.Equal(t, entry.NotYours, s.refuses(people.Maker, &Accepted{Reason: "it was quick"}).Code)
			assert.Equal(t, "accepted.reason", s.refuses(people.Owner, &Accepted{}).Field)
			s.does(people.Owner, &Accepted{Reason: "the driver's logger shows 4 °C throughout"})
			assert.Empty(t, s.facts(yogurt).WhyNot(today))
		})
	}
	cold := newShelf(t, yogurt, Received{Ends: "2026-12-05", EndKind: UseBy, ArrivalC: value(8), LimitC: value(8)})
	cold.does(people.Maker, &Accepted{})
}

func TestWhatWasRefusedComesBackByAnOwnerOnly(t *testing.T) {
	s := newShelf(t, oil, Received{})
	assert.Equal(t, "refused.reason", s.refuses(people.Maker, &TurnedAway{}).Field)
	s.does(people.Maker, &TurnedAway{Reason: "can is dented"})
	assert.Equal(t, "it was refused: can is dented", s.facts(oil).WhyNot(today))
	assert.Equal(t, entry.Closed, s.refuses(people.Maker, &TurnedAway{Reason: "again"}).Code)
	assert.Equal(t, entry.NotYours, s.refuses(people.Maker, &Accepted{Reason: "fine after all"}).Code)
	s.does(people.Owner, &Accepted{Reason: "another can"})
	assert.Empty(t, s.facts(oil).Bar)
}

func TestAHoldIsTakenOffByAnOwnerWithAReason(t *testing.T) {
	s := newShelf(t, oil, Received{})
	s.does(people.Maker, &Accepted{})
	assert.Equal(t, entry.NotYours, s.refuses(people.Helper, &Held{Reason: "smells"}).Code, "a helper tells a maker")
	assert.Equal(t, "held.reason", s.refuses(people.Maker, &Held{Reason: "?"}).Field)
	s.does(people.Maker, &Held{Reason: "smells rancid"})
	assert.Equal(t, "it is on hold: smells rancid", s.facts(oil).Bar)
	assert.Equal(t, entry.Closed, s.refuses(people.Maker, &Held{Reason: "smells rancid"}).Code)
	assert.Equal(t, entry.NotYours, s.refuses(people.Maker, &Freed{Reason: "tasted"}).Code)
	assert.Equal(t, "freed.reason", s.refuses(people.Owner, &Freed{}).Field)
	s.does(people.Owner, &Freed{Reason: "tasted with Bram"})
	assert.Empty(t, s.facts(oil).Bar)
	assert.Equal(t, entry.Closed, s.refuses(people.Owner, &Freed{Reason: "once more"}).Code)
}

func TestAListPrintedDifferentlyOpensTheAllergensAgain(t *testing.T) {
	s := newShelf(t, oil, Received{})
	c := func(list string) *Corrected {
		return &Corrected{CameIn: CameIn{Received: Received{Ingredient: "", Day: "2026-11-20", Grams: amount.G(1000),
			List: list}, Was: "rapeseed oil; salt"}, Reason: "read it again"}
	}
	assert.False(t, s.f.Lot().Differs)
	s.does(people.Maker, c("Rapeseed oil ,  salt."))
	assert.False(t, s.f.Lot().Differs, "case, spaces and marks are no difference")
	l := s.does(people.Maker, c("rapeseed oil, salt, mustard"))
	assert.True(t, l.Differs)
	s.does(people.Maker, &Accepted{})
	assert.Contains(t, s.facts(oil).WhyNot(today), "printed differently")
	assert.Equal(t, entry.NotYours, s.refuses(people.Maker, &Compared{Reason: "looked"}).Code)
	assert.Equal(t, "compared.reason", s.refuses(people.Owner, &Compared{}).Field)
	s.does(people.Owner, &Compared{Reason: "mustard added to the allergens"})
	assert.Empty(t, s.facts(oil).WhyNot(today))
	assert.Equal(t, entry.Closed, s.refuses(people.Owner, &Compared{Reason: "once more"}).Code)
	assert.False(t, s.does(people.Owner, c("rapeseed oil, salt, mustard")).Differs, "what was compared stays so")
	assert.True(t, s.does(people.Owner, c("rapeseed oil, salt, celery")).Differs, "another list is looked at again")
}

func TestACorrectionThatLoosensIsAnOwnersOnceItWasAccepted(t *testing.T) {
	was := Received{Ingredient: "yogurt", Supplier: "Dairy", Day: "2026-11-20", Grams: amount.G(1000),
		Ends:    "2026-12-05",
		EndKind: UseBy, ArrivalC: value(6), LimitC: value(8), List: "milk", Strength: value(4), PH: value(4.4)}
	change := func(f func(*Received)) Received {
		r := was
		f(&r)
		return r
	}
	for name, x := range map[string]struct {
		is    Received
		loose bool
	}{
		"a later end":           {change(func(r *Received) { r.Ends = "2026-12-06" }), true},
		"no end":                {change(func(r *Received) { r.Ends = "" }), true},
		"an earlier end":        {change(func(r *Received) { r.Ends = "2026-12-04" }), false},
		"a best-before":         {change(func(r *Received) { r.EndKind = BestBefore }), true},
		"colder on arrival":     {change(func(r *Received) { r.ArrivalC = value(4) }), true},
		"warmer on arrival":     {change(func(r *Received) { r.ArrivalC = value(7) }), false},
		"a higher limit":        {change(func(r *Received) { r.LimitC = value(9) }), true},
		"a lower limit":         {change(func(r *Received) { r.LimitC = value(7) }), false},
		"a statement":           {change(func(r *Received) { r.Statement = "certificate 1" }), true},
		"another list":          {change(func(r *Received) { r.List = "milk, cream" }), true},
		"a stronger acid":       {change(func(r *Received) { r.Strength = value(5) }), true},
		"a weaker acid":         {change(func(r *Received) { r.Strength = value(3) }), false},
		"a lower pH":            {change(func(r *Received) { r.PH = value(4.2) }), true},
		"a pH taken out":        {change(func(r *Received) { r.PH = nil }), true},
		"another ingredient":    {change(func(r *Received) { r.Ingredient = "cream" }), true},
		"another supplier only": {change(func(r *Received) { r.Supplier = "Mill" }), false},
	} {
		t.Run(name, func(t *testing.T) {
			fix := func() *Corrected { return &Corrected{CameIn: CameIn{Received: x.is}, Reason: "typed wrong"} }
			assert.Equal(t, x.loose, len(was.Looser(x.is)) > 0, "%v", was.Looser(x.is))
			newShelf(t, yogurt, was).does(people.Maker, fix())
			accepted := newShelf(t, yogurt, was)
			accepted.does(people.Maker, &Accepted{})
			if x.loose {
				assert.Equal(t, entry.NotYours, accepted.refuses(people.Maker, fix()).Code)
			}
			accepted.does(people.Owner, fix())
			assert.Equal(t, x.is.Ends, accepted.f.Lot().CameIn.Ends)
			drawn := newShelf(t, yogurt, was)
			drawn.drawn = true
			if x.loose {
				assert.Equal(t, entry.NotYours, drawn.refuses(people.Maker, fix()).Code, "it went into something")
			}
		})
	}
	used := newShelf(t, yogurt, was)
	used.drawn = true
	other := change(func(r *Received) { r.Ingredient = "cream" })
	assert.Equal(t, "corrected.ingredient",
		used.refuses(people.Owner, &Corrected{CameIn: CameIn{Received: other}, Reason: "it was cream"}).Field)
	assert.Equal(t, "corrected.reason",
		used.refuses(people.Owner, &Corrected{CameIn: CameIn{Received: was}}).Field)
}

func TestTheKillStepIsAStatementOrARoastFromThenOn(t *testing.T) {
	s := newShelf(t, nuts, Received{})
	assert.True(t, s.facts(nuts).NeedsProof)
	assert.Empty(t, s.facts(nuts).Proof)
	assert.Equal(t, "roasted.celsius", s.refuses(people.Helper, &Roasted{C: 99, Minutes: 10}).Field)
	assert.Equal(t, "roasted.celsius", s.refuses(people.Helper, &Roasted{C: 150}).Field)
	s.does(people.Helper, &Roasted{C: 150, Minutes: 12})
	f := s.facts(nuts)
	assert.Equal(t, "roasted at 150 °C for 12 min", f.Proof)
	assert.Equal(t, noon.Format(time.RFC3339Nano), f.ProofFrom)
	assert.Equal(t, "stated.statement", s.refuses(people.Maker, &Stated{Statement: " "}).Field)
	s.does(people.Maker, &Stated{Statement: "certificate 44"})
	f = s.facts(nuts)
	assert.Equal(t, "certificate 44", f.Proof)
	assert.Empty(t, f.ProofFrom, "a statement is of all of the lot")
	s.does(people.Helper, &Roasted{C: 150, Minutes: 12})
	assert.Equal(t, "certificate 44", s.facts(nuts).Proof, "a roast takes no statement away")
}

func TestCountingAndThrowingAway(t *testing.T) {
	s := newShelf(t, oil, Received{})
	assert.Equal(t, "counted.change_g", s.refuses(people.Helper, &Counted{Reason: "counted"}).Field)
	assert.Equal(t, "counted.reason", s.refuses(people.Helper, &Counted{Change: amount.G(-5)}).Field)
	assert.Equal(t, "counted.change_g",
		s.refuses(people.Helper, &Counted{Change: amount.G(5), Thrown: true, Reason: "spilt"}).Field)
	assert.Equal(t, "counted.change_g",
		s.refuses(people.Helper, &Counted{Change: amount.G(-1000.1), Thrown: true, Reason: "spilt"}).Field)
	s.does(people.Helper, &Counted{Change: amount.G(-300), Thrown: true, Reason: "spilt"})
	s.does(people.Helper, &Counted{Change: amount.G(20), Reason: "the can held more"})
	book := s.f.Lot().Received
	assert.Equal(t, Book{In: amount.G(1000), Corrected: amount.G(-280), Thrown: amount.G(300)}, book)
	assert.Equal(t, amount.G(20), book.OnHand(amount.G(700)))
	assert.Equal(t, amount.G(-80), book.OnHand(amount.G(800)), "it may go below nothing, and shows it")
}

func TestFreezingStopsTheClockOnce(t *testing.T) {
	s := newShelf(t, yogurt, Received{Ends: "2026-11-30", EndKind: UseBy, ArrivalC: value(3), LimitC: value(8)})
	can := func(grams float64, day day.Day) error {
		return s.f.CanFreeze(s.facts(yogurt), amount.G(grams), day, s.moment())
	}
	require.Error(t, can(100, "2026-11-22"), "not before it is accepted")
	s.does(people.Maker, &Accepted{})
	require.NoError(t, can(100, "2026-11-22"))
	for name, err := range map[string]error{"nothing": can(0, "2026-11-22"),
		"more than there is": can(1000.1, "2026-11-22"),
		"before it came":     can(1, "2026-11-19"), "tomorrow": can(1, "2026-11-26")} {
		require.Error(t, err, name)
	}
	s.does(people.Maker, &Parted{Into: 2, Code: "P1002", Grams: amount.G(100)})
	assert.Equal(t, amount.G(100), s.f.Lot().Received.Parted)

	part := &shelf{t: t, f: NewFold(Part, yogurt), there: amount.G(100)}
	left := 8
	l := part.does(people.Maker, &Froze{From: 1, Code: "P1001", Grams: amount.G(100), Day: "2026-11-22", Left: &left,
		Days: 90})
	of := l.Of(2, "P1002", s.facts(yogurt))
	assert.Equal(t, day.Day("2027-02-20"), of.Ends)
	assert.Contains(t, of.WhyNot(today), "thaw it first")
	assert.Equal(t, amount.G(100), l.Received.In)
	require.ErrorContains(t, part.f.CanFreeze(of, amount.G(1), today, part.moment()), "never frozen again")
	assert.Equal(t, "thawed.day", part.refuses(people.Helper, &Thawed{Day: "2026-11-21"}).Field)
	assert.Equal(t, "thawed.day", part.refuses(people.Helper, &Thawed{Day: "2026-11-26"}).Field)
	l = part.does(people.Helper, &Thawed{Day: "2026-11-24"})
	of = l.Of(2, "P1002", s.facts(yogurt))
	assert.Equal(t, day.Day("2026-11-28"), of.Ends, "four days, less than was left")
	assert.Empty(t, of.WhyNot(today))
	assert.Equal(t, entry.Closed, part.refuses(people.Helper, &Thawed{Day: today}).Code)
	short := s.facts(yogurt)
	short.Ends = "2026-11-24"
	assert.Equal(t, day.Day("2026-11-26"), l.Of(2, "P1002", short).Ends,
		"two days, because two were left: its end was put right")
	short.Ends = "2026-11-20"
	assert.Equal(t, day.Day("2026-11-24"), l.Of(2, "P1002", short).Ends, "none were left")
	short.Ends = ""
	assert.Equal(t, day.Day("2026-11-28"), l.Of(2, "P1002", short).Ends,
		"what was known on the day, where nothing is known now")
	s.does(people.Maker, &Held{Reason: "supplier called it back"})
	require.NoError(t, can(100, "2026-11-22"), "what is on hold may be frozen, and stays on hold")
	of = l.Of(2, "P1002", s.facts(yogurt))
	assert.Equal(t, OnHold, of.State)
	assert.Contains(t, of.Bar, "it is part of P1001: it is on hold: supplier called it back")
	assert.Equal(t, entry.Closed, newShelf(t, yogurt, Received{Ends: "2026-11-30"}).
		refuses(people.Helper, &Thawed{Day: today}).Code, "what was never frozen is not thawed")
}

func TestALotPastItsEndIsNotUsed(t *testing.T) {
	s := newShelf(t, oil, Received{Ends: today, EndKind: BestBefore})
	s.does(people.Maker, &Accepted{})
	f := s.facts(oil)
	assert.Empty(t, f.WhyNot(today), "on its last day it is")
	assert.Equal(t, "it is past its best", f.WhyNot("2026-11-26"))
	assert.Empty(t, f.Binds(), day.Day("a best-before ends nothing that it goes into"))
	f.EndKind = UseBy
	assert.Equal(t, today, f.Binds())
}

func TestWhatEndsFirstIsUsedFirst(t *testing.T) {
	list := []Facts{{ID: 4}, {ID: 3, Ends: "2027-01-02"}, {ID: 2, Ends: "2027-01-02"}, {ID: 5, Ends: "2026-12-31"},
		{ID: 1}}
	slices.SortFunc(list, FirstExpired)
	ids := []int64{}
	for _, f := range list {
		ids = append(ids, f.ID)
	}
	assert.Equal(t, []int64{5, 2, 3, 1, 4}, ids)
}

func TestWhatIsWrongWithADelivery(t *testing.T) {
	good := Received{Ingredient: "yogurt", Supplier: "Dairy", Day: today, Grams: amount.G(2000), Ends: "2026-12-05",
		EndKind: UseBy}
	assert.Empty(t, good.Check(yogurt, today))
	for field, change := range map[string]func(*Received){
		"supplier":  func(r *Received) { r.Supplier = " " },
		"day":       func(r *Received) { r.Day = "2026-11-26" },
		"pack":      func(r *Received) { r.Grams = amount.Grams{} },
		"ends":      func(r *Received) { r.Ends = "" },
		"end_kind":  func(r *Received) { r.EndKind = BestBefore },
		"cost":      func(r *Received) { m := amount.MustMoney("-1"); r.Cost = &m },
		"arrival_c": func(r *Received) { r.ArrivalC = value(72) },
		"limit_c":   func(r *Received) { r.LimitC = value(-61) },
		"strength":  func(r *Received) { r.Strength = value(101) },
		"ph":        func(r *Received) { r.PH = value(14.1) },
		"list":      func(r *Received) { r.List = "milk (cream" },
		"text":      func(r *Received) { r.Text = string(make([]rune, 81)) },
	} {
		r := good
		change(&r)
		errs := r.Check(yogurt, today)
		if assert.Len(t, errs, 1, field) {
			assert.Equal(t, field, errs[0].Field)
		}
	}
	assert.Equal(t, "ingredient", good.Check(nil, today)[0].Field)
	far := good
	far.Ends = "2047-01-01"
	assert.Equal(t, "ends", far.Check(yogurt, today)[0].Field)
	plain := Received{Ingredient: "oil", Supplier: "Mill", Day: today, Grams: amount.G(1)}
	assert.Empty(t, plain.Check(oil, today), "what does not perish needs no end")
}

func TestTwinsCarryTheSameWordsOfTheSameSupplier(t *testing.T) {
	of := Facts{ID: 1, Supplier: "Mill", Text: "HZ  1"}
	list := []Facts{of, {ID: 2, Supplier: "mill", Text: "hz 1"}, {ID: 3, Supplier: "Dairy", Text: "HZ 1"},
		{ID: 4, Supplier: "Mill", Text: "HZ 2"}}
	assert.Equal(t, []Facts{list[1]}, Twins(list, of))
	assert.Empty(t, Twins(list, Facts{ID: 9, Supplier: "Mill"}), "no words are no words in common")
}

func TestAnActTravelsWithItsKind(t *testing.T) {
	e := Entry{entry.Head{ID: 3, Seq: 2, At: noon, By: "Ines", Role: people.Owner}, &Held{Reason: "mould"}}
	raw, err := json.Marshal(e)
	require.NoError(t, err)
	assert.JSONEq(t, `{"id":3,"seq":2,"kind":"held","at":"2026-11-25T12:00:00Z","by":"Ines","role":"owner",
		"held":{"reason":"mould"}}`, string(raw))
	var back Entry
	require.NoError(t, json.Unmarshal(raw, &back))
	assert.Equal(t, e, back)
	require.Error(t, json.Unmarshal([]byte(`{"kind":"joy","joy":{}}`), &back))
	assert.Len(t, Kinds(), 13)
}

func TestFactsThatSayTheSame(t *testing.T) {
	per, other := amount.ExactFloat(0.25), amount.Ratio(1, 4)
	f := Facts{ID: 1, Code: "P1", PerGram: &per, PH: value(3), Strength: value(5)}
	assert.True(t, f.Same(Facts{ID: 1, Code: "P1", PerGram: &other, PH: value(3), Strength: value(5)}))
	for name, g := range map[string]Facts{"bar": {ID: 1, Code: "P1", Bar: "x", PerGram: &per, PH: value(3),
		Strength: value(5)},
		"no cost": {ID: 1, Code: "P1", PH: value(3), Strength: value(5)},
		"pH":      {ID: 1, Code: "P1", PerGram: &per, PH: value(3.1), Strength: value(5)},
		"acid":    {ID: 1, Code: "P1", PerGram: &per, PH: value(3)}} {
		assert.False(t, f.Same(g), name)
	}
}
