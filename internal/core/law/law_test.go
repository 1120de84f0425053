package law

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func of(t testing.TB, r Regime) *Law {
	t.Helper()
	l, err := Of(r)
	require.NoError(t, err)
	return l
}

func TestKnownAllergensNeedTheirKindWhereTheLawDoes(t *testing.T) {
	assert.True(t, of(t, US).Known("tree_nut:walnut"))
	assert.False(t, of(t, US).Known("tree_nut"))
	assert.False(t, of(t, US).Known("celery"))
	assert.True(t, of(t, GB).Known("gluten:barley"))
	assert.False(t, of(t, GB).Known("gluten"))
	assert.False(t, of(t, GB).Known("nut: "))
}

func TestAnUnknownRegimeIsAnErrorNeverAnothersLaw(t *testing.T) {
	for _, r := range []Regime{"", "us", "FR", "GBR"} {
		l, err := Of(r)
		assert.Nil(t, l, r)
		assert.ErrorAs(t, err, &UnknownError{}, r)
		assert.ErrorContains(t, err, "GB or US")
	}
	for _, l := range All() {
		assert.Same(t, l, of(t, l.Regime))
	}
	assert.Equal(t, []string{"GB", "US"}, Names())
}

func TestAllergensOfEachLawInStatutoryOrder(t *testing.T) {
	codes := func(r Regime) (out []string) {
		for _, a := range of(t, r).Allergens {
			out = append(out, a.Code)
		}
		return out
	}
	assert.Equal(t, []string{"milk", "egg", "fish", "crustacean", "tree_nut", "wheat", "peanut", "soy", "sesame"},
		codes(US))
	assert.Equal(t, []string{"gluten", "crustacean", "egg", "fish", "peanut", "soy", "milk", "nut", "celery", "mustard",
		"sesame", "sulphites", "lupin", "mollusc"}, codes(GB))
	kinded := map[Regime][]string{}
	for _, l := range All() {
		for _, a := range l.Allergens {
			if a.Kinded {
				kinded[l.Regime] = append(kinded[l.Regime], a.Code)
			}
		}
	}
	assert.Equal(t, map[Regime][]string{US: {"fish", "crustacean", "tree_nut"}, GB: {"gluten", "nut"}}, kinded)
	us, gb := of(t, US), of(t, GB)
	assert.Equal(t, 4, us.Rank("tree_nut:pecan"))
	assert.Equal(t, -1, us.Rank("celery"))
	assert.Contains(t, us.Nuts, "pine nut")
	assert.NotContains(t, gb.Nuts, "pine nut")
	assert.True(t, us.OilExempt("peanut"))
	assert.True(t, gb.OilExempt("soy"))
	assert.False(t, gb.OilExempt("peanut"))
}

func TestWhichRulesOfKeepingApply(t *testing.T) {
	for rule := 1; rule <= 11; rule++ {
		assert.Equal(t, rule != 4, of(t, US).Applies(rule), "US rule %d", rule)
		assert.Equal(t, rule != 3, of(t, GB).Applies(rule), "GB rule %d", rule)
	}
	assert.False(t, of(t, US).Applies(12))
	assert.False(t, of(t, US).UnpasteurisedEgg)
	assert.True(t, of(t, GB).UnpasteurisedEgg)
}

