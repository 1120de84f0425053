package store

import (
	"encoding/json"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"

	"gorm.io/gorm/clause"
)

type lotStandingRow struct {
	LotID        int64 `gorm:"primaryKey;autoIncrement:false"`
	IngredientID *string
	FormulaID    *string
	Version      *int
	State        string
	Bar          string
	Differs      bool
	Ends         *time.Time
	Supplier     string
	Said         string
	Received     int64
	Corrected    int64
	Thrown       int64
	Parted       int64
	Used         int64
	OnHand       int64 `gorm:"->"`
	PerGram      *float64
	Facts        document `gorm:"type:jsonb"`
}

func (lotStandingRow) TableName() string { return "lot_standing" }

func (r lotStandingRow) domain() (kernel.LotStanding, error) {
	x := kernel.LotStanding{Used: amount.Milligrams(r.Used), Left: amount.Milligrams(r.OnHand), Differs: r.Differs}
	x.In, x.Corrected = amount.Milligrams(r.Received), amount.Milligrams(r.Corrected)
	x.Thrown, x.Parted = amount.Milligrams(r.Thrown), amount.Milligrams(r.Parted)
	if err := json.Unmarshal(r.Facts, &x.Facts); err != nil {
		return x, fmt.Errorf("lot %d: %w", r.LotID, err)
	}
	return x, nil
}

// PutLotStandings stores the standings of lots and replaces the earlier ones.
func (s *Store) PutLotStandings(list ...kernel.LotStanding) error {
	rows := make([]lotStandingRow, len(list))
	for i, x := range list {
		facts, err := json.Marshal(x.Facts)
		if err != nil {
			return fmt.Errorf("lot %d: %w", x.ID, err)
		}
		r := lotStandingRow{LotID: x.ID, IngredientID: orNull(x.Ingredient), FormulaID: orNull(x.Formula),
			Version: orNull(x.Version), State: x.State, Bar: x.Bar, Differs: x.Differs, Supplier: x.Supplier,
			Said:     x.Text,
			Received: x.In.Steps(), Corrected: x.Corrected.Steps(), Thrown: x.Thrown.Steps(),
			Parted: x.Parted.Steps(), Used: x.Used.Steps(), Facts: facts}
		if x.Ends != "" {
			day, err := day.Parse(x.Ends)
			if err != nil {
				return fmt.Errorf("end of lot %d: %w", x.ID, err)
			}
			r.Ends = &day
		}
		if x.PerGram != nil {
			per := x.PerGram.Float()
			r.PerGram = &per
		}
		rows[i] = r
	}
	return translate(s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&rows).Error)
}

// LotStandings returns the standings of lots.
func (s *Store) LotStandings(ids ...int64) ([]kernel.LotStanding, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	return s.lotStandings("lot_id IN ? ORDER BY lot_id", ids)
}

func (s *Store) lotStandings(where string, args ...any) ([]kernel.LotStanding, error) {
	var rows []lotStandingRow
	if err := s.db.Raw(query("lot_standings")+where, args...).Scan(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.LotStanding, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.domain(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// LotsThere returns the lots of ingredients and the batches of components of which something is left, or of which more
// was taken than there was.
func (s *Store) LotsThere(ingredients []string, components []formula.Ref) ([]kernel.LotStanding, error) {
	where, args := "ingredient_id IN ? AND formula_id IS NULL AND (on_hand <> 0 OR state = 'waiting')",
		[]any{ingredients}
	if len(ingredients) == 0 {
		where, args = "false", nil
	}
	if len(components) > 0 {
		where, args = where+" OR (formula_id, version) IN ? AND on_hand <> 0", append(args, pairs(components))
	}
	return s.lotStandings(where+" ORDER BY lot_id", args...)
}

// shows maps the name of a list to the condition for its lots.
var shows = map[string]string{
	"there":   "(on_hand <> 0 OR state = 'waiting')",
	"ends":    "on_hand > 0 AND ends <= ?::date",
	"hold":    "(on_hand <> 0 OR state = 'waiting') AND (state IN ('hold', 'refused') OR bar <> '' AND state <> 'waiting')",
	"waiting": "(state = 'waiting' OR differs AND state <> 'refused')",
	"barred":  "state IN ('hold', 'refused') AND used > 0",
}

// component keeps jars that are sold, and in no formula, out of the stock for the bowl.
var component = query("lots_of_components")

// ListLots returns up to most lots, the earliest end first, and how many there are in all. Errors: ErrNotFound for an
// unknown list.
func (s *Store) ListLots(q kernel.StockQuery, most int) ([]kernel.LotStanding, int, error) {
	where, known := shows[q.Show]
	if !known {
		return nil, 0, fmt.Errorf("lots to show: %q: %w", q.Show, kernel.ErrNotFound)
	}
	var args []any
	if q.Show == "ends" {
		args = append(args, q.Until)
	}
	where += component
	if q.Ingredient != "" {
		where, args = where+" AND (ingredient_id = ? OR formula_id = ?)", append(args, q.Ingredient, q.Ingredient)
	}
	if q.Find != "" {
		x := like(q.Find)
		where,
			args = where+" AND (facts->>'code' ILIKE ? OR said ILIKE ? OR supplier ILIKE ? OR facts->>'name' ILIKE ?)",
			append(args, x, x, x, x)
	}
	var n int64
	if err := s.db.Raw(query("count_lots")+where, args...).Scan(&n).Error; err != nil {
		return nil, 0, translate(err)
	}
	rows, err := s.lotStandings(where+" ORDER BY ends NULLS LAST, lot_id LIMIT ?", append(args, most)...)
	return rows, int(n), err
}

// Stock sums what is there by ingredient and by component, the earliest end first.
func (s *Store) Stock(today day.Day) ([]kernel.StockSum, error) {
	var rows []struct {
		Ingredient, Formula, Name string
		Lots, Held                int
		Usable, There, Past       int64
		Ends                      *time.Time
		Worth                     *float64
	}
	err := s.db.Raw(query("stock_head")+component+query("stock_tail"),
		today, today, today).Scan(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	out := make([]kernel.StockSum, len(rows))
	for i, r := range rows {
		out[i] = kernel.StockSum{Ingredient: r.Ingredient, Formula: r.Formula, Name: r.Name, Lots: r.Lots, Held: r.Held,
			Usable: amount.Milligrams(r.Usable), There: amount.Milligrams(r.There), Past: amount.Milligrams(r.Past)}
		if r.Ends != nil {
			out[i].Ends = day.Of(*r.Ends)
		}
		if r.Worth != nil {
			w := amount.ExactFloat(*r.Worth).Round(6)
			out[i].Worth = &w
		}
	}
	return out, nil
}
