// Package app holds the use cases: each loads what it needs, calls the core, and stores, in one transaction. One file
// an area.
package app

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"strings"
	"time"
	"unicode"

	"gallipot/internal/core/assess"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// App is the set of use cases over a store. Now is the clock, Typical what every kitchen starts with.
type App struct {
	Store       Store
	Now         func() time.Time
	Typical     pantry.Typical
	Instruments Instruments
	StandIns    bool      // readings of stand-ins may be written down: nothing real is made here
	Desk        *KeptDesk // nil: whoever writes an entry lays a desk of their own
}

// Kinds of problems, each of which the edge turns into one status.
const (
	Invalid   = "invalid"
	Missing   = "missing"
	Clash     = "conflict"
	Refused   = "refused"
	Unknown   = "unknown"   // who is asking
	Forbidden = "forbidden" // to somebody of this role
)

// Problem is a mistake or a clash worded for a person. Current carries the other side of a conflict.
type Problem struct {
	Kind    string
	Code    string
	Message string
	Fields  []pantry.FieldError
	Current any
}

func (p Problem) Error() string {
	if len(p.Fields) > 0 {
		return p.Message + " (" + p.Fields[0].Error() + ")"
	}
	return p.Message
}

func invalid(fields ...pantry.FieldError) error {
	msg := "Something was not accepted; nothing was stored."
	if len(fields) == 1 {
		msg = sentence(fields[0].Message)
	}
	return Problem{Kind: Invalid, Code: "invalid", Message: msg, Fields: fields}
}

func field(name, format string, args ...any) error {
	return invalid(pantry.FieldError{Field: name, Message: fmt.Sprintf(format, args...)})
}

func refused(code, format string, args ...any) error {
	return Problem{Kind: Refused, Code: code, Message: fmt.Sprintf(format, args...)}
}

// mistakeOf puts a mistake that the core found into the shape of a problem; other errors stay.
func mistakeOf(err error) error {
	var wrong pantry.FieldError
	if errors.As(err, &wrong) {
		return invalid(wrong)
	}
	return err
}

func sentence(s string) string {
	if s == "" {
		return s
	}
	r := []rune(s)
	r[0] = unicode.ToUpper(r[0])
	if last := r[len(r)-1]; last != '.' && last != '?' && last != '!' {
		r = append(r, '.')
	}
	return string(r)
}

type actorKey struct{}

// As puts into a context who acts in it.
func As(ctx context.Context, p people.Person) context.Context {
	return context.WithValue(ctx, actorKey{}, p)
}

// actor is who acts; nobody where nobody was put into the context.
func actor(ctx context.Context) people.Person {
	p, _ := ctx.Value(actorKey{}).(people.Person)
	return p
}

// TheProgram is who acts where no person does: at upgrades, and when the pantry is first filled.
var TheProgram = people.Person{Name: "Gallipot", Role: people.Owner}

// person names who writes; nothing is written by nobody.
func person(ctx context.Context) (string, error) {
	p := actor(ctx)
	if p.Name == "" || !p.Role.Known() {
		return "", Problem{Kind: Unknown, Code: "sign_in", Message: "Say who you are first."}
	}
	return p.Name, nil
}

// may refuses what somebody of a lower role than asked may not do.
func may(ctx context.Context, asked people.Role, what string) error {
	p := actor(ctx)
	if p.Role.May(asked) {
		return nil
	}
	if p.Name == "" {
		return Problem{Kind: Unknown, Code: "sign_in", Message: "Say who you are first."}
	}
	return NotYours(p, asked, what)
}

// NotYours refuses what somebody of a lower role than asked may not do.
func NotYours(who people.Person, asked people.Role, what string) error {
	return Problem{Kind: Forbidden, Code: entry.NotYours,
		Message: fmt.Sprintf("%s is for %s; you are signed in as %s, %s.", what, atLeast[asked], who.Name, who.Role)}
}

var atLeast = map[people.Role]string{people.Owner: "an owner", people.Maker: "a maker or an owner",
	people.Helper: "people who work here"}

// stamp is who writes, and when.
func (a *App) stamp(ctx context.Context) Stamp {
	why, _ := ctx.Value(reasonKey{}).(string)
	return Stamp{By: actor(ctx).Name, At: a.Now(), Why: why}
}

