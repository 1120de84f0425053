package store

import (
	"strings"
	"time"

	"gallipot/internal/app"
)

type changeRow struct {
	Seq    int64
	At     time.Time
	ByWhom string
	Act    string
	What   string
	Which  string
	Why    *string
	Before document `gorm:"type:jsonb"`
	After  document `gorm:"type:jsonb"`
}

func (changeRow) TableName() string { return "changes" }

// Changes returns up to most changes of what is named, the newest first, from the one before a place on; 0 for the
// newest.
func (s *Store) Changes(of []app.Subject, before int64, most int) ([]app.Change, error) {
	var where []string
	var args []any
	for _, x := range of {
		if x.Below && x.Which == "" {
			where, args = append(where, "what = ?"), append(args, x.What)
			continue
		}
		if x.Below {
			literal := strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(x.Which)
			where, args = append(where, "what = ? AND which LIKE ?"), append(args, x.What, literal+"/%")
			continue
		}
		where, args = append(where, "what = ? AND which = ?"), append(args, x.What, x.Which)
	}
	q := s.db.Where("("+strings.Join(where, " OR ")+")", args...)
	if before > 0 {
		q = q.Where("seq < ?", before)
	}
	var rows []changeRow
	if err := q.Order("seq DESC").Limit(most).Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]app.Change, len(rows))
	for i, r := range rows {
		why := ""
		if r.Why != nil {
			why = *r.Why
		}
		out[i] = app.Change{Why: why, Seq: r.Seq, At: r.At, By: r.ByWhom, Act: r.Act, What: r.What, Which: r.Which,
			Before: r.Before, After: r.After}
	}
	return out, nil
}
