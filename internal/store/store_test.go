package store_test

import (
	"context"
	"errors"
	"fmt"
	"testing"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"
	"gallipot/internal/testdb"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func beet() pantry.Ingredient {
	return pantry.Ingredient{ID: "beet", Name: "Beetroot", Offers: []pantry.PriceOffer{
		{Supplier: "Fallow", PackAmount: amount.MustQuantity("5000.5"), PackUnit: "g", Price: amount.MustMoney("7.25"),
			Date: "2026-03-01"},
		{Supplier: "Marl", PackAmount: amount.MustQuantity("10"), PackUnit: "piece", Price: amount.MustMoney("4.10"),
			Date: "2026-02-01", ValidUntil: "2026-06-01"}}}
}

func TestAnIngredientComesBackAsItWasStored(t *testing.T) {
	s := testdb.Signed(t)
	require.NoError(t, s.AddIngredient(beet(), false, "Ines"))
	got, err := s.Ingredient("beet")
	require.NoError(t, err)
	assert.Equal(t, "Ines", got.UpdatedBy)
	require.Len(t, got.Data.Offers, 2)
	assert.Equal(t, "5000.5", got.Data.Offers[0].PackAmount.String())
	assert.Equal(t, day.Day("2026-06-01"), got.Data.Offers[1].ValidUntil)
	assert.ErrorIs(t, s.AddIngredient(pantry.Ingredient{ID: "other", Name: "BEETROOT"}, false, "Ines"), kernel.ErrTaken,
		"names differ by more than case")
	_, err = s.Ingredient("nothing")
	assert.ErrorIs(t, err, kernel.ErrNotFound)
}

func TestASecondWriterMeetsAConflict(t *testing.T) {
	s := testdb.Signed(t)
	require.NoError(t, s.AddIngredient(beet(), false, "Ines"))
	g := beet()
	g.Note = "first"
	require.NoError(t, s.SaveIngredient(g, false, 1, "Ines"))
	g.Note = "second"
	assert.ErrorIs(t, s.SaveIngredient(g, false, 1, "Bram"), kernel.ErrConflict)
	got, err := s.Ingredient("beet")
	require.NoError(t, err)
	assert.Equal(t, "first", got.Data.Note)
}

func TestOffersKeepTheirRowWhereTheyStay(t *testing.T) {
	s := testdb.Signed(t)
	require.NoError(t, s.AddIngredient(beet(), false, "Ines"))
	got, err := s.Ingredient("beet")
	require.NoError(t, err)
	same, kept := got.Data.Offers[0], got.Data.Offers[1]
	kept.Price = amount.MustMoney("4.20")
	require.NoError(t, s.ReplaceOffers("beet", []pantry.PriceOffer{kept, same}, kernel.Stamp{By: "Bram",
		At: time.Now()}))
	after, err := s.Ingredient("beet")
	require.NoError(t, err)
	require.Len(t, after.Data.Offers, 2)
	assert.Equal(t, same.ID, after.Data.Offers[0].ID)
	assert.NotEqual(t, kept.ID, after.Data.Offers[1].ID, "another price is another offer")
	assert.Equal(t, "4.2", after.Data.Offers[1].Price.String())
	assert.NoError(t,
		s.Exec("DO $$ BEGIN ASSERT (SELECT price = 4.10 AND retired_by = 'Bram' FROM price_offers WHERE retired_at IS NOT NULL); END $$"),
		"what it cost before stays on record")
	assert.ErrorIs(t, s.Exec("DELETE FROM price_offers"), kernel.ErrLocked)
}

func locked(t *testing.T, s kernel.Store) formula.Version {
	t.Helper()
	require.NoError(t, s.AddFormula(kernel.Formula{ID: "dip", Name: "Dip", CreatedBy: "Ines"}))
	v := formula.Blank("dip")
	require.NoError(t, s.AddVersion(v, nil, "Ines"))
	v.State = formula.Locked
	now := time.Now()
	require.NoError(t, s.LockVersion(v, 1, now, "Ines"))
	return v
}

func TestALockedVersionNeverChanges(t *testing.T) {
	s := testdb.Signed(t)
	v := locked(t, s)
	v.Note = "sneaky"
	assert.ErrorIs(t, s.SaveDraft(v, 2, []string{}, stamp), kernel.ErrConflict)
	assert.ErrorIs(t, s.DropDraft(formula.Ref{Formula: "dip", Version: 1}, 2), kernel.ErrConflict)
	got, err := s.Version(formula.Ref{Formula: "dip", Version: 1})
	require.NoError(t, err)
	assert.Empty(t, got.Core().Note)
}

func TestASheetIsReadWithWhatLiesOnItsDesk(t *testing.T) {
	s := testdb.Signed(t)
	desk := func() kernel.Desk {
		return kernel.Desk{Settings: shop.Settings{Name: "as it was"},
			Library: formula.Library{Names: map[string]string{},
				Ingredients: map[string]*pantry.Ingredient{}, Versions: map[formula.Ref]formula.Version{}}}
	}
	d := desk()
	require.NoError(t, s.Desk(&d, kernel.Named{}), "before the shop is set up")
	assert.Equal(t, "as it was", d.Settings.Name)

	require.NoError(t, s.AddShop(shop.Settings{Name: "Hollin Lane"}, "Ines"))
	require.NoError(t, s.AddIngredient(beet(), false, "Ines"))
	require.NoError(t, s.AddIngredient(pantry.Ingredient{ID: "salt", Name: "Salt"}, true, "Ines"))
	require.NoError(t, s.AddFormula(kernel.Formula{ID: "paste", Name: "Beet paste", CreatedBy: "Ines"}))
	paste := formula.Blank("paste")
	paste.State, paste.Lines = formula.Locked, []formula.Line{{ID: "l1", Ingredient: "beet", Grams: amount.G(9)}}
	require.NoError(t, s.AddVersion(paste, nil, "Ines"))
	dip := locked(t, s)
	next := dip
	next.Number, next.State, next.From, next.Note = 2, formula.Draft, 1, "more salt"
	require.NoError(t, s.AddVersion(next, nil, "Bram"))

	d = desk()
	of := formula.Ref{Formula: "paste", Version: 1}
	gone := formula.Ref{Formula: "paste", Version: 7}
	sheet, err := s.Sheet(formula.Ref{Formula: "dip", Version: 2}, &d,
		kernel.Named{Ingredients: []string{"salt", "nothing"}, Components: []formula.Ref{of, gone}})
	require.NoError(t, err)
	assert.Equal(t, "Dip", sheet.Formula.Name)
	assert.Equal(t, "more salt", sheet.Version.Core().Note)
	require.Len(t, sheet.Heads, 2)
	first, second := sheet.Heads[0], sheet.Heads[1]
	assert.NotNil(t, first.LockedAt)
	first.LockedAt, first.UpdatedAt, second.UpdatedAt = nil, time.Time{}, time.Time{}
	assert.Equal(t, kernel.VersionSummary{Number: 1, State: formula.Locked, UpdatedBy: "Ines"}, first)
	assert.Equal(t, kernel.VersionSummary{Number: 2, State: formula.Draft, From: 1, Note: "more salt",
		UpdatedBy: "Bram"},
		second)
	assert.Equal(t, "Hollin Lane", d.Settings.Name)
	assert.Equal(t, "Beet paste", d.Library.Names["paste"])
	assert.Equal(t, "beet", d.Library.Versions[of].Lines[0].Ingredient)
	assert.NotContains(t, d.Library.Versions, gone)
	assert.Contains(t, d.Library.Ingredients, "salt")
	require.Contains(t, d.Library.Ingredients, "beet", "what the component holds comes along")
	assert.Len(t, d.Library.Ingredients["beet"].Offers, 2)
	assert.Len(t, d.Library.Ingredients, 2)

	// No lines at all is no fault of the reading.
	require.NoError(t, s.AddFormula(kernel.Formula{ID: "none", Name: "Nothing yet", CreatedBy: "Ines"}))
	none := formula.Blank("none")
	none.State, none.Lines = formula.Locked, nil
	require.NoError(t, s.AddVersion(none, nil, "Ines"))
	d, of = desk(), formula.Ref{Formula: "none", Version: 1}
	require.NoError(t, s.Desk(&d, kernel.Named{Ingredients: []string{"salt"}, Components: []formula.Ref{of}}))
	assert.Contains(t, d.Library.Versions, of)

	_, err = s.Sheet(formula.Ref{Formula: "dip", Version: 3}, &d, kernel.Named{})
	assert.ErrorIs(t, err, kernel.ErrNotFound)
}

func TestAFormulaHasOneDraftAtMost(t *testing.T) {
	s := testdb.Signed(t)
	locked(t, s)
	v := formula.Blank("dip")
	v.Number = 2
	require.NoError(t, s.AddVersion(v, nil, "Ines"))
	v.Number = 3
	assert.ErrorIs(t, s.AddVersion(v, nil, "Bram"), kernel.ErrTaken)
}

func TestABatchRecordIsAppendOnlyAndKeysCountOnce(t *testing.T) {
	s := testdb.Signed(t)
	locked(t, s)
	b := kernel.Batch{Code: "26-061-A", FormulaID: "dip", Version: 1, Jars: 10, MadeOn: time.Now(),
		Targets: []bench.Target{}, CreatedBy: "Ines"}
	require.NoError(t, s.AddBatch(&b))
	e := bench.Entry{At: time.Now(), By: "Ines", Body: &bench.Fill{Jars: 10, At: time.Now()}}
	_, err := s.AddEntry(b.ID, e, "k1", []byte("digest"))
	require.NoError(t, err)
	_, err = s.AddEntry(b.ID, e, "k1", nil)
	assert.ErrorIs(t, err, kernel.ErrTaken)
	digest, err := s.EntryKey(b.ID, "k1")
	require.NoError(t, err)
	assert.Equal(t, "digest", string(digest))
	digest, err = s.EntryKey(b.ID, "k2")
	require.NoError(t, err)
	assert.Nil(t, digest)
	then := time.Date(2026, 11, 1, 8, 0, 0, 0, time.UTC)
	e.ClientAt = &then
	stored, err := s.AddEntry(b.ID, e, "k2", nil)
	require.NoError(t, err)
	all, err := s.Entries(b.ID)
	require.NoError(t, err)
	require.Len(t, all[b.ID], 2)
	assert.Equal(t, all[b.ID][1], stored, "an entry is handed back as it is read from now on")
	assert.Equal(t, 10, all[b.ID][0].Body.(*bench.Fill).Jars)
	assert.Equal(t, []int{1, 2}, []int{all[b.ID][0].Seq, all[b.ID][1].Seq})
	assert.True(t, all[b.ID][1].ClientAt.Equal(then))
	assert.ErrorIs(t, s.Exec("UPDATE batch_entries SET by_whom = 'Bram'"), kernel.ErrLocked)
	assert.ErrorIs(t, s.Exec("DELETE FROM batch_entries"), kernel.ErrLocked)
	assert.ErrorIs(t, s.Exec("UPDATE versions SET data = '{}'"), kernel.ErrLocked)
}

func TestATransactionStoresAllOrNothing(t *testing.T) {
	s := testdb.Signed(t)
	boom := errors.New("boom")
	err := s.In(context.Background(), stamp, func(tx kernel.Store) error {
		require.NoError(t, tx.AddIngredient(beet(), false, "Ines"))
		return boom
	})
	assert.ErrorIs(t, err, boom)
	_, err = s.Ingredient("beet")
	assert.ErrorIs(t, err, kernel.ErrNotFound)
}

func TestShopSettingsAreOneRow(t *testing.T) {
	s := testdb.Signed(t)
	var got shop.Settings
	_, err := s.Shop(&got)
	assert.ErrorIs(t, err, kernel.ErrNotFound)
	require.NoError(t, s.AddShop(shop.Settings{Name: "A"}, "Ines"))
	assert.ErrorIs(t, s.AddShop(shop.Settings{}, "Ines"), kernel.ErrTaken)
	require.NoError(t, s.SaveShop(shop.Settings{Name: "B"}, 1, "Ines"))
	assert.ErrorIs(t, s.SaveShop(shop.Settings{Name: "C"}, 1, "Bram"), kernel.ErrConflict)
	rev, err := s.Shop(&got)
	require.NoError(t, err)
	assert.Equal(t, 2, rev)
	assert.Equal(t, "B", got.Name)
}

func TestAMeterIsReadAsEventsInTheOrderOfEntry(t *testing.T) {
	s := testdb.Signed(t)
	at := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	add := func(meter string, good bool, at time.Time) kernel.MeterCheck {
		c := kernel.MeterCheck{Meter: meter, Check: acidity.InMV(174, -1, 25), Accepted: good, CheckedAt: at,
			CheckedBy: "Ines", EnteredAt: at}
		require.NoError(t, s.AddMeterCheck(&c))
		return c
	}
	first := add("bench", true, at)
	add("field", true, at)
	look := kernel.MeterLook{Check: first.ID, PH: 4.2, Celsius: 25, At: at.Add(time.Hour), By: "Bram"}
	require.NoError(t, s.AddMeterLook(look))
	look.PH, look.Good, look.At = 4.01, true, at.Add(2*time.Hour)
	require.NoError(t, s.AddMeterLook(look))
	late := add("bench", false, at.Add(-time.Hour))
	events, err := s.MeterEvents([]int64{first.ID}, at.Add(-2*time.Hour))
	require.NoError(t, err)
	var told []string
	for i, e := range events {
		told = append(told, fmt.Sprintf("%s %t %t %s", e.Meter, e.Look, e.Good, e.By))
		assert.True(t, i == 0 || e.Turn > events[i-1].Turn)
	}
	assert.Equal(t, []string{"bench false true Ines", "bench true false Bram", "bench true true Bram",
		"bench false false Ines"}, told)
	since, err := s.MeterEvents([]int64{late.ID}, at.Add(90*time.Minute))
	require.NoError(t, err)
	assert.Len(t, since, 1)
	got, err := s.MeterCheck(first.ID)
	require.NoError(t, err)
	assert.Len(t, got.Looks, 2)
	assert.Equal(t, "Bram", got.Looks[0].By)
	assert.ErrorIs(t, s.Exec("UPDATE meter_looks SET good = true"), kernel.ErrLocked)
	assert.ErrorIs(t, s.Exec("DELETE FROM meter_checks"), kernel.ErrLocked)
}

var stamp = kernel.Stamp{By: "Bram", At: time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)}

