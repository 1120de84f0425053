package store

import (
	"time"

	"gallipot/internal/app/kernel"
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

// LocksMissing returns the locked versions that keep nothing yet, components before what uses them.
func (s *Store) LocksMissing() ([]formula.Ref, error) {
	var refs []formula.Ref
	err := s.db.Raw(`SELECT v.formula_id AS formula, v.number AS version FROM versions v WHERE v.state = 'locked'
		AND NOT EXISTS (SELECT FROM version_locks l WHERE l.formula_id = v.formula_id AND l.number = v.number)
		ORDER BY v.locked_at, v.formula_id, v.number`).Scan(&refs).Error
	return refs, translate(err)
}

// LocksTouched returns the versions in use of which an ingredient's words, allergens or flags are not today what they
// were when the version was locked: the newest of every formula, and those of released batches whose last day is not
// before a day, with these batches' lots.
func (s *Store) LocksTouched(day string) ([]kernel.LockTouched, error) {
	var out []kernel.LockTouched
	err := s.db.Raw(`WITH dated AS (
			SELECT b.formula_id, b.version AS number, string_agg(b.code, ', ' ORDER BY b.made_on, b.id) AS lots
			FROM batches b JOIN batch_standing s ON s.batch_id = b.id
			WHERE s.state = 'released' AND s.last_day >= ?::date GROUP BY 1, 2),
		used AS (SELECT formula_id, number FROM dated UNION
			(SELECT DISTINCT ON (v.formula_id) v.formula_id, v.number FROM versions v JOIN formulas f ON f.id = v.formula_id
			WHERE v.state = 'locked' AND NOT f.retired ORDER BY v.formula_id, v.number DESC))
		SELECT l.formula_id AS formula, l.number AS version, f.name, coalesce(dated.lots, '') AS lots
		FROM used JOIN version_locks l USING (formula_id, number) JOIN formulas f ON f.id = formula_id
		LEFT JOIN dated USING (formula_id, number)
		WHERE EXISTS (SELECT FROM jsonb_array_elements(l.data->'ingredients') was JOIN ingredients i ON i.id = was->>'id'
			CROSS JOIN unnest(ARRAY['flags', 'allergens', 'supplier_lists', 'label_names', 'sulphites_mg_kg']) AS part
			WHERE was->part IS DISTINCT FROM i.data->part)
		ORDER BY f.name, l.number`, day).Scan(&out).Error
	return out, translate(err)
}