// TestRoundingAtEachMark tries every band of both rounding tables at its mark and just beside it.
func TestRoundingAtEachMark(t *testing.T) {
	for _, c := range []struct {
		regime   Regime
		nutrient string
		x        float64
		want     string
	}{
		{US, "calories", 4.99, "0"}, {US, "calories", 5, "5"}, {US, "calories", 7.4, "5"}, {US, "calories", 7.5, "10"},
		{US, "calories", 50, "50"}, {US, "calories", 50.1, "50"}, {US, "calories", 54.9, "50"},
		{US, "calories", 55, "60"},
		{US, "fat_g", 0.49, "0 g"}, {US, "fat_g", 0.5, "0.5 g"}, {US, "fat_g", 4.74, "4.5 g"},
		{US, "fat_g", 4.75, "5 g"}, {US, "fat_g", 5, "5 g"}, {US, "fat_g", 5.4, "5 g"}, {US, "fat_g", 5.5, "6 g"},
		{US, "trans_g", 0.49, "0 g"}, {US, "saturates_g", 4.99, "5 g"},
		{US, "cholesterol_mg", 1.99, "0 mg"}, {US, "cholesterol_mg", 2, "less than 5 mg"},
		{US, "cholesterol_mg", 5, "less than 5 mg"}, {US, "cholesterol_mg", 5.01, "5 mg"},
		{US, "cholesterol_mg", 7.5, "10 mg"},
		{US, "sodium_mg", 4.99, "0 mg"}, {US, "sodium_mg", 5, "5 mg"}, {US, "sodium_mg", 140, "140 mg"},
		{US, "sodium_mg", 137.5, "140 mg"}, {US, "sodium_mg", 140.1, "140 mg"}, {US, "sodium_mg", 145, "150 mg"},
		{US, "carbohydrate_g", 0.49, "0 g"}, {US, "fibre_g", 0.5, "less than 1 g"},
		{US, "sugars_g", 0.99, "less than 1 g"}, {US, "protein_g", 1, "1 g"}, {US, "protein_g", 1.5, "2 g"},
		{US, "added_sugars_g", 0.4, "0 g"},
		{US, "vitamin_d_ug", 0.04, "0 mcg"}, {US, "vitamin_d_ug", 0.05, "0.1 mcg"}, {US, "iron_mg", 0.15, "0.2 mg"},
		{US, "calcium_mg", 14.9, "10 mg"}, {US, "calcium_mg", 15, "20 mg"}, {US, "potassium_mg", 4.9, "0 mg"},
		{GB, "energy_kj", 99.5, "100 kJ"}, {GB, "energy_kcal", 99.4, "99 kcal"}, {GB, "fat_g", 0, "0 g"},
		{GB, "fat_g", 0.5, "<0.5 g"}, {GB, "fat_g", 0.51, "0.5 g"}, {GB, "fat_g", 9.94, "9.9 g"},
		{GB, "fat_g", 9.95, "10 g"}, {GB, "fat_g", 10, "10 g"}, {GB, "fat_g", 10.5, "11 g"},
		{GB, "carbohydrate_g", 0.5, "<0.5 g"}, {GB, "sugars_g", 0.6, "0.6 g"}, {GB, "protein_g", 10.4, "10 g"},
		{GB, "fibre_g", 0.5, "<0.5 g"},
		{GB, "saturates_g", 0.1, "<0.1 g"}, {GB, "saturates_g", 0.11, "0.1 g"}, {GB, "saturates_g", 10, "10 g"},
		{GB, "saturates_g", 9.94, "9.9 g"},
		{GB, "salt_g", 0.0125, "<0.01 g"}, {GB, "salt_g", 0.0126, "0.01 g"}, {GB, "salt_g", 0.99, "0.99 g"},
		{GB, "salt_g", 0.995, "1.0 g"}, {GB, "salt_g", 1, "1.0 g"}, {GB, "salt_g", 1.05, "1.1 g"},
	} {
		got, err := of(t, c.regime).Round(c.nutrient, c.x)
		require.NoError(t, err)
		assert.Equal(t, c.want, got, "%s %s %g", c.regime, c.nutrient, c.x)
	}
	for _, l := range All() {
		_, err := l.Round("joy_g", 1)
		assert.Error(t, err)
		for _, row := range l.Nutrition {
			_, err := l.Round(row.Rounds, 1)
			assert.NoError(t, err, "%s prints %s", l.Regime, row.Name)
		}
	}
}

func TestLeastTypeAtEachMark(t *testing.T) {
	us, gb := of(t, US), of(t, GB)
	const inch = 25.4
	for _, c := range []struct{ area, want float64 }{{5, inch / 16}, {5.1, inch / 8}, {25, inch / 8},
		{25.1, inch * 3 / 16}, {100, inch * 3 / 16}, {100.1, inch / 4}, {400, inch / 4}, {400.1, inch / 2}} {
		assert.InDelta(t, c.want, us.FigureMM(1, c.area*6.4516), 1e-9, "%g in²", c.area)
	}
	for _, c := range []struct{ nominal, want float64 }{{50, 2}, {50.1, 3}, {200, 3}, {200.1, 4}, {1000, 4},
		{1000.1, 6}} {
		assert.Equal(t, c.want, gb.FigureMM(c.nominal, 1), "%g g", c.nominal)
	}
	assert.Equal(t, 0.9, gb.XHeightMM(79.9))
	assert.Equal(t, 1.2, gb.XHeightMM(80))
	assert.InDelta(t, 1.5875, us.XHeightMM(10), 1e-9)
}

func TestQuantityAtEachMark(t *testing.T) {
	us, gb := of(t, US), of(t, GB)
	for _, c := range []struct {
		amount float64
		unit   string
		us, gb string
	}{
		{190, "g", "Net Wt 6.7 oz (190 g)", "190 g"}, {454, "g", "Net Wt 16 oz (1 lb) 454 g", "454 g"},
		{453, "g", "Net Wt 15.9 oz (453 g)", "453 g"},
		{1810, "g", "Net Wt 63.8 oz (3 lb 15.8 oz) 1.81 kg", "1.81 kg"},
		{1815, "g", "Net Wt 4 lb (1.82 kg)", "1.82 kg"},
		{999.9, "g", "Net Wt 35.2 oz (2 lb 3.2 oz) 999.9 g", "999.9 g"},
		{1000, "g", "Net Wt 35.2 oz (2 lb 3.2 oz) 1 kg", "1 kg"},
		{250, "ml", "8.4 fl oz (250 mL)", "250 ml"}, {1500, "ml", "50.7 fl oz (1 qt 18.7 fl oz) 1.5 L", "1.5 l"},
	} {
		assert.Equal(t, c.us, us.NetQuantity(c.amount, c.unit))
		assert.Equal(t, c.gb, gb.NetQuantity(c.amount, c.unit))
	}
}