type reasonKey struct{}

// Because puts into a context why something is done in it.
func Because(ctx context.Context, why string) context.Context {
	return context.WithValue(ctx, reasonKey{}, strings.TrimSpace(why))
}

// retires wants a reason where something is taken out of use, and none elsewhere.
func (a *App) retires(ctx context.Context, was, becomes bool) error {
	if was || !becomes {
		return nil
	}
	_, err := reasonFor(a.stamp(ctx).Why)
	return err
}

// in is the one door through which everything is written, but drafts that are typed: one transaction that knows its
// person.
func (a *App) in(ctx context.Context, f func(Store) error) error {
	return a.Store.In(ctx, a.stamp(ctx), func(st Store) error { return f(a.withKin(st)) })
}

func clip(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

// slug makes an id out of a name: lower-case words joined by underscores.
func slug(name string) string {
	var b strings.Builder
	gap := false
	for _, r := range strings.ToLower(name) {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			if gap && b.Len() > 0 {
				b.WriteByte('_')
			}
			gap = false
			b.WriteRune(r)
		default:
			gap = true
		}
		if b.Len() >= 60 {
			break
		}
	}
	if b.Len() == 0 {
		return "item"
	}
	return b.String()
}

// freshID finds an id that look does not find, numbering the name where it is taken.
func freshID(name string, look func(id string) error) (string, error) {
	base := slug(name)
	for n := 1; n < 1000; n++ {
		id := base
		if n > 1 {
			id = fmt.Sprintf("%s_%d", base, n)
		}
		if err := look(id); errors.Is(err, ErrNotFound) {
			return id, nil
		} else if err != nil {
			return "", err
		}
	}
	return "", field("name", "too many things have this name")
}

// book is what assessments need of the shop: the prices' rule and the keeping rules.
type book struct {
	settings Settings
	law      *law.Law
	terms    costing.Terms // under which a jar is costed, but for how its formula is made
	prices   *costing.Prices
	rules    []keeping.Rule
	steps    []pantry.Preparation
}

func (a *App) book(st Store) (book, error) {
	d := newDesk()
	if err := st.Desk(&d, Named{}); err != nil {
		return book{}, err
	}
	return a.bookOf(st, d)
}

func (a *App) bookOf(st Store, d Desk) (book, error) {
	s := d.Settings.WithDefaults().withThings()
	under, err := law.Of(s.Regime)
	if err != nil {
		return book{}, err
	}
	steps, _ := a.stepsAmong(d.Steps)
	terms, prices := a.termsOf(st, s, steps, map[string]pantry.Ingredient{})
	return book{s, under, terms, prices, s.rules(), steps}, nil
}

// assessing is the book, and what versions in a library are assessed with by it.
func (a *App) assessing(st Store, lib formula.Library) (book, assess.Inputs, error) {
	b, err := a.book(st)
	if err != nil {
		return b, assess.Inputs{}, err
	}
	vessels, err := st.MadeIn()
	return b, assess.Inputs{Library: lib, Terms: b.terms, Made: b.settings.madeIn(vessels), Rules: b.rules}, err
}

// namedBy is what versions name, each once.
func namedBy(versions ...formula.Version) Named {
	var n Named
	ids, refs := map[string]bool{}, map[formula.Ref]bool{}
	want := func(id string) {
		if id != "" && !ids[id] {
			ids[id] = true
			n.Ingredients = append(n.Ingredients, id)
		}
	}
	for _, v := range versions {
		for _, t := range v.Toppings {
			want(t.Ingredient)
		}
		for _, p := range v.Packaging {
			want(p.Item)
		}
		for i := range v.Lines {
			l := &v.Lines[i]
			if c := l.Component; c != nil && !refs[*c] {
				refs[*c] = true
				n.Components = append(n.Components, *c)
			}
			want(l.Ingredient)
			for _, id := range l.AnyOf {
				want(id)
			}
		}
	}
	return n
}

func newLibrary() formula.Library {
	return formula.Library{Ingredients: map[string]*pantry.Ingredient{}, Versions: map[formula.Ref]formula.Version{},
		Names: map[string]string{}}
}

// library loads what versions refer to, all the way down.
func library(st Store, tops ...formula.Version) (formula.Library, error) {
	lib := newLibrary()
	return lib, extend(st, &lib, tops...)
}

