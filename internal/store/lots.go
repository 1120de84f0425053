package store

import (
	"fmt"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/lots"
)

type deliveryRow struct {
	ID        int64
	Supplier  string
	Note      string
	Day       time.Time
	CreatedAt time.Time
	CreatedBy string
}

func (deliveryRow) TableName() string { return "deliveries" }

func (r deliveryRow) domain() kernel.Delivery {
	return kernel.Delivery{ID: r.ID, Supplier: r.Supplier, Note: r.Note, Day: day.Of(r.Day),
		At: r.CreatedAt,
		By: r.CreatedBy}
}

// AddDelivery stores a delivery and fills in its id.
func (s *Store) AddDelivery(d *kernel.Delivery) error {
	day, err := day.Parse(d.Day)
	if err != nil {
		return fmt.Errorf("day of delivery: %w", err)
	}
	row := deliveryRow{Supplier: d.Supplier, Note: d.Note, Day: day, CreatedAt: d.At, CreatedBy: d.By}
	if err := s.db.Create(&row).Error; err != nil {
		return translate(err)
	}
	d.ID = row.ID
	return nil
}

// Delivery returns one. Errors: ErrNotFound.
func (s *Store) Delivery(id int64) (*kernel.Delivery, error) {
	var row deliveryRow
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return nil, translate(err)
	}
	d := row.domain()
	return &d, nil
}

// DeliveriesUnder returns the deliveries of a supplier under a note, the newest first.
func (s *Store) DeliveriesUnder(supplier, note string) ([]kernel.Delivery, error) {
	var rows []deliveryRow
	if err := s.db.Where("note <> '' AND lower(note) = lower(?) AND lower(supplier) = lower(?)", note,
		supplier).Order("id DESC").Limit(10).Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Delivery, len(rows))
	for i, r := range rows {
		out[i] = r.domain()
	}
	return out, nil
}

type lotRow struct {
	ID           int64
	Code         string
	Kind         string
	IngredientID *string
	BatchID      *int64
	ParentID     *int64
	DeliveryID   *int64
	CreatedAt    time.Time
	CreatedBy    string
}

func (lotRow) TableName() string { return "lots" }

func (r lotRow) domain() kernel.Lot {
	return kernel.Lot{ID: r.ID, Code: r.Code, Kind: r.Kind, Ingredient: orZero(r.IngredientID),
		Batch:  orZero(r.BatchID),
		Parent: orZero(r.ParentID), Delivery: orZero(r.DeliveryID), CreatedAt: r.CreatedAt, CreatedBy: r.CreatedBy}
}

func orZero[T any](p *T) T {
	if p == nil {
		var zero T
		return zero
	}
	return *p
}

func orNull[T comparable](v T) *T {
	var zero T
	if v == zero {
		return nil
	}
	return &v
}

// AddLot stores a lot and fills in its id. Errors: ErrTaken when the code is in use.
func (s *Store) AddLot(l *kernel.Lot) error {
	row := lotRow{Code: l.Code, Kind: l.Kind, IngredientID: orNull(l.Ingredient), BatchID: orNull(l.Batch),
		ParentID: orNull(l.Parent), DeliveryID: orNull(l.Delivery), CreatedAt: l.CreatedAt, CreatedBy: l.CreatedBy}
	if err := s.db.Create(&row).Error; err != nil {
		return translate(err)
	}
	l.ID = row.ID
	return nil
}

// NextLotCode returns a code that no lot has had.
func (s *Store) NextLotCode() (string, error) {
	var n int64
	err := s.db.Raw(query("next_lot_number")).Scan(&n).Error
	return fmt.Sprintf("P%d", n), translate(err)
}

// Lots returns lots by their ids, the oldest first.
func (s *Store) Lots(ids ...int64) ([]kernel.Lot, error) { return s.lotsWhere("id IN ?", ids) }

// LotIDs returns the ids of all incoming lots and their parts, or of the parts of batches, oldest first.
func (s *Store) LotIDs(ofBatches bool) ([]int64, error) {
	where := "batch_id IS NULL"
	if ofBatches {
		where = "batch_id IS NOT NULL AND kind = 'part'"
	}
	var ids []int64
	return ids, translate(s.db.Model(&lotRow{}).Where(where).Order("id").Pluck("id", &ids).Error)
}

// LotsOfBatches returns the lot of each batch.
func (s *Store) LotsOfBatches(batches ...int64) ([]kernel.Lot, error) {
	return s.lotsWhere("kind = 'batch' AND batch_id IN ?", batches)
}

