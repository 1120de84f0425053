package store

import (
	"time"

	"gallipot/internal/app"
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
func (s *Store) KeepLock(ref formula.Ref, k app.LockKept) error {
	data, err := write(k)
	if err != nil {
		return err
	}
	return translate(s.db.Create(&lockRow{ref.Formula, ref.Version, data, upcast.Present, k.At, k.By}).Error)
}

// Locks returns what these versions rested on when they were locked, of those that keep it.
func (s *Store) Locks(refs ...formula.Ref) (map[formula.Ref]app.LockKept, error) {
	out := map[formula.Ref]app.LockKept{}
	if len(refs) == 0 {
		return out, nil
	}
	var rows []lockRow
	if err := s.db.Where("(formula_id, number) IN ?", pairs(refs)).Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	for _, r := range rows {
		var k app.LockKept
		if err := read("lock", r.Format, r.Data, &k); err != nil {
			return nil, err
		}
		out[formula.Ref{Formula: r.FormulaID, Version: r.Number}] = k
	}
	return out, nil
}

// LocksMissing returns the locked versions that keep nothing yet, components before what uses them.
func (s *Store) LocksMissing() ([]formula.Ref, error) {
	var refs []formula.Ref
	err := s.db.Raw(`SELECT v.formula_id AS formula, v.number AS version FROM versions v WHERE v.state = 'locked'
		AND NOT EXISTS (SELECT FROM version_locks l WHERE l.formula_id = v.formula_id AND l.number = v.number)
		ORDER BY v.locked_at, v.formula_id, v.number`).Scan(&refs).Error
	return refs, translate(err)
}
