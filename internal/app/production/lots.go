package production

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
)

// LotView is a lot as a page.
type LotView struct {
	kernel.LotStanding
	Record    lots.Lot             `json:"record"`
	Entries   []lots.Entry         `json:"entries"`
	Delivery  *kernel.Delivery     `json:"delivery"`
	Into      []LotInto            `json:"into"` // batches that took of it, the newest first
	IntoAll   int                  `json:"into_all"`
	Parts     []kernel.LotStanding `json:"parts"`
	Twins     []lots.Facts         `json:"twins"` // other lots with the same words of the same supplier
	WhyNot    string               `json:"why_not"`
	Asks      string               `json:"asks"` // what stands against accepting it
	CanFreeze bool                 `json:"can_freeze"`
}

// LotInto is a batch that took of a lot.
type LotInto struct {
	kernel.BatchRow
	Grams amount.Grams `json:"taken_g"`
}

// mostInto is how many batches the page of a lot names.
const mostInto = 100

// Lot returns a lot as a page.
func (a *Room) Lot(ctx context.Context, id int64) (LotView, error) {
	return a.lotView(a.On(ctx), id)
}

func (a *Room) lotView(st kernel.Store, id int64) (LotView, error) {
	l, err := a.LotOf(st, id)
	if err != nil {
		return LotView{}, err
	}
	v := LotView{LotStanding: l.standing, Record: l.record, Entries: l.entries, Into: []LotInto{},
		Parts: []kernel.LotStanding{}, Twins: []lots.Facts{}, WhyNot: l.standing.WhyNot(l.today)}
	if v.Entries == nil {
		v.Entries = []lots.Entry{}
	}
	if l.record.Kind == lots.Incoming {
		v.Asks = l.record.CameIn.Warm(l.g)
		if v.Delivery, err = st.Delivery(l.row.Delivery); err != nil {
			return v, err
		}
		if v.Twins, err = twins(st, l.standing.Facts); err != nil {
			return v, err
		}
	}
	v.CanFreeze = l.Fold.CanFreeze(l.standing.Facts, v.Left, l.today, l.Moment()) == nil
	if err := a.into(st, &v); err != nil {
		return v, err
	}
	parts, err := st.PartsOf(id)
	if err != nil || len(parts) == 0 {
		return v, err
	}
	v.Parts, err = st.LotStandings(parts...)
	return v, err
}

func twins(st kernel.Store, f lots.Facts) ([]lots.Facts, error) {
	out := []lots.Facts{}
	if f.Text == "" {
		return out, nil
	}
	list, err := st.LotsCalled(f.Text)
	if err != nil {
		return out, err
	}
	return append(out, lots.Twins(factsIn(list), f)...), nil
}

func factsIn(list []kernel.LotStanding) []lots.Facts {
	out := make([]lots.Facts, len(list))
	for i, x := range list {
		out[i] = x.Facts
	}
	return out
}

// into names the batches that took of a lot.
func (a *Room) into(st kernel.Store, v *LotView) error {
	drawn, err := st.DrawnBy(v.ID)
	if err != nil {
		return err
	}
	took := map[int64]amount.Grams{}
	var ids []int64
	for _, d := range drawn[v.ID] {
		if _, seen := took[d.Batch]; !seen {
			ids = append(ids, d.Batch)
		}
		took[d.Batch] = took[d.Batch].Plus(d.Grams)
	}
	v.IntoAll = len(ids)
	slices.SortFunc(ids, func(x, y int64) int { return int(y - x) })
	rows, err := st.ListedBatches(ids[:min(len(ids), mostInto)])
	for _, r := range rows {
		v.Into = append(v.Into, LotInto{RowOf(r), took[r.Batch]})
	}
	return err
}

// aLot is a lot with everything its page and its acts rest on.
type aLot struct {
	row      kernel.Lot
	g        *pantry.Ingredient
	record   lots.Lot
	entries  []lots.Entry
	Fold     *lots.Fold
	standing kernel.LotStanding
	today    day.Day
}

// Moment is when the lot came in, or was made.
func (l aLot) Moment() lots.Moment {
	return lots.Moment{Today: l.today, There: l.standing.Left,
		Drawn: l.standing.Used.IsPositive() || l.standing.Parted.IsPositive()}
}

