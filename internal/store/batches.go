package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"
	"gallipot/internal/upcast"

	"gorm.io/gorm"
)

type batchRow struct {
	ID        int64
	Code      string
	FormulaID string
	Version   int
	Jars      int
	MadeOn    time.Time
	Targets   document  `gorm:"type:jsonb"`
	Planned   *document `gorm:"type:jsonb"`
	Format    int
	CreatedAt time.Time
	CreatedBy string
}

func (batchRow) TableName() string { return "batches" }

func (r batchRow) domain() (kernel.Batch, error) {
	b := kernel.Batch{ID: r.ID, Code: r.Code, FormulaID: r.FormulaID, Version: r.Version, Jars: r.Jars,
		MadeOn:    r.MadeOn,
		CreatedAt: r.CreatedAt, CreatedBy: r.CreatedBy}
	if r.Planned != nil {
		b.Planned = new(bench.Planned)
		if err := read("planned", r.Format, *r.Planned, b.Planned); err != nil {
			return b, err
		}
	}
	return b, read("targets", r.Format, r.Targets, &b.Targets)
}

// batchEntryRow is one entry of a batch record; rows are never changed.
type batchEntryRow struct {
	ID      int64
	BatchID int64
	Written
	ClientAt *time.Time
}

func (batchEntryRow) TableName() string { return "batch_entries" }

func (r batchEntryRow) domain() (bench.Entry, error) {
	h, body, err := r.read(r.ID, bench.ReadBody)
	return bench.Entry{ID: h.ID, Seq: h.Seq, At: h.At, ClientAt: r.ClientAt, By: h.By, Role: h.Role, Body: body}, err
}

// Batch returns one. Errors: ErrNotFound.
func (s *Store) Batch(id int64) (kernel.Batch, error) {
	var row batchRow
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return kernel.Batch{}, fmt.Errorf("batch %d: %w", id, translate(err))
	}
	return row.domain()
}

