package production

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
	"gallipot/internal/core/reader"
)

// NewLot is a row of a delivery note as it was typed.
type NewLot struct {
	Ingredient string        `json:"ingredient"` // id or name
	Text       string        `json:"text"`
	Pack       string        `json:"pack"`
	Ends       day.Day       `json:"ends"`
	EndKind    string        `json:"end_kind"` // empty: by what the ingredient is
	Cost       *amount.Money `json:"cost"`
	ArrivalC   *float64      `json:"arrival_c"`
	LimitC     *float64      `json:"limit_c"` // nil: the law's
	Statement  string        `json:"statement"`
	Strength   *float64      `json:"strength"`
	PH         *float64      `json:"ph"`
	List       string        `json:"list"`
	Note       string        `json:"note"`
	Accept     bool          `json:"accept"` // at once
	Refuse     string        `json:"refuse"` // at once, because
	Reason     string        `json:"reason"` // an owner's, to accept it all the same
}

// NewDelivery is what a supplier brought. Again is why a note that was taken in before is not the same delivery.
type NewDelivery struct {
	Supplier string   `json:"supplier"`
	Note     string   `json:"note"`
	Day      day.Day  `json:"day"`
	Again    string   `json:"again"`
	Lots     []NewLot `json:"lots"`
}

// Taken is a delivery that was taken in.
type Taken struct {
	Delivery kernel.Delivery      `json:"delivery"`
	Lots     []kernel.LotStanding `json:"lots"`
}

// mostRows is how many rows a delivery has at most.
const mostRows = 200

// Receive takes a delivery in, all of it or nothing: each row becomes a lot with a code of its own. The same delivery
// sent twice under one key is taken in once; a note of the same supplier that was taken in before is asked about.
func (a *Room) Receive(ctx context.Context, d NewDelivery) (Taken, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return Taken{}, err
	}
	d.Supplier, d.Note = strings.TrimSpace(d.Supplier), strings.TrimSpace(d.Note)
	if n := len([]rune(d.Note)); n > 80 {
		return Taken{}, kernel.Mistake("note", "at most 80 characters")
	}
	if n := len(d.Lots); n == 0 || n > mostRows {
		return Taken{}, kernel.Mistake("lots", "a delivery has between 1 and %d rows", mostRows)
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (Taken, error) {
		if err := st.LockBatches(); err != nil {
			return Taken{}, err
		}
		if err := sameNote(st, d); err != nil {
			return Taken{}, err
		}
		return a.receive(ctx, st, d)
	})
}

// sameNote asks about a note that was taken in before.
func sameNote(st kernel.Store, d NewDelivery) error {
	if d.Note == "" {
		return nil
	}
	before, err := st.DeliveriesUnder(d.Supplier, d.Note)
	if err != nil || len(before) == 0 {
		return err
	}
	if strings.TrimSpace(d.Again) != "" {
		return nil
	}
	x := before[0]
	return kernel.Problem{Kind: kernel.Invalid, Code: "note_again",
		Message: fmt.Sprintf("Note %s of %s was taken in on %s by %s. If this is another delivery, say so.", x.Note,
			x.Supplier, x.Day, x.By),
		Fields: []pantry.FieldError{{Field: "again", Message: "was this note not taken in already?"}}}
}

// intake is what rows of a delivery are read with.
type intake struct {
	a        *Room
	st       kernel.Store
	book     catalog.Book
	today    day.Day
	have     []kernel.Ingredient
	at       map[string]int // of an id
	names    *match.Names
	reads    *reader.Book // once words name nothing
	measures pantry.Measures
}

func (a *Room) intake(st kernel.Store) (*intake, error) {
	b, err := a.Catalog.Book(st)
	if err != nil {
		return nil, err
	}
	have, err := st.Ingredients()
	if err != nil {
		return nil, err
	}
	at := map[string]int{}
	for i := range have {
		at[have[i].ID] = i
	}
	m, err := a.Catalog.Measures(st, "")
	return &intake{a, st, b, day.Of(a.TodayIn(b.Settings)), have, at, a.Catalog.NamesOf(have), nil, m}, err
}

// tins are what a tin or a can is called among the measures, the likeliest first.
var tins = []string{"tin", "can", "can_400g_drained", "can_15oz_drained"}

// weigher answers what a measure of an ingredient weighs.
func (in *intake) weigher(ingredient string) lots.Weigher {
	return func(measure string) (float64, bool) {
		names := []string{measure}
		if slices.Contains(tins[:2], measure) {
			names = tins
		}
		for _, name := range names {
			if m, ok := in.measures.House(ingredient, name); ok {
				return m.Grams, true
			}
			if m, ok := in.measures.Reference(ingredient, name); ok {
				return m.Grams, true
			}
		}
		return 0, false
	}
}

