package catalog

import (
	"context"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/reader"
)

// ShopWordView is a word of the shop as it is shown.
type ShopWordView struct {
	kernel.ShopWord
	Name string `json:"name"` // of the ingredient it is about; empty where it is about any
}

// ShopWords lists what the shop has told the reader, the newest first.
func (a *Room) ShopWords(ctx context.Context) ([]ShopWordView, error) {
	return wordsOf(a.On(ctx))
}

func wordsOf(st kernel.Store) ([]ShopWordView, error) {
	rows, err := st.ShopWords()
	if err != nil {
		return nil, err
	}
	ingredients, err := st.Ingredients()
	if err != nil {
		return nil, err
	}
	names := map[string]string{}
	for _, g := range ingredients {
		names[g.ID] = g.Data.Name
	}
	out := make([]ShopWordView, len(rows))
	for i, w := range rows {
		out[len(rows)-1-i] = ShopWordView{w, names[w.Ingredient]}
	}
	return out, nil
}

// AddShopWord tells the reader what the shop means by a word of its own. A later meaning replaces an earlier one of the
// same words. A name that the pantry knows cannot be given a meaning with fewer allergens.
func (a *Room) AddShopWord(ctx context.Context, x reader.Learned) ([]ShopWordView, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return nil, err
	}
	x.ID, x.Words = 0, strings.TrimSpace(x.Words)
	if errs := x.Check(); len(errs) > 0 {
		return nil, kernel.Mistakes(errs...)
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) ([]ShopWordView, error) {
		b, err := a.ReaderBook(st)
		if err != nil {
			return nil, err
		}
		if x.Ingredient != "" && b.Ingredients[x.Ingredient] == nil {
			return nil, kernel.Mistake("ingredient", "this is not in the pantry")
		}
		if hidden := b.Hides(x); len(hidden) > 0 {
			return nil, kernel.Mistake("words",
				"“%s” brings %s, and what you chose does not; call it by another name", x.Words,
				strings.Join(hidden, ", "))
		}
		if err := a.learn(ctx, st, x); err != nil {
			return nil, err
		}
		return wordsOf(st)
	})
}

// learn keeps a word of the shop, replacing any for the same words.
func (a *Room) learn(ctx context.Context, st kernel.Store, x reader.Learned) error {
	rows, err := st.ShopWords()
	if err != nil {
		return err
	}
	if x.Words == "" {
		x.Words = strings.TrimSpace(x.Size + " " + strings.ReplaceAll(x.Unit, "_", " "))
	}
	for _, w := range rows {
		if !w.Same(x) {
			continue
		}
		if w.Ingredient == x.Ingredient && w.Grams == x.Grams && w.ML == x.ML && w.Fill == x.Fill {
			return nil
		}
		if err := st.DropShopWord(w.ID, "told anew", a.Stamp(ctx)); err != nil {
			return err
		}
	}
	return st.AddShopWord(&kernel.ShopWord{Learned: x, By: kernel.Actor(ctx).Name, At: a.Now()})
}

// DropShopWord takes a word of the shop back: the reader asks about it again.
func (a *Room) DropShopWord(ctx context.Context, id int64, why string) ([]ShopWordView, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return nil, err
	}
	why, err := kernel.ReasonFor(why)
	if err != nil {
		return nil, err
	}
	var out []ShopWordView
	err = a.In(ctx, func(st kernel.Store) error {
		if err := st.DropShopWord(id, why, a.Stamp(ctx)); err != nil {
			return err
		}
		out, err = wordsOf(st)
		return err
	})
	return out, err
}

// learnFrom keeps for the shop what the new answers of a recipe settle for good: answers to questions that would be
// asked again each time the same words are said.
func (a *Room) learnFrom(ctx context.Context, st kernel.Store, was kernel.Recipe,
	answers map[string]reader.Answer) error {
	var b *reader.Book
	var before reader.Reading
	for key, answer := range answers {
		old := was.Answers[key]
		if answer.Ingredient == old.Ingredient && answer.Fill == old.Fill && sameNumber(answer.Pack, old.Pack) &&
			sameNumber(answer.ML, old.ML) {
			continue
		}
		if b == nil {
			var err error
			if b, err = a.ReaderBook(st); err != nil {
				return err
			}
			before = b.Read(was.Words, was.Answers)
		}
		for _, l := range before.Lines {
			if l.Key != key {
				continue
			}
			if x, ok := b.Learn(l, answer); ok && len(b.Hides(x)) == 0 {
				if err := a.learn(ctx, st, x); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

func sameNumber(x, y *float64) bool { return x == nil && y == nil || x != nil && y != nil && *x == *y }
