package store

import (
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/upcast"
)

type lockRow struct {
	FormulaID string   `gorm:"primaryKey"`
	Number    int      `gorm:"primaryKey;autoIncrement:false"`
	Data      document `gorm:"type:jsonb"`
	Format    int
	At        time.Time
	ByWhom    string
}

func (lockRow) TableName() string { return "version_locks" }

// KeepLock stores what a version rested on when it was locked; it never changes. Errors: ErrTaken.
func (s *Store) KeepLock(ref formula.Ref, k kernel.LockKept) error {
	data, err := write(k)
	if err != nil {
		return err
	}
	return translate(s.db.Create(&lockRow{ref.Formula, ref.Version, data, upcast.Present, k.At, k.By}).Error)
}

// Locks returns what these versions rested on when they were locked, of those that keep it.
func (s *Store) Locks(refs ...formula.Ref) (map[formula.Ref]kernel.LockKept, error) {
	out := map[formula.Ref]kernel.LockKept{}
	if len(refs) == 0 {
		return out, nil
	}
	var rows []lockRow
	if err := s.db.Where("(formula_id, number) IN ?", pairs(refs)).Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	for _, r := range rows {
		var k kernel.LockKept
		if err := read("lock", r.Format, r.Data, &k); err != nil {
			return nil, err
		}
		out[formula.Ref{Formula: r.FormulaID, Version: r.Number}] = k
	}
	return out, nil
}

// LocksMissing returns the locked versions without a stored lock, components before the versions that use them.
func (s *Store) LocksMissing() ([]formula.Ref, error) {
	var refs []formula.Ref
	err := s.db.Raw(query("locks_missing")).Scan(&refs).Error
	return refs, translate(err)
}

// LocksTouched returns the versions in use in which an ingredient's words, allergens or flags have changed since the
// version was locked. In use are the newest version of every formula and those of released batches whose last day is
// not before the given day; the latter come with their batches' lots.
func (s *Store) LocksTouched(day day.Day) ([]kernel.LockTouched, error) {
	var out []kernel.LockTouched
	err := s.db.Raw(query("locks_touched"), day).Scan(&out).Error
	return out, translate(err)
}
