package store_test

import (
	"context"
	"database/sql"
	"testing"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
	"gallipot/internal/store"
	"gallipot/internal/testdb"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// grown is a small shop as the program before the record kept it.
const grown = `
INSERT INTO people (name, owner) VALUES ('Ines', true), ('Bram', false);
INSERT INTO shops (id, data, format, updated_by) VALUES (1, '{"name":"Old shop","currency":"USD","regime":"US","locale":"en-US",
	"price_rule":"newest","stale_days":90,"labour_per_hour":14,"scale_division_g":0.1,"sample_g":120,"residue_g":0,"opened_days":7,"tighter_days":{}}', 2, 'Ines');
INSERT INTO ingredients (id, name, data, format, updated_by) VALUES ('beet', 'Beetroot',
	'{"id":"beet","name":"Beetroot","composition":{"water":87},"ph":{"typical":4,"low":3.9,"high":4.1},"buffer_mmol_kg_ph":10}', 2, 'Ines');
INSERT INTO price_offers (ingredient_id, supplier, pack_amount, pack_unit, price, dated, created_by) VALUES ('beet', 'Fallow', 1000, 'g', 2.5, '2026-03-01', 'Ines');
INSERT INTO formulas (id, name, created_by, batches) VALUES ('dip', 'Dip', 'Ines', 1);
INSERT INTO versions (formula_id, number, state, data, format, locked_at, updated_by) VALUES ('dip', 1, 'locked',
	'{"formula":"dip","version":1,"state":"locked","lines":[{"id":"1","ingredient":"beet","grams":1000}],"water_driven_off_g":0,"loss_percent":0,
	"fill_g":190,"overfill_percent":0,"costing_jars":1,"packaging":[],"minutes_per_batch":0,"minutes_per_jar":0,"labour_per_hour":0,
	"overhead_per_batch":0,"ph_limit":4.6,"ph_target":4.2,"keeping":{"asked":"chilled","styles":[]},"wording":{}}', 2, '2026-03-01', 'Ines');
INSERT INTO meter_checks (meter, mv4, mv7, celsius, slope_percent, accepted, checked_at, checked_by, closing_ph, closing_celsius, closing_good, closing_at)
	VALUES ('bench', 174.5, -1.2, 25, 99, true, '2026-03-03 09:00Z', 'Bram', 4.02, 25, true, '2026-03-03 12:00Z');
INSERT INTO batches (code, formula_id, version, jars, made_on, targets, format, created_by) VALUES ('26-061-A', 'dip', 1, 5, '2026-03-02',
	'[{"line":"1","name":"Beetroot","target_g":1000,"tolerance_percent":1,"hold_back_g":0,"needs_use_by":false,"needs_kill_step":false}]', 2, 'Ines');
INSERT INTO batch_entries (batch_id, seq, kind, body, format, key, at, by_whom) VALUES
	(1, 1, 'weighing', '{"line":"1","grams":1000,"lot":""}', 2, 'a', '2026-03-02 09:00Z', 'Bram'),
	(1, 2, 'fill', '{"jars":5,"at":"2026-03-02T10:00:00Z"}', 2, 'b', '2026-03-02 10:00Z', 'Bram');
INSERT INTO batch_entries (batch_id, seq, kind, body, format, key, at, by_whom)
	SELECT 1, 2 + n, 'reading', jsonb_build_object('load', 1, 'jar', CASE WHEN n < 3 THEN 'first' ELSE 'last' END, 'moment', 'equilibrium', 'sample', 1,
		'preparation', 'semi_solid', 'fraction', 'paste', 'ph', 4.0, 'sample_temperature_c', 22, 'meter_check', 1, 'at', '2026-03-03T11:00:00Z'),
		2, 'r' || n, '2026-03-03 11:00Z', 'Bram' FROM generate_series(1, 4) n;
INSERT INTO batch_entries (batch_id, seq, kind, body, format, key, at, by_whom) VALUES
	(1, 7, 'decision', '{"state":"released","reason":"","way":"equilibrium","value":4.07}', 2, 'd', '2026-03-03 13:00Z', 'Ines');
INSERT INTO evidence (formula_id, kind, title, days, file_name, media_type, content, attached_by) VALUES
	('dip', 'quality_study', 'Own study', 1000, 's.txt', 'text/plain', 'x', 'Ines'), ('dip', 'authority', 'A letter', NULL, 'l.txt', 'text/plain', 'x', 'Ines');`

// TestAShopFromBeforeTheRecordIsBroughtOver upgrades it and opens what was there.
func TestAShopFromBeforeTheRecordIsBroughtOver(t *testing.T) {
	ctx := context.Background()
	address := testdb.Address(t)
	db, err := sql.Open("pgx", address)
	require.NoError(t, err)
	defer db.Close()
	require.NoError(t, store.MigrateTo(ctx, db, 4))
	_, err = db.Exec(grown)
	require.NoError(t, err)
	s, err := store.Open(ctx, address, 1)
	require.NoError(t, err)
	defer s.Close()
	a := app.New(s, func() time.Time { return time.Date(2026, 3, 5, 9, 0, 0, 0, time.UTC) }, pantry.Typical{})
	n, err := a.Production.RebuildMissing(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n)

	all, err := s.People()
	require.NoError(t, err)
	assert.Equal(t, []people.Role{people.Owner, people.Maker}, []people.Role{all[0].Role, all[1].Role})
	door, err := a.Office.SessionHere(ctx, "")
	require.NoError(t, err)
	assert.True(t, door.First, "nobody has a PIN yet")
	_, err = a.Office.FirstOwner(ctx, "Ines", "274910")
	require.NoError(t, err, "who was the owner before takes it up again")
	shop, err := a.Office.Shop(ctx)
	require.NoError(t, err)
	assert.Equal(t, "America/New_York", shop.TimeZone, "the law's own, where none was chosen")

	b, err := a.Production.Batch(ctx, 1)
	require.NoError(t, err)
	assert.Equal(t, bench.Released, b.Record.State)
	assert.Equal(t, acidity.Pass, b.Record.Acidity.Outcome, b.Record.Acidity.Sentence)
	assert.Equal(t, 2, b.Record.Readings[3].Pair, "single readings are pairs in the order of their entry")
	assert.Empty(t, b.Record.Readings[0].Unsupported, "its check came before it and the look after it")
	assert.True(t, b.Record.Out)
	events, err := s.MeterEvents([]int64{1}, time.Time{})
	require.NoError(t, err)
	require.Len(t, events, 2)
	assert.True(t, !events[0].Look && events[1].Look && events[0].Turn < b.Record.Readings[0].ID &&
		events[1].Turn > b.Record.Readings[3].ID)

	papers, err := s.EvidenceList("dip")
	require.NoError(t, err)
	require.Len(t, papers, 2)
	for _, p := range papers {
		assert.Equal(t, []int{1}, p.Versions, "it is about what was there")
		if p.Kind == keeping.QualityStudy {
			assert.Equal(t, 730, *p.Days)
		}
	}
	locks, err := s.Locks(formula.Ref{Formula: "dip", Version: 1})
	require.NoError(t, err)
	kept := locks[formula.Ref{Formula: "dip", Version: 1}]
	assert.True(t, kept.Upgraded)
	assert.Equal(t, "Beetroot", kept.Ingredients[0].Name)
	jarsOfBefore(t, s, a)
}

// jarsOfBefore: a batch from before jars were followed is a lot, and its jars stand in a place that claims nothing.
func jarsOfBefore(t *testing.T, s *store.Store, a *app.App) {
	t.Helper()
	ctx := kernel.As(context.Background(), people.Person{Name: "Ines", Role: people.Owner})
	jars, err := s.JarsOf(1)
	require.NoError(t, err)
	require.Len(t, jars[1], 1)
	assert.Equal(t, bench.Untold, jars[1][0].Place)
	assert.Equal(t, 5, jars[1][0].Jars)
	rows, err := s.LotsOfBatches(1)
	require.NoError(t, err)
	require.Len(t, rows, 1)
	assert.Equal(t, "26-061-A", rows[0].Code)
	p, err := a.Production.AddParty(ctx, kernel.Party{Name: "Deli", Kind: kernel.Customer, Contact: "01632 960 001"})
	require.NoError(t, err)
	sent, err := a.Production.Dispatch(ctx, production.Send{Party: p.ID, Rows: []production.SendRow{{Formula: "dip",
		Jars: 2}}})
	require.NoError(t, err)
	assert.Equal(t, 2, sent.Parts[0].Jars, "they may be sent, and are followed from then on")
	b, err := a.Production.Batch(ctx, 1)
	require.NoError(t, err)
	assert.Equal(t, 3, b.Record.JarsIn(bench.Untold))
	assert.Equal(t, 2, b.Record.JarsIn(bench.With))
	stock, err := a.Production.StockOf(ctx)
	require.NoError(t, err)
	assert.Empty(t, stock.Rows, "what is in no formula is no stock for the bowl")
}
