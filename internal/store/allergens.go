package store

import (
	"fmt"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/core/amount"
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

func (r allergenChangeRow) domain() (app.AllergenChange, error) {
	c := app.AllergenChange{ID: r.ID, At: r.At, By: r.ByWhom, Reason: r.Reason}
	return c, read("allergen_change", r.Format, r.What, &c.ChangeWhat)
}

// AllergenChanges returns up to most changes, the newest first; where asked, only those that gained an allergen.
func (s *Store) AllergenChanges(gained bool, most int) ([]app.AllergenChange, error) {
	var rows []allergenChangeRow
	q := s.db.Order("id DESC").Limit(most)
	if gained {
		q = q.Where("gained")
	}
	if err := q.Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]app.AllergenChange, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.domain(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// AllergenChange returns one. Errors: ErrNotFound.
func (s *Store) AllergenChange(id int64) (app.AllergenChange, error) {
	var row allergenChangeRow
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return app.AllergenChange{}, fmt.Errorf("allergen change %d: %w", id, translate(err))
	}
	return row.domain()
}

// AddAllergenChange stores a change and fills in its id; it never changes.
func (s *Store) AddAllergenChange(c *app.AllergenChange) error {
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
func (s *Store) Vessels() ([]app.Vessel, error) {
	var rows []vesselRow
	if err := s.db.Order("retired_at IS NOT NULL, lower(name), id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]app.Vessel, len(rows))
	for i, r := range rows {
		out[i] = app.Vessel{ID: r.ID, Name: r.Name, Rev: r.Rev, Retired: r.RetiredAt != nil,
			Least: amount.Milligrams(r.LeastMg), Greatest: amount.Milligrams(r.GreatestMg),
			Residue: amount.Milligrams(r.ResidueMg)}
	}
	return out, nil
}

// AddVessel stores a vessel and fills in its id. Errors: ErrTaken.
func (s *Store) AddVessel(v *app.Vessel) error {
	row := vesselRow{Name: v.Name, Rev: 1, LeastMg: v.Least.Milligrams(), GreatestMg: v.Greatest.Milligrams(),
		ResidueMg: v.Residue.Milligrams()}
	err := translate(s.db.Create(&row).Error)
	v.ID = row.ID
	return err
}

// PutVessel changes a vessel over revision rev. Errors: ErrConflict, ErrTaken.
func (s *Store) PutVessel(v app.Vessel, rev int) error {
	changes := map[string]any{"name": v.Name, "rev": rev + 1, "retired_at": nil, "least_mg": v.Least.Milligrams(),
		"greatest_mg": v.Greatest.Milligrams(), "residue_mg": v.Residue.Milligrams()}
	if v.Retired {
		changes["retired_at"] = time.Now()
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

// VesselEntries returns the turns of vessels in the order in which they happened.
func (s *Store) VesselEntries(vessels ...int64) ([]app.VesselEntry, error) {
	if len(vessels) == 0 {
		return nil, nil
	}
	var rows []vesselEntryRow
	if err := s.db.Where("vessel_id IN ?", vessels).Order("happened_at, id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]app.VesselEntry, len(rows))
	for i, r := range rows {
		out[i] = app.VesselEntry{ID: r.ID, Vessel: r.VesselID, Kind: r.Kind, What: r.What, At: r.HappenedAt,
			EnteredAt: r.EnteredAt, By: r.ByWhom}
		if r.BatchID != nil {
			out[i].Batch = *r.BatchID
		}
		if err := read("codes", upcast.Present, r.Allergens, &out[i].Allergens); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// AddVesselEntry stores a turn of a vessel and fills in its id; it never changes.
func (s *Store) AddVesselEntry(e *app.VesselEntry) error {
	codes, err := write(e.Allergens)
	if err != nil {
		return err
	}
	row := vesselEntryRow{VesselID: e.Vessel, Kind: e.Kind, What: e.What, Allergens: codes, HappenedAt: e.At,
		EnteredAt: e.EnteredAt, ByWhom: e.By}
	if e.Batch != 0 {
		row.BatchID = &e.Batch
	}
	err = translate(s.db.Create(&row).Error)
	e.ID = row.ID
	return err
}