// BatchesBy returns the batches of these ids, oldest first.
func (s *Store) BatchesBy(ids []int64) ([]kernel.Batch, error) {
	var rows []batchRow
	if err := s.db.Where("id IN ?", ids).Order("id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Batch, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.domain(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// BatchIDs returns the ids of the batches of these versions, of all where none is named, oldest first.
func (s *Store) BatchIDs(of ...formula.Ref) ([]int64, error) {
	q := s.db.Table("batches b").Order("b.id")
	if len(of) > 0 {
		q = q.Where("(formula_id, version) IN ?", pairs(of))
	}
	var ids []int64
	return ids, translate(q.Pluck("b.id", &ids).Error)
}

// BatchRefs returns the versions that batches were made of.
func (s *Store) BatchRefs() ([]formula.Ref, error) {
	var refs []formula.Ref
	err := s.db.Raw(query("batch_refs")).Scan(&refs).Error
	return refs, translate(err)
}

// UnjudgedBatches returns the ids of batches that have no standing yet.
func (s *Store) UnjudgedBatches() ([]int64, error) {
	var ids []int64
	err := s.db.Table("batches b").Where(query("unjudged_batches")).
		Order("b.id").Pluck("b.id", &ids).Error
	return ids, translate(err)
}

// AddSplit stores that one batch was filled from the bowl of another.
func (s *Store) AddSplit(batch, bowl int64) error {
	return translate(s.db.Exec(query("add_split"), batch, bowl).Error)
}

// Sisters returns the other batches that were filled from the bowl of a batch.
func (s *Store) Sisters(batch int64) ([]kernel.Sister, error) {
	var list []kernel.Sister
	err := s.db.Raw(query("sisters"),
		sql.Named("of", batch)).Scan(&list).Error
	return list, translate(err)
}

// AddBatch stores a batch, fills in its id, adds a lot for it and adds one to its formula's count. Errors: ErrTaken
// when the code is in use.
func (s *Store) AddBatch(b *kernel.Batch) error {
	targets, err := write(b.Targets)
	if err != nil {
		return err
	}
	row := batchRow{Code: b.Code, FormulaID: b.FormulaID, Version: b.Version, Jars: b.Jars, MadeOn: b.MadeOn,
		Targets: targets, Format: upcast.Present, CreatedBy: b.CreatedBy}
	if b.Planned != nil {
		planned, err := write(b.Planned)
		if err != nil {
			return err
		}
		row.Planned = &planned
	}
	if err := s.db.Create(&row).Error; err != nil {
		return translate(err)
	}
	b.ID = row.ID
	lot := kernel.Lot{Code: b.Code, Kind: lots.OfBatch, Batch: b.ID, CreatedAt: s.now(), CreatedBy: b.CreatedBy}
	if err := s.AddLot(&lot); err != nil {
		return err
	}
	return translate(s.db.Model(&formulaRow{}).Where("id = ?", b.FormulaID).Update("batches",
		gorm.Expr("batches + 1")).Error)
}

// CountBatches recounts the batches of every formula.
func (s *Store) CountBatches() error {
	return translate(s.db.Exec(
		query("recount_batches")).Error)
}

// CodesOn returns the codes of the batches made on a day, and blocks others from adding one until the transaction ends.
func (s *Store) CodesOn(on time.Time) ([]string, error) {
	// One lock for a day, so that two batches at once do not both find the same letter free.
	if err := s.db.Exec(query("lock_day"), on.Year()*1000+on.YearDay()).Error; err != nil {
		return nil, translate(err)
	}
	var codes []string
	return codes, translate(s.db.Model(&batchRow{}).Where("made_on = ?", day.Of(on)).Pluck("code",
		&codes).Error)
}

var lockBatches = query("lock_batches")

// LockBatches locks these batches until the transaction ends. It takes the one lock of all writers of batches and lots
// first, so that two of them never wait for each other.
func (s *Store) LockBatches(ids ...int64) error {
	if err := s.db.Exec(lockBatches).Error; err != nil || len(ids) == 0 {
		return translate(err)
	}
	return translate(s.db.Exec(query("lock_these_batches"), ids).Error)
}

// Entries returns the records of batches, oldest first, by batch id.
func (s *Store) Entries(ids ...int64) (map[int64][]bench.Entry, error) {
	out := map[int64][]bench.Entry{}
	var rows []batchEntryRow
	if err := s.db.Where("batch_id IN ?", ids).Order("batch_id, seq").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	for _, r := range rows {
		e, err := r.domain()
		if err != nil {
			return nil, err
		}
		out[r.BatchID] = append(out[r.BatchID], e)
	}
	return out, nil
}

// AddEntry appends to a batch record and returns the entry as later reads will return it. The caller holds the batch's
// lock and may have drawn the entry's id and place before. Errors: ErrTaken when the idempotency key was used
// elsewhere.
func (s *Store) AddEntry(batch int64, e bench.Entry, key string, digest []byte) (bench.Entry, error) {
	var err error
	if e.Seq == 0 {
		if e.Seq, err = next(s.db.Model(&batchEntryRow{}).Where("batch_id = ?", batch)); err != nil {
			return e, err
		}
	}
	w, err := writtenOf(entry.Head{Seq: e.Seq, At: e.At, By: e.By, Role: e.Role}, e.Kind(), e.Body, key, digest)
	if err != nil {
		return e, err
	}
	row := batchEntryRow{ID: e.ID, BatchID: batch, Written: w}
	if e.ClientAt != nil {
		at := asKept(*e.ClientAt)
		row.ClientAt = &at
	}
	if e.ID != 0 {
		err = put(s, false, false, row)
	} else {
		err = translate(s.db.Create(&row).Error)
	}
	if err != nil {
		return e, err
	}
	return row.domain()
}

// EntryKey returns the digest of the entry of this batch that was written with this key; nil if there is none.
func (s *Store) EntryKey(batch int64, key string) ([]byte, error) {
	return s.digestUnder(s.db.Model(&batchEntryRow{}).Where("batch_id = ?", batch), key)
}

type standingRow struct {
	BatchID         int64 `gorm:"primaryKey;autoIncrement:false"`
	State           string
	Jars            int
	Value           *float64
	PHTarget        float64 `gorm:"column:ph_target"`
	PHLimit         float64 `gorm:"column:ph_limit"`
	Outcome         string
	Sentence        string
	Waits           document `gorm:"type:jsonb"`
	Due             *time.Time
	EquilibriumOpen bool
	RunsOut         *time.Time
	Weighed         bool
	Here            int
	Sooner          string
	Barred          string
	Words           string
	Printed         int
	JarsOut         bool
	Recalled        string
	ByWhom          string
	LastDay         *time.Time
	DateKind        string
}

func (standingRow) TableName() string { return "batch_standing" }

// PutStandings stores the standings of batches and replaces the earlier ones.
func (s *Store) PutStandings(list ...kernel.Standing) error {
	rows := make([]standingRow, len(list))
	for i, x := range list {
		waits, err := write(x.Waits)
		if err != nil {
			return err
		}
		rows[i] = standingRow{x.Batch, x.State, x.Jars, x.Value, x.Target, x.Limit, x.Outcome, x.Sentence, waits, x.Due,
			x.EquilibriumOpen, x.RunsOut, x.Weighed, x.Here, x.Sooner, x.Barred, x.Words,
			x.Printed, x.JarsOut, x.Recalled, x.By, nil,
			x.DateKind}
		if x.LastDay != "" {
			day, err := day.Parse(x.LastDay)
			if err != nil {
				return fmt.Errorf("last day of batch %d: %w", x.Batch, err)
			}
			rows[i].LastDay = &day
		}
	}
	return put(s, true, false, rows...)
}

// standingColumns select a batch with its standing, for a list.
var standingColumns = query("standing_columns")

type listedRow struct {
	ID          int64
	Code        string
	FormulaID   string
	FormulaName string
	Version     int
	MadeOn      time.Time
	Standing    standingRow `gorm:"embedded"`
}

func (s *Store) listed(where string, args ...any) ([]kernel.Listed, error) {
	var rows []listedRow
	if err := s.db.Raw(standingColumns+where, args...).Scan(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Listed, len(rows))
	for i, r := range rows {
		x := kernel.Listed{Code: r.Code, Formula: r.FormulaID, FormulaName: r.FormulaName, Version: r.Version,
			MadeOn: day.Of(r.MadeOn)}
		at := r.Standing
		x.Standing = kernel.Standing{Batch: r.ID, State: at.State, Jars: at.Jars, Value: at.Value, Target: at.PHTarget,
			Limit: at.PHLimit, Outcome: at.Outcome,
			Sentence: at.Sentence, Due: at.Due, EquilibriumOpen: at.EquilibriumOpen, RunsOut: at.RunsOut,
			Weighed: at.Weighed, Here: at.Here, Sooner: at.Sooner, Barred: at.Barred, Words: at.Words,
			Printed: at.Printed, JarsOut: at.JarsOut, Recalled: at.Recalled, By: at.ByWhom,
			DateKind: at.DateKind}
		if err := read("waits", upcast.Present, at.Waits, &x.Waits); err != nil {
			return nil, err
		}
		if at.LastDay != nil {
			x.LastDay = day.Of(*at.LastDay)
		}
		out[i] = x
	}
	return out, nil
}

// ListBatches returns up to most batches, newest first, from the one after a key on.
func (s *Store) ListBatches(q kernel.BatchQuery, after *kernel.BatchKey, most int) ([]kernel.Listed, error) {
	where, args := "WHERE true", []any{}
	if q.Formula != "" {
		where, args = where+" AND b.formula_id = ?", append(args, q.Formula)
	}
	if q.State != "" {
		where, args = where+" AND s.state = ?", append(args, q.State)
	}
	if q.Find != "" {
		x := like(q.Find)
		where, args = where+" AND (b.code ILIKE ? OR 'L' || b.code ILIKE ? OR f.name ILIKE ?)", append(args, x, x, x)
	}
	if after != nil {
		where, args = where+" AND (b.made_on, b.id) < (?::date, ?)", append(args, after.MadeOn, after.ID)
	}
	return s.listed(where+" ORDER BY b.made_on DESC, b.id DESC LIMIT ?", append(args, most)...)
}

// BatchesWaiting returns up to most batches that need somebody, oldest first, and how many there are in all: on hold,
// called back, or released early with the equilibrium reading still to come.
func (s *Store) BatchesWaiting(most int) ([]kernel.Listed, int, error) {
	const open = "s.state IN ('hold', 'called_back') OR s.equilibrium_open"
	var n int64
	if err := s.db.Raw(query("count_waiting") + open).Scan(&n).Error; err != nil {
		return nil, 0, translate(err)
	}
	rows, err := s.listed("WHERE "+open+" ORDER BY s.state = 'called_back' DESC, b.id LIMIT ?", most)
	return rows, int(n), err
}

// RanOut returns the ids of released batches whose early release has run out by a time.
func (s *Store) RanOut(now time.Time) ([]int64, error) {
	var ids []int64
	return ids, translate(s.db.Table("batch_standing").Where("state = 'released' AND runs_out <= ?", now).
		Order("batch_id").Pluck("batch_id", &ids).Error)
}

// AllBatches is how many batches there are.
func (s *Store) AllBatches() (int, error) {
	var n int
	return n, translate(s.db.Raw(query("count_all_batches")).Scan(&n).Error)
}

// BatchesEnding returns up to most released batches whose last day lies between two days, the earliest first.
func (s *Store) BatchesEnding(from, to day.Day, most int) ([]kernel.Listed, error) {
	return s.listed(
		query("batches_ending"),
		from, to, most)
}

// Pours returns the last pours of a class of ingredients, oldest first, from which its run-on is learned.
func (s *Store) Pours(class string, most int) ([]bench.Pour, error) {
	var rows []struct{ Grams, Stopped string }
	err := s.db.Raw(query("pours"),
		class,
		most).Scan(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	out := make([]bench.Pour, len(rows))
	for i, r := range rows {
		stopped, wrong := amount.ParseNumber(r.Stopped)
		captured, bad := amount.ParseNumber(r.Grams)
		if err := errors.Join(wrong, bad); err != nil {
			return nil, err
		}
		out[len(rows)-1-i] = bench.Pour{Stopped: stopped.Grams(), Captured: captured.Grams()}
	}
	return out, nil
}

// LastAim returns the fill that somebody last set for the jars of a version; ok is false if nobody has.
func (s *Store) LastAim(of formula.Ref) (aim kernel.AimedAt, ok bool, err error) {
	var rows []struct {
		ID     int64
		Code   string
		ByWhom string
		Body   document
	}
	err = s.db.Raw(query("last_aim"), of.Formula,
		of.Version).
		Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return aim, false, translate(err)
	}
	err = json.Unmarshal(rows[0].Body, &aim)
	aim.Batch, aim.Code, aim.By = rows[0].ID, rows[0].Code, rows[0].ByWhom
	return aim, true, err
}

// madeIn selects the limits of the vessel that a formula was last planned in, or else of the first one that has any.
var madeIn = query("made_in")

// MadeIn returns the vessel of each of these formulas, or of all of them: the one that LastVessel returns. Formulas
// without a vessel are left out.
func (s *Store) MadeIn(formulas ...string) (map[string]bench.Vessel, error) {
	var rows []struct {
		ID     string
		Vessel document
	}
	q, args := query("vessel_of_each")+madeIn+" AS vessel FROM formulas f", []any{}
	if len(formulas) > 0 {
		q, args = q+query("of_formulas"), append(args, formulas)
	}
	if err := s.db.Raw(q, args...).Scan(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := map[string]bench.Vessel{}
	for _, r := range rows {
		if len(r.Vessel) == 0 {
			continue
		}
		var v bench.Vessel
		if err := json.Unmarshal(r.Vessel, &v); err != nil {
			return nil, fmt.Errorf("vessel of %s: %w", r.ID, err)
		}
		out[r.ID] = v
	}
	return out, nil
}

// LastVessel returns the vessel that a formula was last planned in, or else the last one of any formula; 0 if there is
// none.
func (s *Store) LastVessel(formula string) (int64, error) {
	var id int64
	err := s.db.Raw(query("last_vessel"),
		formula).Scan(&id).Error
	return id, translate(err)
}