// read makes of a row what is known of its lot. Errors name the fields.
func (in *intake) read(d NewDelivery, n NewLot) (lots.CameIn, *pantry.Ingredient, []pantry.FieldError) {
	var g *pantry.Ingredient
	if i, ok := in.at[in.names.One(n.Ingredient)]; ok {
		g = &in.have[i].Data
		if in.have[i].Retired {
			return lots.CameIn{}, g, []pantry.FieldError{{Field: "ingredient",
				Message: g.Name + " is retired; bring it back into use on its page first"}}
		}
	}
	r := lots.Received{Ingredient: n.Ingredient, Supplier: d.Supplier, Text: strings.TrimSpace(n.Text), Day: d.Day,
		Pack: strings.TrimSpace(n.Pack), Ends: n.Ends, EndKind: n.EndKind, Cost: n.Cost, ArrivalC: n.ArrivalC,
		LimitC: n.LimitC, Statement: strings.TrimSpace(n.Statement), Strength: n.Strength, PH: n.PH,
		List: strings.TrimSpace(n.List), Note: strings.TrimSpace(n.Note)}
	var errs []pantry.FieldError
	if g != nil {
		r.Ingredient = g.ID
		if r.LimitC == nil && (r.ArrivalC != nil || lots.ArrivesCold(g)) {
			limit := in.book.Law.ArrivalC
			r.LimitC = &limit
		}
		if r.EndKind == "" && r.Ends != "" {
			r.EndKind = lots.BestBefore
			if lots.NeedsEnd(g) {
				r.EndKind = lots.UseBy
			}
		}
		grams, err := lots.ReadPack(r.Pack, g, in.book.Settings.OwnGallon(), in.weigher(g.ID))
		if err != nil {
			errs = append(errs, pantry.FieldError{Field: "pack", Message: err.(pantry.FieldError).Message})
		}
		r.Grams = grams
	}
	for _, e := range r.Check(g, in.today) {
		if e.Field != "pack" || len(errs) == 0 {
			errs = append(errs, e)
		}
	}
	if g == nil {
		in.offer(n.Ingredient, errs)
	}
	return lots.CameIn{Received: r}, g, errs
}

// mostOffered is how many ingredients are offered for words that name none.
const mostOffered = 3

// offer adds to what is wrong with words that name no ingredient what they could mean.
func (in *intake) offer(words string, errs []pantry.FieldError) {
	at := slices.IndexFunc(errs, func(e pantry.FieldError) bool { return e.Field == "ingredient" })
	if at < 0 || strings.TrimSpace(words) == "" {
		return
	}
	if in.reads == nil {
		book, err := in.a.Catalog.ReaderBook(in.st)
		if err != nil {
			return
		}
		in.reads = book
	}
	var could []string
	for _, id := range in.names.Near(words, in.reads) {
		if i, ok := in.at[id]; ok && !in.have[i].Retired && len(could) < mostOffered {
			could = append(could, in.have[i].Name)
		}
	}
	if len(could) > 0 {
		last := len(could) - 1
		said := could[last]
		if last > 0 {
			said = strings.Join(could[:last], ", ") + " or " + said
		}
		errs[at].Message += ": is it " + said + "?"
	}
}

// was is the list of ingredients that a lot's is held against: of the lot before, or the pantry's.
func (in *intake) was(g *pantry.Ingredient) (string, error) {
	list, known, err := in.st.LastList(g.ID)
	if err != nil || known {
		return list, err
	}
	return g.ListFor(in.book.Law.Regime), nil
}

func (a *Room) receive(ctx context.Context, st kernel.Store, d NewDelivery) (Taken, error) {
	in, err := a.intake(st)
	if err != nil {
		return Taken{}, err
	}
	var errs []pantry.FieldError
	rows, of := make([]lots.CameIn, len(d.Lots)), make([]*pantry.Ingredient, len(d.Lots))
	for i, n := range d.Lots {
		var wrong []pantry.FieldError
		rows[i], of[i], wrong = in.read(d, n)
		for _, e := range wrong {
			if e.Field != "supplier" && e.Field != "day" {
				e.Field = fmt.Sprintf("lots[%d].%s", i, e.Field)
			}
			if !slices.Contains(errs, e) {
				errs = append(errs, e)
			}
		}
	}
	if len(errs) > 0 {
		return Taken{}, kernel.Mistakes(errs...)
	}
	who := kernel.Actor(ctx)
	out := Taken{Delivery: kernel.Delivery{Supplier: d.Supplier, Note: d.Note, Day: d.Day, At: a.Now(), By: who.Name}}
	if err := st.AddDelivery(&out.Delivery); err != nil {
		return out, err
	}
	for i := range rows {
		if rows[i].Was, err = in.was(of[i]); err != nil {
			return out, err
		}
		s, err := a.takeIn(st, kernel.Lot{Kind: lots.Incoming, Ingredient: of[i].ID, Delivery: out.Delivery.ID}, of[i],
			rows[i],
			d.Lots[i], who)
		if err != nil {
			return out, inRow(err, i)
		}
		out.Lots = append(out.Lots, s)
	}
	return out, nil
}

