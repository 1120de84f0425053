package shop

import (
	"strconv"
	"strings"
	"testing"
	"time"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sound is a shop with which nothing is wrong.
func sound() Settings {
	s := Defaults().WithDefaults().WithThings()
	s.Name = "Hollin Lane Larder"
	return s
}

func TestAFreshShopNeedsOnlyItsName(t *testing.T) {
	assert.Empty(t, sound().Check())
	fresh := Defaults().WithDefaults().WithThings()
	errs := fresh.Check()
	require.Len(t, errs, 1)
	assert.Equal(t, "name", errs[0].Field)
}

// TestEachSettingIsCheckedInItsField tries each at its bounds and beyond them.
func TestEachSettingIsCheckedInItsField(t *testing.T) {
	for _, c := range []struct {
		field string
		set   func(*Settings)
	}{
		{"", func(s *Settings) { s.Name = strings.Repeat("é", 80) }},
		{"name", func(s *Settings) { s.Name = strings.Repeat("é", 81) }},
		{"address", func(s *Settings) { s.Address = strings.Repeat("x", 301) }},
		{"currency", func(s *Settings) { s.Currency = "gbp" }},
		{"currency", func(s *Settings) { s.Currency = "££" }},
		{"locale", func(s *Settings) { s.Locale = "tlh" }},
		{"regime", func(s *Settings) { s.Regime = "XX" }},
		{"price_rule", func(s *Settings) { s.PriceRule = "luck" }},
		{"", func(s *Settings) { s.StaleDays = 3650 }},
		{"stale_days", func(s *Settings) { s.StaleDays = 3651 }},
		{"stale_days", func(s *Settings) { s.StaleDays = 0 }},
		{"opened_days", func(s *Settings) { s.OpenedDays = 91 }},
		{"labour_per_hour", func(s *Settings) { s.LabourPerHour = amount.MustMoney("-0.01") }},
		{"scale_division_g", func(s *Settings) { s.ScaleDivision = amount.Grams{} }},
		{"sample_g", func(s *Settings) { s.SampleGrams = amount.G(100_001) }},
		{"residue_g", func(s *Settings) { s.Residue = amount.G(-1) }},
		{"tablespoon", func(s *Settings) { s.Tablespoon = "moon" }},
		{"cup", func(s *Settings) { s.Cup = "moon" }},
		{"kitchen_per_hour", func(s *Settings) { s.KitchenPerHour = amount.MustMoney("-1") }},
		{"oven_per_hour", func(s *Settings) { s.OvenPerHour = amount.MustMoney("-1") }},
		{"", func(s *Settings) { s.DayMinutes = amount.Min(1440) }},
		{"day_minutes", func(s *Settings) { s.DayMinutes = amount.Min(1440.1) }},
		{"time_zone", func(s *Settings) { s.TimeZone = "Local" }},
		{"time_zone", func(s *Settings) { s.TimeZone = "Mars/Olympus" }},
		{"idle_minutes", func(s *Settings) { s.IdleMinutes = 241 }},
		{"allergen_words", func(s *Settings) { s.AllergenWords = make([]allergen.Term, 301) }},
		{"allergen_words[0]", func(s *Settings) { s.AllergenWords = []allergen.Term{{}} }},
		{"country", func(s *Settings) { s.Country = strings.Repeat("x", 61) }},
		{"label_addresses.us", func(s *Settings) {
			s.LabelAddresses = law.Each[string]{"US": strings.Repeat("x", 301)}
		}},
		{"colour", func(s *Settings) { s.Colour = "beet" }},
		{"jars", func(s *Settings) { s.Jars = make([]pack.Jar, mostJars+1) }},
		{"stocks", func(s *Settings) { s.Stocks = make([]labelart.Stock, mostStocks+1) }},
		{"jars[1].name", func(s *Settings) { s.Jars = []pack.Jar{s.Jars[0], s.Jars[0]} }},
		{"stocks[1].name", func(s *Settings) { s.Stocks = []labelart.Stock{s.Stocks[0], s.Stocks[0]} }},
	} {
		s := sound()
		c.set(&s)
		errs := s.Check()
		if c.field == "" {
			assert.Empty(t, errs)
			continue
		}
		require.NotEmpty(t, errs, c.field)
		assert.Equal(t, c.field, errs[0].Field)
	}
}

func TestDevicesAreCheckedOneByOne(t *testing.T) {
	for _, c := range []struct {
		field string
		d     Device
	}{
		{"", Device{ID: "x", Kind: Scale, Name: "Floor scale", Division: amount.G(10), Address: "192.168.1.20:4001"}},
		{"devices[1].name", Device{ID: "x", Kind: Probe}},
		{"devices[1].id", Device{ID: "bench", Kind: Probe, Name: "Probe"}},
		{"devices[1].address", Device{ID: "x", Kind: Probe, Name: "Probe", Address: "192.168.1.20"}},
		{"devices[1].address", Device{ID: "x", Kind: Probe, Name: "Probe", Address: "host:99999"}},
		{"devices[1].address", Device{ID: "x", Kind: Probe, Name: "Probe", Address: "a b:80"}},
		{"devices[1].division_g", Device{ID: "x", Kind: Scale, Name: "Scale"}},
		{"devices[1].capacity_g", Device{ID: "x", Kind: Scale, Name: "Scale", Division: amount.G(10),
			Capacity: amount.G(10)}},
		{"devices[1].kind", Device{ID: "x", Kind: "oven", Name: "Oven"}},
	} {
		s := sound()
		s.Devices = []Device{UsualDevices(amount.G(1))[0], c.d}
		errs := s.Check()
		if c.field == "" {
			assert.Empty(t, errs)
			continue
		}
		require.NotEmpty(t, errs, c.field)
		assert.Equal(t, c.field, errs[0].Field)
	}
	s := sound()
	s.Devices = []Device{{ID: "p", Kind: Probe, Name: "Probe"}}
	assert.Equal(t, "devices", s.Check()[0].Field, "a shop weighs on something")
}

func TestATableOfShortagesRises(t *testing.T) {
	step := func(to, percent, fixed float64) law.ShortStep {
		return law.ShortStep{To: to, Percent: percent, Fixed: fixed}
	}
	for _, c := range []struct {
		field string
		table []law.ShortStep
		where string
	}{
		{"", []law.ShortStep{step(50, 9, 0), step(100, 0, 4.5)}, "annex 2"},
		{"allowable.1", []law.ShortStep{step(50, 9, 0), step(50, 0, 4.5)}, "annex 2"},
		{"allowable.0", []law.ShortStep{step(50, 9, 4.5)}, "annex 2"},
		{"allowable.0", []law.ShortStep{step(50, 51, 0)}, "annex 2"},
		{"allowable.0", []law.ShortStep{step(50, 0, 50)}, "annex 2"},
		{"allowable_source", []law.ShortStep{step(50, 9, 0)}, " "},
	} {
		s := sound()
		s.Allowable, s.AllowableSource = c.table, c.where
		errs := s.Check()
		if c.field == "" {
			assert.Empty(t, errs)
			continue
		}
		require.NotEmpty(t, errs, c.field)
		assert.Equal(t, c.field, errs[0].Field)
	}
}

// TestAShopIsTighterThanTheRulesNeverLooser also where the settings lie wrong already.
func TestAShopIsTighterThanTheRulesNeverLooser(t *testing.T) {
	var rule keeping.Rule
	for _, r := range keeping.Rules() {
		if r.Params["days"] > 2 {
			rule = r
			break
		}
	}
	require.NotZero(t, rule.ID)
	days := func(s Settings) float64 {
		for _, r := range s.Rules() {
			if r.ID == rule.ID {
				return r.Params["days"]
			}
		}
		return -1
	}
	key := strconv.Itoa(rule.ID)
	s := sound()
	s.TighterDays = map[string]int{key: 1}
	assert.Empty(t, s.Check())
	assert.InDelta(t, 1, days(s), 0)
	s.TighterDays = map[string]int{key: int(rule.Params["days"]) + 1}
	assert.Equal(t, "tighter_days."+key, s.Check()[0].Field)
	assert.InDelta(t, rule.Params["days"], days(s), 0, "more days than the rule gives count for nothing")
	s.TighterDays = map[string]int{"no rule": 1}
	assert.Equal(t, "tighter_days.no rule", s.Check()[0].Field)
}

func TestTheBenchScaleComesFirstAndTheFinestBeside(t *testing.T) {
	s := sound()
	on, fine := s.Scales()
	assert.Equal(t, "Bench scale", on.Name)
	assert.Equal(t, "Fine scale", fine.Name)
	s.Devices = []Device{{ID: "p", Kind: Probe, Name: "Probe"},
		{ID: "a", Kind: Scale, Name: "A", Division: amount.G(1)}, {ID: "b", Kind: Scale, Name: "B",
			Division: amount.G(5)}}
	s = s.WithThings()
	on, fine = s.Scales()
	assert.Equal(t, "A", on.Name)
	assert.True(t, fine.Division.IsZero(), "none is finer")
	assert.Equal(t, amount.G(1), s.ScaleDivision, "what is weighed on it follows")
}

func TestAFillSuitsOneJarOrNone(t *testing.T) {
	s := sound()
	assert.Equal(t, "round-190", s.Suits(formula.Version{FillGrams: amount.G(190)}))
	assert.Empty(t, s.Suits(formula.Version{FillGrams: amount.G(250)}), "two of the usual jars hold it as well")
	assert.Empty(t, s.Suits(formula.Version{FillGrams: amount.G(100_000)}), "none holds it")
	assert.Equal(t, s.Jars[1], s.Jar("round-190"))
	assert.Equal(t, pack.Jar{}, s.Jar(""))
	paper, known := s.Stock("roll-190")
	assert.True(t, known)
	assert.InDelta(t, 190, paper.WidthMM, 0)
	_, known = s.Stock("none")
	assert.False(t, known)
}

func TestDaysBeginWhereTheShopIs(t *testing.T) {
	s := sound()
	s.TimeZone = "Asia/Tokyo"
	assert.Equal(t, "Asia/Tokyo", s.Zone().String())
	assert.Same(t, s.Zone(), s.Zone(), "it is loaded once")
	s.TimeZone = "Mars/Olympus"
	assert.Equal(t, time.UTC, s.Zone())
	for _, l := range law.All() {
		s.Locale, s.Regime = l.Locale, l.Regime
		assert.Equal(t, l.Regime, s.Speaks().Regime)
		assert.Equal(t, l.Gallon, s.OwnGallon())
		assert.Equal(t, law.Tongue(l.Locale), s.Tongue())
	}
}

func TestWhatIsAsUsualIsNotTheShopsOwn(t *testing.T) {
	s := sound().Own()
	assert.Nil(t, s.Jars)
	assert.Nil(t, s.Stocks)
	assert.Equal(t, costing.Pricing{}, s.Pricing)
	again := s.WithDefaults().WithThings()
	assert.Equal(t, sound(), again, "and comes back")
	own := sound()
	own.Jars = own.Jars[:1]
	assert.Equal(t, own.Jars, own.Own().Jars)
	named := WithJars([]pack.Jar{{Name: "Tall jar"}})
	assert.Equal(t, "tall_jar", named[0].ID)
}

// TestBatchesAreJudgedByNoName: what has nothing to do with judging does not judge anew.
func TestBatchesAreJudgedByNoName(t *testing.T) {
	a, b := sound(), sound()
	b.Name, b.Address, b.Colour, b.Jars, b.KitchenPerHour = "Other", "Elsewhere", "#1f3f93", nil, amount.MustMoney("9")
	assert.Equal(t, a.Judging(), b.Judging())
	b.EarlyRelease = !a.EarlyRelease
	assert.NotEqual(t, a.Judging(), b.Judging())
}

func TestWhatTheShopCountsInItsCosts(t *testing.T) {
	s := sound()
	s.SampleGrams, s.Residue = amount.G(120), amount.G(40)
	s.DayMinutes = amount.Minutes{}
	bowl := bench.Vessel{ID: 3, Residue: amount.G(90)}
	made := s.MadeIn(map[string]bench.Vessel{"dip": bowl})
	assert.Equal(t, costing.Made{Vessel: bowl, Samples: amount.G(120)}, made("dip"))
	assert.Equal(t, amount.G(40), made("other").Vessel.Residue, "in no vessel that is named, what usually stays")
	assert.InDelta(t, amount.Tablespoons[s.Tablespoon], s.Spoons().Tablespoon, 0)
}
