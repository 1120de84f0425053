package app

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/reader"
)

// ShopWord is what the shop has told the reader once and for all, with who told it.
type ShopWord struct {
	reader.Learned
	By string    `json:"by"`
	At time.Time `json:"at"`
}

// WordStore keeps what the shop has told the reader.
type WordStore interface {
	ShopWords() ([]ShopWord, error)
	AddShopWord(w *ShopWord) error
	DropShopWord(id int64, why string, by Stamp) error
}

// ShopWordView is a word of the shop as it is shown.
type ShopWordView struct {
	ShopWord
	Name string `json:"name"` // of the ingredient it is about; empty where it is about any
}

// ShopWords lists what the shop has told the reader, the newest first.
func (a *App) ShopWords(ctx context.Context) ([]ShopWordView, error) {
	return wordsOf(a.on(ctx))
}

func wordsOf(st Store) ([]ShopWordView, error) {
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

// AddShopWord lets the reader know what the shop means by a word of its own. A later one takes the place of an earlier
// one of the same words. A name that the pantry knows may not come to bring fewer allergens.
func (a *App) AddShopWord(ctx context.Context, x reader.Learned) ([]ShopWordView, error) {
	if _, err := person(ctx); err != nil {
		return nil, err
	}
	x.ID, x.Words = 0, strings.TrimSpace(x.Words)
	if errs := x.Check(); len(errs) > 0 {
		return nil, invalid(errs...)
	}
	return once(ctx, a, func(st Store) ([]ShopWordView, error) {
		b, err := a.readerBook(st)
		if err != nil {
			return nil, err
		}
		if x.Ingredient != "" && b.Ingredients[x.Ingredient] == nil {
			return nil, field("ingredient", "this is not in the pantry")
		}
		if hidden := b.Hides(x); len(hidden) > 0 {
			return nil, field("words", "“%s” brings %s, and what you chose does not; call it by another name", x.Words,
				strings.Join(hidden, ", "))
		}
		if err := a.learn(ctx, st, x); err != nil {
			return nil, err
		}
		return wordsOf(st)
	})
}

// learn keeps a word of the shop in the place of any of the same meaning.
func (a *App) learn(ctx context.Context, st Store, x reader.Learned) error {
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
		if err := st.DropShopWord(w.ID, "told anew", a.stamp(ctx)); err != nil {
			return err
		}
	}
	return st.AddShopWord(&ShopWord{Learned: x, By: actor(ctx).Name, At: a.Now()})
}

// DropShopWord takes a word of the shop back: the reader asks about it again.
func (a *App) DropShopWord(ctx context.Context, id int64, why string) ([]ShopWordView, error) {
	if _, err := person(ctx); err != nil {
		return nil, err
	}
	why, err := reasonFor(why)
	if err != nil {
		return nil, err
	}
	var out []ShopWordView
	err = a.in(ctx, func(st Store) error {
		if err := st.DropShopWord(id, why, a.stamp(ctx)); err != nil {
			return err
		}
		out, err = wordsOf(st)
		return err
	})
	return out, err
}

// learnFrom keeps for the shop what new answers of a recipe tell for good: those to questions that come again whenever
// the same words are said.
func (a *App) learnFrom(ctx context.Context, st Store, was Recipe, answers map[string]reader.Answer) error {
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
			if b, err = a.readerBook(st); err != nil {
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

// importWords brings what the shop's own words mean. One that would hide an allergen is refused, as where it is typed.
func (a *App) importWords(st Store, b Bundle, plan *ImportPlan, by Stamp) error {
	if len(b.Words) == 0 {
		return nil
	}
	book, err := a.readerBook(st)
	if err != nil {
		return err
	}
	rows, err := st.ShopWords()
	if err != nil {
		return err
	}
	for i, x := range b.Words {
		x.ID = 0
		if hidden := book.Hides(x); len(hidden) > 0 {
			return field(fmt.Sprintf("words[%d]", i), "“%s” brings %s, and what it would mean does not", x.Words,
				strings.Join(hidden, ", "))
		}
		at := slices.IndexFunc(rows, func(w ShopWord) bool { return w.Same(x) })
		if at < 0 {
			plan.New = append(plan.New, "word "+x.Words)
		} else {
			w := rows[at].Learned
			if w.ID = 0; w == x {
				plan.Same++
				continue
			}
			plan.Different = append(plan.Different, "word "+x.Words)
			if err := st.DropShopWord(rows[at].ID, "replaced by a bundle", by); err != nil {
				return err
			}
		}
		if err := st.AddShopWord(&ShopWord{Learned: x, By: by.By, At: by.At}); err != nil {
			return err
		}
	}
	return nil
}
