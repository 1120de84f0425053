package store

import (
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
)

type partyRow struct {
	ID        int64
	Name      string
	Kind      string
	Contact   string
	Day       *time.Time
	Rev       int
	RetiredAt *time.Time
}

func (partyRow) TableName() string { return "parties" }

func (r partyRow) domain() kernel.Party {
	p := kernel.Party{ID: r.ID, Name: r.Name, Kind: r.Kind, Contact: r.Contact, Rev: r.Rev, Retired: r.RetiredAt != nil}
	if r.Day != nil {
		p.Day = day.Of(*r.Day)
	}
	return p
}

func dayOrNull(on day.Day) (*time.Time, error) {
	if on == "" {
		return nil, nil
	}
	d, err := day.Parse(on)
	return &d, err
}

// Parties returns those who may have jars, by name; market days by day.
func (s *Store) Parties() ([]kernel.Party, error) {
	var rows []partyRow
	if err := s.db.Order("retired_at IS NOT NULL, kind, day DESC, lower(name)").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.Party, len(rows))
	for i, r := range rows {
		out[i] = r.domain()
	}
	return out, nil
}

// Party returns one. Errors: ErrNotFound.
func (s *Store) Party(id int64) (kernel.Party, error) {
	var row partyRow
	if err := s.db.Where("id = ?", id).Take(&row).Error; err != nil {
		return kernel.Party{}, fmt.Errorf("party %d: %w", id, translate(err))
	}
	return row.domain(), nil
}

// AddParty stores a party and fills in its id. Errors: ErrTaken.
func (s *Store) AddParty(p *kernel.Party) error {
	day, err := dayOrNull(p.Day)
	if err != nil {
		return err
	}
	row := partyRow{Name: p.Name, Kind: p.Kind, Contact: p.Contact, Day: day, Rev: 1}
	if err := s.db.Create(&row).Error; err != nil {
		return translate(err)
	}
	p.ID = row.ID
	return nil
}

// PutParty changes a party. Errors: ErrConflict, ErrTaken.
func (s *Store) PutParty(p kernel.Party, rev int) error {
	day, err := dayOrNull(p.Day)
	if err != nil {
		return err
	}
	changes := map[string]any{"name": p.Name, "kind": p.Kind, "contact": p.Contact, "day": day, "rev": rev + 1}
	if p.Retired {
		changes["retired_at"] = s.now()
	} else {
		changes["retired_at"] = nil
	}
	return changedOne(s.db.Model(&partyRow{}).Where("id = ? AND rev = ?", p.ID, rev).Updates(changes))
}

type batchJarsRow struct {
	BatchID   int64
	Place     string
	PartyID   int64
	PartyName string
	Jars      int
	Since     time.Time
}

func (batchJarsRow) TableName() string { return "batch_jars" }

// PutJars stores where the jars of a batch are and replaces what was stored before.
func (s *Store) PutJars(batch int64, jars []bench.JarsAt) error {
	if err := s.db.Exec(query("drop_jars"), batch).Error; err != nil || len(jars) == 0 {
		return translate(err)
	}
	rows := make([]batchJarsRow, len(jars))
	for i, x := range jars {
		since, err := time.Parse(time.RFC3339, x.Since)
		if err != nil {
			return fmt.Errorf("jars of batch %d: %w", batch, err)
		}
		rows[i] = batchJarsRow{batch, x.Place, x.Party, x.PartyName, x.Jars, since}
	}
	return translate(s.db.Create(&rows).Error)
}

// JarsOf returns where the jars of batches are, in the order in which a jar travels.
func (s *Store) JarsOf(ids ...int64) (map[int64][]bench.JarsAt, error) {
	var rows []batchJarsRow
	out := map[int64][]bench.JarsAt{}
	if len(ids) == 0 {
		return out, nil
	}
	if err := s.db.Where("batch_id = ANY (?)", idList(ids)).Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	for _, r := range rows {
		out[r.BatchID] = append(out[r.BatchID], bench.JarsAt{Place: r.Place, Party: r.PartyID, PartyName: r.PartyName,
			Jars: r.Jars, Since: r.Since.UTC().Format(time.RFC3339)})
	}
	for id := range out {
		bench.SortJars(out[id])
	}
	return out, nil
}

// BatchesWithJars returns up to most batches that are called back, or whose jars may still leave or came back, the
// earliest end first.
func (s *Store) BatchesWithJars(most int) ([]kernel.Listed, error) {
	return s.listed(query("batches_with_jars"), most)
}

// ReadyBatches returns up to most released batches of a formula with jars that may leave on a day, the earliest end
// first.
func (s *Store) ReadyBatches(formula string, today day.Day, most int) ([]kernel.Listed, error) {
	return s.listed(query("ready_batches"), today, formula, most)
}

// ListedBatches returns batches as lists show them, the newest first.
func (s *Store) ListedBatches(ids []int64) ([]kernel.Listed, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	return s.listed(query("listed_batches"), ids)
}

// PlannedBatches returns up to most batches that are not weighed yet, the earliest day first.
func (s *Store) PlannedBatches(most int) ([]kernel.Listed, error) {
	return s.listed(query("planned_batches"), most)
}

// BatchesSooner returns up to most released batches whose lots end before the day that was decided.
func (s *Store) BatchesSooner(most int) ([]kernel.Listed, error) {
	return s.listed("WHERE s.sooner <> '' ORDER BY b.id LIMIT ?", most)
}