// extend adds what versions refer to, all the way down, where the library lacks it.
func extend(st Store, lib *formula.Library, tops ...formula.Version) error {
	ids, walked := map[string]bool{}, map[formula.Ref]bool{}
	var walk func(v formula.Version, depth int) error
	walk = func(v formula.Version, depth int) error {
		named := namedBy(v)
		for _, id := range named.Ingredients {
			if lib.Ingredients[id] == nil {
				ids[id] = true
			}
		}
		for _, ref := range named.Components {
			if walked[ref] || depth > formula.MaxDepth {
				continue
			}
			walked[ref] = true
			c, there, err := componentOf(st, lib, ref)
			if err != nil {
				return err
			}
			if !there {
				continue // Expand names the line that lacks it
			}
			if err := walk(c, depth+1); err != nil {
				return err
			}
		}
		return nil
	}
	for _, v := range tops {
		if err := nameOf(st, lib, v.Formula); err != nil {
			return err
		}
		if err := walk(v, 0); err != nil {
			return err
		}
	}
	return fetch(st, lib, ids)
}

// componentOf is a version in the library, read where the library lacks it.
func componentOf(st Store, lib *formula.Library, ref formula.Ref) (v formula.Version, there bool, err error) {
	if v, there = lib.Versions[ref]; there {
		return v, true, nil
	}
	row, err := st.Version(ref)
	if errors.Is(err, ErrNotFound) {
		return v, false, nil
	}
	if err != nil {
		return v, false, err
	}
	lib.Versions[ref], lib.Names[row.FormulaID] = row.Core(), row.Name
	return row.Core(), true, nil
}

// fetch adds ingredients.
func fetch(st Store, lib *formula.Library, ids map[string]bool) error {
	if len(ids) == 0 {
		return nil
	}
	rows, err := st.Ingredients(slices.Collect(maps.Keys(ids))...)
	for i := range rows {
		lib.Ingredients[rows[i].ID] = &rows[i].Data
	}
	return err
}

// nameOf adds the name of a formula; one that is not there has none.
func nameOf(st Store, lib *formula.Library, id string) error {
	if lib.Names[id] != "" {
		return nil
	}
	f, err := st.Formula(id)
	if errors.Is(err, ErrNotFound) {
		return nil
	}
	lib.Names[id] = f.Name
	return err
}

// everything loads the whole pantry and all versions, for lists over all formulas.
func everything(st Store) (formula.Library, []Formula, []Version, error) {
	lib := newLibrary()
	rows, err := st.Ingredients()
	if err != nil {
		return lib, nil, nil, err
	}
	for i := range rows {
		lib.Ingredients[rows[i].ID] = &rows[i].Data
	}
	formulas, err := st.Formulas()
	if err != nil {
		return lib, nil, nil, err
	}
	for _, f := range formulas {
		lib.Names[f.ID] = f.Name
	}
	versions, err := st.Versions("")
	if err != nil {
		return lib, nil, nil, err
	}
	for _, v := range versions {
		lib.Versions[v.Ref()] = v.Core()
	}
	return lib, formulas, versions, nil
}

// Seed gives an empty pantry the typical ingredients. A pantry that has ingredients already gets what the typical steps
// lead to and it lacks, where it has what goes into them: a step whose outcome is unknown leads nowhere.
func (a *App) Seed(ctx context.Context, ingredients []pantry.Ingredient) error {
	return a.in(As(ctx, TheProgram), func(st Store) error {
		rows, err := st.Ingredients()
		if err != nil {
			return err
		}
		have := map[string]bool{}
		for _, g := range rows {
			have[g.ID] = true
		}
		input := map[string]string{}
		for _, p := range a.Typical.Preparations {
			input[p.Output] = p.Input
		}
		added := 0
		for _, g := range ingredients {
			if have[g.ID] || len(rows) > 0 && !have[input[g.ID]] {
				continue
			}
			if err := st.AddIngredient(g, false, "Gallipot"); err != nil {
				return fmt.Errorf("seed %s: %w", g.ID, err)
			}
			added++
		}
		if added > 0 {
			slog.Info("pantry seeded with typical values", "ingredients", added)
		}
		return nil
	})
}
