package store

import (
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/told"

	"gorm.io/gorm"
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

// Changes returns up to most changes of the named things, newest first, starting before a place; 0 starts with the
// newest.
func (s *Store) Changes(of []kernel.Subject, before int64, most int) ([]told.Change, error) {
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
	return changesOf(rows), nil
}

func changesOf(rows []changeRow) []told.Change {
	out := make([]told.Change, len(rows))
	for i, r := range rows {
		why := ""
		if r.Why != nil {
			why = *r.Why
		}
		out[i] = told.Change{Why: why, Seq: r.Seq, At: r.At, By: r.ByWhom, Act: r.Act, What: r.What, Which: r.Which,
			Before: r.Before, After: r.After}
	}
	return out
}

// among narrows a query of changes to the things asked for.
func (s *Store) among(ask kernel.ChangesAsk) *gorm.DB {
	q := s.db.Model(&changeRow{}).Where("at >= ? AND at < ?", ask.From, ask.To)
	if len(ask.Whats) > 0 {
		q = q.Where("what IN ?", ask.Whats)
	}
	if len(ask.Kinds) > 0 {
		q = q.Where("after->>'kind' IN ?", ask.Kinds)
	}
	if ask.By != "" {
		q = q.Where("by_whom = ?", ask.By)
	}
	return q
}

// ChangesOn returns the changes of a period, newest first, starting before a place; 0 starts with the newest.
func (s *Store) ChangesOn(ask kernel.ChangesAsk) ([]told.Change, error) {
	q := s.among(ask)
	if ask.Before > 0 {
		q = q.Where(query("before_change"), ask.Before)
	}
	var rows []changeRow
	err := q.Order("at DESC, seq DESC").Limit(ask.Most).Find(&rows).Error
	return changesOf(rows), translate(err)
}

// ChangeDays counts changes by the days of a time zone, earliest day first.
func (s *Store) ChangeDays(ask kernel.ChangesAsk, zone string) ([]kernel.DayCount, error) {
	out := []kernel.DayCount{}
	err := s.among(ask).Select("((at AT TIME ZONE ?)::date)::text AS day, count(*) AS count", zone).Group("day").
		Order("day").Scan(&out).Error
	return out, translate(err)
}

// named maps each kind of thing to the query for its name.
var named = map[string]string{
	"batch":       query("name_of_batch"),
	"lot":         query("name_of_lot"),
	"recall":      query("name_of_recall"),
	"ingredient":  query("name_of_ingredient"),
	"formula":     query("name_of_formula"),
	"preparation": query("name_of_preparation"),
}

// NamesOf returns the names of things; keys are the kind, a space and the id.
func (s *Store) NamesOf(ids map[string][]int64, texts map[string][]string) (map[string]string, error) {
	out := map[string]string{}
	for what, query := range named {
		var arg any = texts[what]
		if strings.Contains(query, "ANY") {
			arg = idList(ids[what])
		}
		if len(texts[what]) == 0 {
			continue
		}
		var rows []struct{ ID, Name string }
		if err := s.db.Raw(query, arg).Scan(&rows).Error; err != nil {
			return nil, translate(err)
		}
		for _, r := range rows {
			out[what+" "+r.ID] = r.Name
		}
	}
	return out, nil
}