func TestDatesAndStorageInWords(t *testing.T) {
	us, gb := of(t, US), of(t, GB)
	made := time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC)
	assert.Equal(t, "Use by Mar 8, 2026", us.DateLine(UseBy, made, made.AddDate(0, 0, 6)))
	assert.Equal(t, "Best if used by Mar 8, 2026", us.DateLine(BestBefore, made, made.AddDate(0, 0, 6)))
	assert.Equal(t, "Best before 2 June", gb.DateLine(BestBefore, made, made.AddDate(0, 3, 0)))
	assert.Equal(t, "Best before 3 June 2026", gb.DateLine(BestBefore, made, made.AddDate(0, 3, 1)))
	assert.Equal(t, "Use by 2 August", gb.DateLine(UseBy, made, made.AddDate(0, 5, 0)), "a use by always names its day")
	assert.Equal(t, "Keep refrigerated at or below 5 °C. Once opened, use within 1 day.", gb.Storage(Chilled, 1))
	assert.Equal(t, "Keep frozen at or below 0 °F. Thaw in the refrigerator; do not refreeze.", us.Storage(Frozen, 3))
	assert.Equal(t, "Store in a cool, dry place. Refrigerate after opening. Once opened, use within 3 days.",
		gb.Storage(Ambient, 3))
	assert.Equal(t, "L", gb.LotPrefix)
	assert.Equal(t, "Lot ", us.LotPrefix)
}

func TestAValueForEachLawTravelsInSmallLetters(t *testing.T) {
	raw, err := json.Marshal(Each[int]{US: 1, GB: 2})
	require.NoError(t, err)
	assert.Equal(t, `{"gb":2,"us":1}`, string(raw))
	var back Each[int]
	require.NoError(t, json.Unmarshal(raw, &back))
	assert.Equal(t, Each[int]{US: 1, GB: 2}, back)
	require.NoError(t, json.Unmarshal([]byte("null"), &back))
	assert.Nil(t, back)
	assert.ErrorAs(t, json.Unmarshal([]byte(`{"fr":1}`), &back), &UnknownError{})
}

func TestTicksNameEachAllergenOnceUnderAllLaws(t *testing.T) {
	seen := map[string]bool{}
	for _, tick := range Ticks() {
		for r, code := range tick.Codes {
			l, err := Of(r)
			require.NoError(t, err)
			assert.True(t, l.Known(code), code)
			assert.False(t, seen[string(r)+code], "%s twice", code)
			seen[string(r)+code] = true
		}
		switch tick.Word {
		case "walnuts":
			assert.Equal(t, Each[string]{GB: "nut:walnut", US: "tree_nut:walnut"}, tick.Codes)
		case "wheat":
			assert.Equal(t, Each[string]{GB: "gluten:wheat", US: "wheat"}, tick.Codes)
		case "pine nuts":
			assert.Equal(t, Each[string]{US: "tree_nut:pine nut"}, tick.Codes)
		case "sulphites":
			assert.Equal(t, Each[string]{GB: "sulphites", US: "sulfites"}, tick.Codes)
		case "fish":
			assert.Equal(t, "fish:"+UnnamedSpecies, tick.Codes[US])
		}
	}
	for _, l := range All() {
		for _, kind := range l.Nuts {
			assert.True(t, seen[string(l.Regime)+l.NutCode+":"+kind], kind)
		}
	}
}

func TestCarryingACodeThereAndBack(t *testing.T) {
	gb, us := &gb, &us
	for from, to := range map[string]string{"nut:walnut": "tree_nut:walnut", "gluten:wheat": "wheat", "milk": "milk",
		"fish": "fish:" + UnnamedSpecies, "sulphites": "sulfites"} {
		got, has := Carry(from, gb, us)
		assert.True(t, has)
		assert.Equal(t, to, got)
		back, has := Carry(got, us, gb)
		assert.True(t, has)
		assert.Equal(t, from, back)
	}
	for _, code := range []string{"celery", "mustard", "lupin", "mollusc", "gluten:barley"} {
		_, has := Carry(code, gb, us)
		assert.False(t, has, code)
	}
	_, has := Carry("tree_nut:pine nut", us, gb)
	assert.False(t, has)
	got, has := Carry("fish:anchovy", us, gb)
	assert.True(t, has)
	assert.Equal(t, "fish", got)
}