// LotOf reads a lot with its record.
func (a *Room) LotOf(st kernel.Store, id int64) (aLot, error) {
	list, err := st.Lots(id)
	if err != nil {
		return aLot{}, err
	}
	if len(list) == 0 {
		return aLot{}, fmt.Errorf("lot %d: %w", id, kernel.ErrNotFound)
	}
	s, _, err := a.Settings(st)
	if err != nil {
		return aLot{}, err
	}
	l := aLot{row: list[0], today: day.Of(a.TodayIn(s))}
	entries, err := st.LotEntries(id)
	if err != nil {
		return l, err
	}
	if l.g, err = IngredientOf(st, isOf(l.row, entries[id])); err != nil {
		return l, err
	}
	l.read(entries[id])
	standings, err := st.LotStandings(id)
	if err != nil {
		return l, err
	}
	if len(standings) > 0 {
		l.standing = standings[0]
	}
	return l, nil
}

func (l *aLot) read(entries []lots.Entry) {
	l.entries = entries
	l.Fold = lots.NewFold(l.row.Kind, l.g)
	for _, e := range entries {
		l.Fold.Add(e)
	}
	l.record = l.Fold.Lot()
}

// isOf is the ingredient that a lot is of, as its record says; a part is of what its whole was.
func isOf(row kernel.Lot, entries []lots.Entry) string {
	if of := lots.IngredientIn(entries); of != "" {
		return of
	}
	return row.Ingredient
}

// IngredientOf is the ingredient of a lot.
func IngredientOf(st kernel.Store, id string) (*pantry.Ingredient, error) {
	if id == "" {
		return nil, nil
	}
	row, err := st.Ingredient(id)
	return &row.Data, err
}

// stand works out where a lot stands by its record and what is kept of what it rests on. One of a batch of ours is
// judged with its batch.
func (a *Room) stand(st kernel.Store, l *aLot) (kernel.LotStanding, error) {
	used, err := st.UsedOf(l.row.ID)
	if err != nil {
		return kernel.LotStanding{}, err
	}
	s := kernel.LotStanding{Book: l.record.Received, Used: used[l.row.ID], Differs: l.record.Differs}
	switch l.row.Kind {
	case lots.Incoming:
		s.Facts = l.record.FactsOf(l.row.ID, l.row.Code, l.g)
	case lots.Part:
		parent, err := st.LotStandings(l.row.Parent)
		if err != nil || len(parent) == 0 {
			return s, errors.Join(err, fmt.Errorf("lot %d: its whole is not there", l.row.ID))
		}
		s.Facts = l.record.Of(l.row.ID, l.row.Code, parent[0].Facts)
	default:
		return l.standing, nil
	}
	s.Left = s.OnHand(s.Used)
	return s, nil
}

var lotCode = regexp.MustCompile(`^(?:[pP]?([0-9]{4,})|[lL]?([0-9]{2}-[0-9]{3}-[a-zA-Z]{1,2}))$`)

// LotCode is a code as it stands on a sticker or a jar, of what was typed or scanned; empty for what is none.
func LotCode(typed string) string {
	m := lotCode.FindStringSubmatch(strings.TrimSpace(typed))
	switch {
	case m == nil:
		return ""
	case m[1] != "":
		return "P" + m[1]
	}
	return strings.ToUpper(m[2])
}

// refusal puts what a record refuses into the shape of a problem. now is the record as it stands, for whoever is
// behind.
func RefusalOf(err error, now any) error {
	var r entry.Refusal
	if !errors.As(err, &r) {
		return err
	}
	switch {
	case r.Code == entry.Behind:
		return kernel.Problem{Kind: kernel.Clash, Code: r.Code, Message: r.Message, Current: now}
	case r.Code == entry.NotYours:
		return kernel.Problem{Kind: kernel.Forbidden, Code: r.Code, Message: r.Message}
	case r.Field != "":
		return kernel.Mistake(r.Field, "%s", r.Message)
	}
	return kernel.Refuse(r.Code, "%s", r.Message)
}