// TestNobodyWritesUnseen tries to write what is of record without a name, and reads how writes are noted.
func TestNobodyWritesUnseen(t *testing.T) {
	s := testdb.New(t)
	assert.ErrorIs(t, s.AddIngredient(beet(), false, "Ines"), kernel.ErrNobody)
	assert.ErrorIs(t, s.AddFormula(kernel.Formula{ID: "dip", Name: "Dip", CreatedBy: "Ines"}), kernel.ErrNobody)
	assert.ErrorIs(t, s.AddShop(shop.Settings{Name: "A"}, "Ines"), kernel.ErrNobody)
	assert.ErrorIs(t, s.AddPerson(&kernel.Person{Name: "Eve", Role: "owner"}), kernel.ErrNobody)
	require.NoError(t, s.In(context.Background(), stamp, func(tx kernel.Store) error {
		return tx.AddIngredient(beet(), false, "Ines")
	}))
	assert.ErrorIs(t, s.AddFormula(kernel.Formula{ID: "dip", Name: "Dip", CreatedBy: "Ines"}), kernel.ErrNobody,
		"the name ends with its transaction")
	noted := `DO $$ BEGIN ASSERT (SELECT by_whom = 'Bram' AND act = 'insert' AND at = '2026-03-02T09:00:00Z'
		AND before IS NULL AND after->>'name' = 'Beetroot' FROM changes WHERE what = 'ingredient' AND which = 'beet'); END $$`
	assert.NoError(t, s.Exec(noted))
	assert.ErrorIs(t, s.Exec("DELETE FROM changes"), kernel.ErrLocked)
	assert.ErrorIs(t, s.Exec("UPDATE changes SET by_whom = 'Eve'"), kernel.ErrLocked)
	assert.ErrorIs(t, s.Exec("DELETE FROM ingredients"), kernel.ErrLocked)
}
