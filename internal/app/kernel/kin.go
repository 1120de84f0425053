package kernel

import (
	"context"
	"slices"
	"sync"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"
)

// kinStore returns ingredients only with what they inherit through kitchen steps and with the shop's own words, so that
// no use case can overlook an inherited allergen (handbook 08).
type kinStore struct {
	Store
	app   *Kernel
	known *kin
}

// kin holds what inheritance is derived from; it is read once a request.
type kin struct {
	steps []pantry.Preparation
	words *allergen.Lexicon
}

// On is the store for reading.
func (a *Kernel) On(ctx context.Context) Store { return a.withKin(a.Store.With(ctx)) }

func (a *Kernel) withKin(st Store) Store { return &kinStore{Store: st, app: a} }

// Bare returns the store below, for callers that need figures of ingredients but no hazards.
func Bare(st Store) Store {
	if k, ok := st.(*kinStore); ok {
		return k.Store
	}
	return st
}

func (k *kinStore) kin() (*kin, error) {
	if k.known == nil {
		d := NewDesk()
		if err := k.Store.Desk(&d, Named{}); err != nil {
			return nil, err
		}
		k.learn(d)
	}
	return k.known, nil
}

func (k *kinStore) learn(d Desk) {
	steps, _ := k.app.StepsAmong(d.Steps)
	k.known = &kin{steps, Lexicons.Of(d.Settings.AllergenWords)}
}

// Ingredients returns all ingredients, or those with the given ids.
func (k *kinStore) Ingredients(ids ...string) ([]Ingredient, error) {
	rows, err := k.Store.Ingredients(ids...)
	if err != nil || len(rows) == 0 {
		return rows, err
	}
	all := make(map[string]*pantry.Ingredient, len(rows))
	for i := range rows {
		all[rows[i].ID] = &rows[i].Data
	}
	return rows, k.attach(all)
}

// Ingredient returns one. Errors: ErrNotFound.
func (k *kinStore) Ingredient(id string) (Ingredient, error) {
	row, err := k.Store.Ingredient(id)
	if err == nil {
		err = k.attach(map[string]*pantry.Ingredient{id: &row.Data})
	}
	return row, err
}

// attach fills in what ingredients inherit and the names they are read by; it reads what they are made of.
func (k *kinStore) attach(some map[string]*pantry.Ingredient) error {
	known, err := k.kin()
	if err != nil {
		return err
	}
	all := make(map[string]*pantry.Ingredient, len(some))
	ids := make([]string, 0, len(some))
	for id, g := range some {
		all[id] = g
		ids = append(ids, id)
	}
	slices.Sort(ids)
	lack := slices.DeleteFunc(pantry.Ancestors(ids, known.steps), func(id string) bool { return all[id] != nil })
	if len(lack) > 0 {
		rows, err := k.Store.Ingredients(lack...)
		if err != nil {
			return err
		}
		for i := range rows {
			all[rows[i].ID] = &rows[i].Data
		}
	}
	for _, g := range all {
		g.Lexicon = known.words
	}
	pantry.Inherit(all, known.steps)
	return nil
}

// Desk reads everything that assessing versions needs.
func (k *kinStore) Desk(d *Desk, named Named) error {
	if err := k.Store.Desk(d, named); err != nil {
		return err
	}
	k.learn(*d)
	return k.attach(d.Library.Ingredients)
}

// Sheet reads a version with the desk. Errors: ErrNotFound.
func (k *kinStore) Sheet(ref formula.Ref, d *Desk, named Named) (Sheet, error) {
	s, err := k.Store.Sheet(ref, d, named)
	if err != nil {
		return s, err
	}
	k.learn(*d)
	return s, k.attach(d.Library.Ingredients)
}

// AddPreparation stores a new step. Errors: ErrTaken.
func (k *kinStore) AddPreparation(p Preparation) error {
	k.known = nil
	return k.Store.AddPreparation(p)
}

// SavePreparation writes a step over its revision. Errors: ErrConflict.
func (k *kinStore) SavePreparation(p Preparation, rev int) error {
	k.known = nil
	return k.Store.SavePreparation(p, rev)
}

// AddShop stores the settings for the first time. Errors: ErrTaken.
func (k *kinStore) AddShop(s shop.Settings, by string) error {
	k.known = nil
	return k.Store.AddShop(s, by)
}

// SaveShop writes the settings over their revision. Errors: ErrConflict.
func (k *kinStore) SaveShop(s shop.Settings, rev int, by string) error {
	k.known = nil
	return k.Store.SaveShop(s, rev, by)
}

// lexicons caches the last lexicon, because building one takes longer than reading with it.
type lexiconShelf struct {
	mu   sync.Mutex
	own  []allergen.Term
	made *allergen.Lexicon
}

// Of returns the lexicon with the shop's own words.
func (s *lexiconShelf) Of(own []allergen.Term) *allergen.Lexicon {
	if len(own) == 0 {
		return allergen.Shipped()
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.made == nil || !match.SameJSON(s.own, own) {
		s.own, s.made = slices.Clone(own), allergen.With(own)
	}
	return s.made
}