// inRow puts the fields of a problem into the row they are of.
func inRow(err error, i int) error {
	p, ok := err.(kernel.Problem)
	if !ok {
		return err
	}
	for k, f := range p.Fields {
		name := map[string]string{"accepted.reason": "reason", "refused.reason": "refuse"}[f.Field]
		p.Fields[k].Field = fmt.Sprintf("lots[%d].%s", i, name)
	}
	if len(p.Fields) == 0 {
		p.Fields = []pantry.FieldError{{Field: fmt.Sprintf("lots[%d].accept", i), Message: p.Message}}
	}
	return p
}

// takeIn makes a lot of a row and decides on it where that was asked at once.
func (a *Room) takeIn(st kernel.Store, l kernel.Lot, g *pantry.Ingredient, c lots.CameIn, n NewLot,
	who people.Person) (kernel.LotStanding,
	error) {
	var err error
	if l.Code, err = st.NextLotCode(); err != nil {
		return kernel.LotStanding{}, err
	}
	l.CreatedAt, l.CreatedBy = a.Now(), who.Name
	if err := st.AddLot(&l); err != nil {
		return kernel.LotStanding{}, err
	}
	x := aLot{row: l, g: g, today: c.Day}
	x.read(nil)
	acts := []any{&c}
	switch {
	case n.Accept:
		acts = append(acts, &lots.Accepted{Reason: strings.TrimSpace(n.Reason)})
	case strings.TrimSpace(n.Refuse) != "":
		acts = append(acts, &lots.TurnedAway{Reason: strings.TrimSpace(n.Refuse)})
	}
	for i, act := range acts {
		e := lots.Entry{Head: entry.Head{At: l.CreatedAt, By: who.Name, Role: who.Role}, Body: act}
		if err := a.Append(st, &x, e, fmt.Sprintf("in-%d", i), nil); err != nil {
			return kernel.LotStanding{}, err
		}
	}
	if x.standing, err = a.stand(st, &x); err != nil {
		return kernel.LotStanding{}, err
	}
	return x.standing, st.PutLotStandings(x.standing)
}

// Append writes an act into a lot's record that the record does not refuse.
func (a *Room) Append(st kernel.Store, l *aLot, e lots.Entry, key string, digest []byte) error {
	if err := l.Fold.Refuses(e, l.Moment()); err != nil {
		return RefusalOf(err, nil)
	}
	if err := st.AddLotEntry(l.row.ID, e, key, digest); err != nil {
		return EntryKeyTaken(err)
	}
	l.Fold.Add(e)
	l.record = l.Fold.Lot()
	return nil
}

// ReadRow is a row of a delivery note as it was read from a table, with what is wrong with it by field.
type ReadRow struct {
	NewLot
	Wrong []pantry.FieldError `json:"wrong"`
}

// LookOver looks over rows of a delivery note as they were typed, and stores nothing.
func (a *Room) LookOver(ctx context.Context, d NewDelivery) ([]ReadRow, error) {
	rows := make([]ReadRow, len(d.Lots))
	for i, n := range d.Lots {
		rows[i] = ReadRow{n, nil}
	}
	return a.lookOver(ctx, d, rows)
}

// LookOverRead looks over rows that were read from a file, with what was wrong in reading them.
func (a *Room) LookOverRead(ctx context.Context, rows []ReadRow) ([]ReadRow, error) {
	return a.lookOver(ctx, NewDelivery{}, rows)
}

func (a *Room) lookOver(ctx context.Context, d NewDelivery, rows []ReadRow) ([]ReadRow, error) {
	if len(rows) > mostRows {
		return nil, kernel.Mistake("lots", "a delivery has at most %d rows", mostRows)
	}
	in, err := a.intake(a.On(ctx))
	if err != nil {
		return nil, err
	}
	out := make([]ReadRow, len(rows))
	for i, r := range rows {
		_, g, wrong := in.read(d, r.NewLot)
		if g != nil {
			r.Ingredient = g.Name
		}
		for _, e := range wrong {
			read := func(x pantry.FieldError) bool { return x.Field == e.Field } // which says it better
			if e.Field != "supplier" && e.Field != "day" && !slices.ContainsFunc(r.Wrong, read) {
				r.Wrong = append(r.Wrong, e)
			}
		}
		if r.Wrong == nil {
			r.Wrong = []pantry.FieldError{}
		}
		out[i] = r
	}
	return out, nil
}
