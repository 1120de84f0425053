package store

import (
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/law"
	"gallipot/internal/upcast"
)

type allergenChangeRow struct {
	ID     int64
	At     time.Time
	ByWhom string
	Reason string
	Gained bool
	What   document `gorm:"type:jsonb"`
	Format int
}

func (allergenChangeRow) TableName() string { return "allergen_changes" }

func (r allergenChangeRow) domain() (kernel.AllergenChange, error) {
	c := kernel.AllergenChange{ID: r.ID, At: r.At, By: r.ByWhom, Reason: r.Reason}
	return c, read("allergen_change", r.Format, r.What, &c.ChangeWhat)
}

// AllergenChanges returns up to most changes, the newest first; where asked, only those that gained an allergen.
func (s *Store) AllergenChanges(gained bool, most int) ([]kernel.AllergenChange, error) {
	var rows []allergenChangeRow
	q := s.db.Order("id DESC").Limit(most)
	if gained {
		q = q.Where("gained")
	}
	if err := q.Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.AllergenChange, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.domain(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// AllergenChange returns one. Errors: ErrNotFound.
func (s *Store) AllergenChange(id int64) (kernel.AllergenChange, error) {
	var row allergenChangeRow
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return kernel.AllergenChange{}, fmt.Errorf("allergen change %d: %w", id, translate(err))
	}
	return row.domain()
}

// AddAllergenChange stores a change and fills in its id; it never changes.
func (s *Store) AddAllergenChange(c *kernel.AllergenChange) error {
	what, err := write(c.ChangeWhat)
	if err != nil {
		return err
	}
	row := allergenChangeRow{At: c.At, ByWhom: c.By, Reason: c.Reason, Gained: c.Gained(), What: what,
		Format: upcast.Present}
	err = translate(s.db.Create(&row).Error)
	c.ID = row.ID
	return err
}

// BatchesLacking returns the batches whose jars are out with words that lack an allergen.
func (s *Store) BatchesLacking() (map[int64]bool, error) {
	var ids []int64
	if err := s.db.Table("batch_standing").Where("words <> ''").Pluck("batch_id", &ids).Error; err != nil {
		return nil, translate(err)
	}
	out := map[int64]bool{}
	for _, id := range ids {
		out[id] = true
	}
	return out, nil
}

type vesselRow struct {
	ID        int64
	Name      string
	Rev       int
	RetiredAt *time.Time

	LeastMg    int64
	GreatestMg int64
	ResidueMg  int64
}

func (vesselRow) TableName() string { return "vessels" }

// Vessels returns all vessels by name, retired ones last.
func (s *Store) Vessels() ([]kernel.Vessel, error) {
	var rows []vesselRow
	if err := s.db.Order("retired_at IS NOT NULL, lower(name), id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Vessel, len(rows))
	for i, r := range rows {
		out[i] = kernel.Vessel{ID: r.ID, Name: r.Name, Rev: r.Rev, Retired: r.RetiredAt != nil,
			Least: amount.Milligrams(r.LeastMg), Greatest: amount.Milligrams(r.GreatestMg),
			Residue: amount.Milligrams(r.ResidueMg)}
	}
	return out, nil
}

// AddVessel stores a vessel and fills in its id. Errors: ErrTaken.
func (s *Store) AddVessel(v *kernel.Vessel) error {
	row := vesselRow{Name: v.Name, Rev: 1, LeastMg: v.Least.Steps(), GreatestMg: v.Greatest.Steps(),
		ResidueMg: v.Residue.Steps()}
	err := translate(s.db.Create(&row).Error)
	v.ID = row.ID
	return err
}

// PutVessel changes a vessel over revision rev. Errors: ErrConflict, ErrTaken.
func (s *Store) PutVessel(v kernel.Vessel, rev int) error {
	changes := map[string]any{"name": v.Name, "rev": rev + 1, "retired_at": nil, "least_mg": v.Least.Steps(),
		"greatest_mg": v.Greatest.Steps(), "residue_mg": v.Residue.Steps()}
	if v.Retired {
		changes["retired_at"] = s.now()
	}
	return changedOne(s.db.Model(&vesselRow{}).Where("id = ? AND rev = ?", v.ID, rev).Updates(changes))
}

type vesselEntryRow struct {
	ID         int64
	VesselID   int64
	Kind       string
	BatchID    *int64
	What       string
	Allergens  document `gorm:"type:jsonb"`
	HappenedAt time.Time
	EnteredAt  time.Time
	ByWhom     string
}

func (vesselEntryRow) TableName() string { return "vessel_entries" }

// VesselEntries returns the entries of vessels in the order in which they happened.
func (s *Store) VesselEntries(vessels ...int64) ([]kernel.VesselEntry, error) {
	if len(vessels) == 0 {
		return nil, nil
	}
	var rows []vesselEntryRow
	if err := s.db.Where("vessel_id IN ?", vessels).Order("happened_at, id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.VesselEntry, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.domain(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (r vesselEntryRow) domain() (kernel.VesselEntry, error) {
	e := kernel.VesselEntry{ID: r.ID, Vessel: r.VesselID, Kind: r.Kind, What: r.What, Batch: orZero(r.BatchID),
		At: r.HappenedAt, EnteredAt: r.EnteredAt, By: r.ByWhom}
	return e, read("codes", upcast.Present, r.Allergens, &e.Allergens)
}

// vesselsOf selects the entries of the vessels that a batch was or will be made in, since the last clean-down before
// it. A vessel without entries comes as one row of nulls.
var vesselsOf = query("vessels_of")

// VesselsOf returns the vessels that a batch was made in, with their entries since the last clean-down before it.
func (s *Store) VesselsOf(batch int64) ([]kernel.VesselTurns, error) {
	var rows []turnRow
	args := map[string]any{"batch": batch, "cleaned": bench.VesselCleaned}
	if err := s.db.Raw(vesselsOf, args).Scan(&rows).Error; err != nil {
		return nil, translate(err)
	}
	return byVessel(rows)
}

// turnRow is a vessel joined with one of its entries.
type turnRow struct {
	ID         *int64
	VesselID   int64
	Name       string
	Kind       *string
	BatchID    *int64
	What       *string
	Allergens  document
	HappenedAt *time.Time
	EnteredAt  *time.Time
	ByWhom     *string
}

func byVessel(rows []turnRow) ([]kernel.VesselTurns, error) {
	var out []kernel.VesselTurns
	known := map[string]law.Each[[]string]{} // turns of one product share their allergens
	for _, r := range rows {
		if len(out) == 0 || out[len(out)-1].ID != r.VesselID {
			out = append(out, kernel.VesselTurns{ID: r.VesselID, Name: r.Name})
		}
		if r.ID == nil {
			continue
		}
		codes, ok := known[string(r.Allergens)]
		if !ok {
			if err := read("codes", upcast.Present, r.Allergens, &codes); err != nil {
				return nil, err
			}
			known[string(r.Allergens)] = codes
		}
		v := &out[len(out)-1]
		v.Turns = append(v.Turns, kernel.VesselEntry{ID: *r.ID, Vessel: r.VesselID, Kind: *r.Kind, What: *r.What,
			Batch: orZero(r.BatchID), Allergens: codes, At: *r.HappenedAt, EnteredAt: *r.EnteredAt, By: *r.ByWhom})
	}
	return out, nil
}

// AddVesselEntry stores an entry of a vessel; it never changes.
func (s *Store) AddVesselEntry(e kernel.VesselEntry) error {
	codes, err := write(e.Allergens)
	if err != nil {
		return err
	}
	row := vesselEntryRow{VesselID: e.Vessel, Kind: e.Kind, What: e.What, Allergens: codes, HappenedAt: e.At,
		EnteredAt: e.EnteredAt, ByWhom: e.By}
	if e.Batch != 0 {
		row.BatchID = &e.Batch
	}
	return put(s, false, true, row)
}