func (s *Store) lotsWhere(where string, args ...any) ([]kernel.Lot, error) {
	var rows []lotRow
	if err := s.db.Where(where, args...).Order("id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Lot, len(rows))
	for i, r := range rows {
		out[i] = r.domain()
	}
	return out, nil
}

// LotsCalled returns the standings of the lots with one of these codes or one of these supplier's texts.
func (s *Store) LotsCalled(texts ...string) ([]kernel.LotStanding, error) {
	return s.lotStandings(called+" ORDER BY lot_id", texts, inSmall(texts))
}

var called = query("lots_called")

func inSmall(texts []string) []string {
	small := make([]string, len(texts))
	for i, t := range texts {
		small[i] = strings.ToLower(t)
	}
	return small
}

// PartsOf returns the ids of the lots that were split off these lots.
func (s *Store) PartsOf(parents ...int64) ([]int64, error) {
	var ids []int64
	return ids, translate(s.db.Model(&lotRow{}).Where("parent_id IN ?", parents).Order("id").Pluck("id", &ids).Error)
}

// lotEntryRow is one act in a lot's record; rows are never changed.
type lotEntryRow struct {
	ID    int64
	LotID int64
	Written
}

func (lotEntryRow) TableName() string { return "lot_entries" }

// LotEntries returns the records of lots, oldest first, by lot id.
func (s *Store) LotEntries(ids ...int64) (map[int64][]lots.Entry, error) {
	out := map[int64][]lots.Entry{}
	if len(ids) == 0 {
		return out, nil
	}
	var rows []lotEntryRow
	if err := s.db.Where("lot_id IN ?", ids).Order("lot_id, seq").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	for _, r := range rows {
		e, err := r.domain()
		if err != nil {
			return nil, err
		}
		out[r.LotID] = append(out[r.LotID], e)
	}
	return out, nil
}

func (r lotEntryRow) domain() (lots.Entry, error) {
	h, body, err := r.read(r.ID, lots.ReadBody)
	return lots.Entry{Head: h, Body: body}, err
}

// AddLotEntry appends to a lot's record. Errors: ErrTaken when the idempotency key was used before.
func (s *Store) AddLotEntry(lot int64, e lots.Entry, key string, digest []byte) (err error) {
	if e.Seq, err = next(s.db.Model(&lotEntryRow{}).Where("lot_id = ?", lot)); err != nil {
		return err
	}
	w, err := writtenOf(e.Head, e.Kind(), e.Body, key, digest)
	if err != nil {
		return err
	}
	return translate(s.db.Create(&lotEntryRow{LotID: lot, Written: w}).Error)
}

// LotEntryKey returns the digest of the act that was written with this key; nil if there is none.
func (s *Store) LotEntryKey(lot int64, key string) ([]byte, error) {
	return s.digestUnder(s.db.Model(&lotEntryRow{}).Where("lot_id = ?", lot), key)
}

// LastList returns the ingredient list of the newest lot that was accepted with one and leaves nothing open; known is
// false if there is no such lot.
func (s *Store) LastList(ingredient string) (list string, known bool, err error) {
	var rows []struct{ List string }
	err = s.db.Raw(query("last_list"), ingredient).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return "", false, translate(err)
	}
	return rows[0].List, true, nil
}

// PutDraws replaces what a batch took from lots; leading rows that are the same stay as they are.
func (s *Store) PutDraws(batch int64, was, took []bench.Took) error {
	same := 0
	for same < min(len(was), len(took)) && was[same] == took[same] {
		same++
	}
	if len(was) > same {
		if err := s.exec(query("drop_draws"), batch, same); err != nil {
			return err
		}
	}
	if len(took) == same {
		return nil
	}
	rows := make([]drawRow, 0, len(took)-same)
	for i, d := range took[same:] {
		rows = append(rows, drawRow{batch, d.Line, d.Lot, d.Entry, d.Grams.Steps(), same + i})
	}
	return put(s, false, false, rows...)
}

type drawRow struct {
	BatchID int64
	Line    string
	LotID   int64
	EntryID int64
	Grams   int64
	Part    int
}

func (drawRow) TableName() string { return "lot_draws" }

// DrawsOf returns what batches took from lots, in the order of their lines.
func (s *Store) DrawsOf(batches ...int64) (map[int64][]bench.Took, error) {
	var rows []struct {
		BatchID, LotID, EntryID, Grams int64
		Line                           string
	}
	err := s.db.Raw(query("draws_of"), batches).Scan(&rows).Error
	out := map[int64][]bench.Took{}
	for _, r := range rows {
		out[r.BatchID] = append(out[r.BatchID],
			bench.Took{Line: r.Line, Lot: r.LotID, Entry: r.EntryID, Grams: amount.Milligrams(r.Grams)})
	}
	return out, translate(err)
}

// UsedOf sums what batches took from lots.
func (s *Store) UsedOf(ids ...int64) (map[int64]amount.Grams, error) {
	out := map[int64]amount.Grams{}
	if len(ids) == 0 {
		return out, nil
	}
	var rows []struct{ LotID, Grams int64 }
	err := s.db.Raw(query("used_of"), ids).
		Scan(&rows).Error
	for _, r := range rows {
		out[r.LotID] = amount.Milligrams(r.Grams)
	}
	return out, translate(err)
}

// Recount writes into the standings of lots how much batches took from them.
func (s *Store) Recount(ids ...int64) error {
	return s.exec(query("recount"), ids)
}

// DrawnBy returns which batches took from each lot.
func (s *Store) DrawnBy(ids ...int64) (map[int64][]kernel.DrawnIn, error) {
	var rows []struct{ LotID, BatchID, Grams int64 }
	err := s.db.Raw(query("drawn_by"), ids).Scan(&rows).Error
	out := map[int64][]kernel.DrawnIn{}
	for _, r := range rows {
		out[r.LotID] = append(out[r.LotID], kernel.DrawnIn{Batch: r.BatchID, Grams: amount.Milligrams(r.Grams)})
	}
	return out, translate(err)
}

// KeptInLots returns which of these ingredients ever came in as a lot.
func (s *Store) KeptInLots(ingredients []string) ([]string, error) {
	var ids []string
	return ids, translate(s.db.Raw(query("kept_in_lots"),
		ingredients).Scan(&ids).Error)
}

// like turns a text into a pattern that matches it anywhere.
func like(text string) string {
	return "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(text) + "%"
}
