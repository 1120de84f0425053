package catalog

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
)

// RecipeRow is a recipe in the list.
type RecipeRow struct {
	ID        int64        `json:"id"`
	Name      string       `json:"name"`
	Lines     int          `json:"lines"`
	Open      int          `json:"still_open"`
	Total     float64      `json:"total_g"`
	Made      *formula.Ref `json:"made"`
	UpdatedAt time.Time    `json:"updated_at"`
	UpdatedBy string       `json:"updated_by"`
}

// RecipeView is a recipe with its words and their reading.
type RecipeView struct {
	ID      int64                    `json:"id"`
	Rev     int                      `json:"rev"`
	Name    string                   `json:"name"`
	Words   string                   `json:"words"`
	Answers map[string]reader.Answer `json:"answers"`
	Made    *formula.Ref             `json:"made"`
	Reading reader.Reading           `json:"reading"`
}

// maxWords is how much text a recipe keeps; the reader reads the first 20 000 characters and says so.
const maxWords = 25_000

// Measures gathers the typical measures and the maker's own.
func (a *Room) Measures(st kernel.Store, ingredient string) (pantry.Measures, error) {
	rows, err := st.HouseMeasures(ingredient)
	if err != nil {
		return pantry.Measures{}, err
	}
	own := make([]pantry.Measure, 0, len(rows))
	for _, r := range rows {
		m, err := r.Core()
		if err != nil {
			return pantry.Measures{}, fmt.Errorf("house measure %s of %s: %w", r.Measure, r.IngredientID, err)
		}
		own = append(own, m)
	}
	return pantry.NewMeasures(a.Typical.Measures, own), nil
}

// ReaderBook is what recipes are read with today.
func (a *Room) ReaderBook(st kernel.Store) (*reader.Book, error) {
	rows, err := st.Ingredients()
	if err != nil {
		return nil, err
	}
	b := &reader.Book{Ingredients: map[string]*pantry.Ingredient{}}
	for i := range rows {
		if !rows[i].Retired && !rows[i].Data.IsPackaging() {
			b.Ingredients[rows[i].ID] = &rows[i].Data
		}
	}
	if b.Measures, err = a.Measures(st, ""); err != nil {
		return nil, err
	}
	if b.Preparations, _, err = a.Steps(st); err != nil {
		return nil, err
	}
	s, _, err := a.Settings(st)
	if err != nil {
		return nil, err
	}
	b.Spoons = s.Spoons()
	b.Index = reader.NewIndex(b.Ingredients, a.Typical.Synonyms)
	words, err := st.ShopWords()
	if err != nil {
		return nil, err
	}
	learned := make([]reader.Learned, len(words))
	for i, w := range words {
		learned[i] = w.Learned
	}
	made, err := ownProducts(st)
	if err != nil {
		return nil, err
	}
	b.Teach(learned, made)
	return b, nil
}

// ownProducts are the shop's products that can go into another, each in its newest locked version.
func ownProducts(st kernel.Store) ([]reader.Made, error) {
	formulas, err := st.Formulas()
	if err != nil {
		return nil, err
	}
	names, ids := map[string]string{}, []string{}
	for _, f := range formulas {
		if !f.Retired {
			names[f.ID], ids = f.Name, append(ids, f.ID)
		}
	}
	if len(ids) == 0 {
		return nil, nil
	}
	versions, err := st.NewestLocked(ids...)
	if err != nil {
		return nil, err
	}
	made := make([]reader.Made, len(versions))
	for i, v := range versions {
		made[i] = reader.Made{Formula: v.FormulaID, Version: v.Number, Name: names[v.FormulaID]}
	}
	return made, nil
}

// pageOfRecipes is how many recipes a list shows at once: each is read to be listed.
const pageOfRecipes = 30

// RecipePage is a page of the list of recipes. Next is the key of the page after it, empty at the end.
type RecipePage struct {
	Recipes []RecipeRow `json:"recipes"`
	Next    string      `json:"next"`
}

// Recipes lists recipes from a key on, the last changed first. An empty key starts with the newest.
func (a *Room) Recipes(ctx context.Context, after string) (RecipePage, error) {
	out := RecipePage{Recipes: []RecipeRow{}}
	st := a.On(ctx)
	var key *kernel.RecipeKey
	if after != "" {
		var k kernel.RecipeKey
		var micros int64
		if n, err := fmt.Sscanf(after, "%d.%d", &micros, &k.ID); n != 2 || err != nil || micros < 0 || micros > 1<<53 {
			return out, kernel.Mistake("after", "this is no place in the list; begin at its top")
		}
		k.UpdatedAt = time.UnixMicro(micros)
		key = &k
	}
	rows, err := st.Recipes(key, pageOfRecipes+1)
	if err != nil {
		return out, err
	}
	if len(rows) > pageOfRecipes {
		rows = rows[:pageOfRecipes]
		last := rows[pageOfRecipes-1]
		out.Next = fmt.Sprintf("%d.%d", last.UpdatedAt.UnixMicro(), last.ID)
	}
	b, err := a.ReaderBook(st)
	if err != nil {
		return out, err
	}
	for _, r := range rows {
		if err := ctx.Err(); err != nil {
			return out, err
		}
		reading := b.Read(r.Words, r.Answers)
		row := RecipeRow{ID: r.ID, Name: r.Name, Open: reading.StillOpen, Total: reading.Total, Made: r.Made,
			UpdatedAt: r.UpdatedAt, UpdatedBy: r.UpdatedBy}
		for _, l := range reading.Lines {
			if l.Kind == reader.Weighed && l.As != reader.AsLeft {
				row.Lines++
			}
		}
		out.Recipes = append(out.Recipes, row)
	}
	return out, nil
}

// Recipe returns one with its reading of today.
func (a *Room) Recipe(ctx context.Context, id int64) (RecipeView, error) {
	return a.recipeView(a.On(ctx), id)
}

func (a *Room) recipeView(st kernel.Store, id int64) (RecipeView, error) {
	r, err := st.Recipe(id)
	if err != nil {
		return RecipeView{}, err
	}
	b, err := a.ReaderBook(st)
	if err != nil {
		return RecipeView{}, err
	}
	if r.Answers == nil {
		r.Answers = map[string]reader.Answer{}
	}
	return RecipeView{ID: r.ID, Rev: r.Rev, Name: r.Name, Words: r.Words, Answers: r.Answers, Made: r.Made,
		Reading: b.Read(r.Words, r.Answers)}, nil
}

// CheckRecipe tidies a recipe; a name that is left out is taken from the first words.
func CheckRecipe(name, words string, answers map[string]reader.Answer) (string, string, error) {
	if n := len([]rune(words)); n > maxWords {
		return "", "", kernel.Mistake("words", "at most %d characters; this has %d. Cut it in two recipes", maxWords, n)
	}
	words = strings.Map(func(r rune) rune {
		if r == 0 {
			return -1
		}
		return r
	}, strings.ToValidUTF8(words, "?"))
	name = strings.TrimSpace(name)
	if name == "" {
		for _, row := range strings.Split(words, "\n") {
			if name = strings.TrimFunc(row, func(r rune) bool {
				return unicode.IsSpace(r) || unicode.IsControl(r) ||
					r == ':'
			}); name != "" {
				break
			}
		}
		if r := []rune(name); len(r) > 60 {
			name = string(r[:60]) + "…"
		}
	}
	if name == "" {
		name = "A recipe"
	}
	if len([]rune(name)) > 120 {
		return "", "", kernel.Mistake("name", "at most 120 characters")
	}
	if len(answers) > 500 {
		return "", "", kernel.Mistake("answers", "at most 500 answers")
	}
	for k, x := range answers {
		if x.Grams != nil && !(*x.Grams > 0 && *x.Grams <= amount.MaxGrams) {
			return "", "", kernel.Mistake("answers."+k, "grams above 0 and up to 10 000 kg")
		}
		if x.Pack != nil && !(*x.Pack > 0 && *x.Pack <= 20_000) {
			return "", "", kernel.Mistake("answers."+k, "grams above 0 and up to 20 kg")
		}
		if x.ML != nil && !(*x.ML > 0 && *x.ML <= 5_000) {
			return "", "", kernel.Mistake("answers."+k, "millilitres above 0 and up to 5 litres")
		}
	}
	return name, words, nil
}

// AddRecipe keeps a maker's words.
func (a *Room) AddRecipe(ctx context.Context, name, words string) (RecipeView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return RecipeView{}, err
	}
	named := strings.TrimSpace(name) != ""
	if name, words, err = CheckRecipe(name, words, nil); err != nil {
		return RecipeView{}, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (RecipeView, error) {
		var out RecipeView
		if !named {
			b, err := a.ReaderBook(st)
			if err != nil {
				return out, err
			}
			name = titleOf(b.Read(words, nil), name)
		}
		r := kernel.Recipe{Name: name, Words: words, Answers: map[string]reader.Answer{}, UpdatedBy: by}
		if err := st.AddRecipe(&r); err != nil {
			return out, err
		}
		out, err = a.recipeView(st, r.ID)
		return out, err
	})
}

// titleOf is the first title of a reading, or other if it has none.
func titleOf(r reader.Reading, other string) string {
	for _, l := range r.Lines {
		if l.Kind == reader.Title && l.Name != "" {
			return field.Cut(l.Name, 120)
		}
	}
	return other
}

// SaveRecipe stores words and answers over revision rev and reads them.
func (a *Room) SaveRecipe(ctx context.Context, id int64, name, words string, answers map[string]reader.Answer,
	rev int) (RecipeView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return RecipeView{}, err
	}
	if name, words, err = CheckRecipe(name, words, answers); err != nil {
		return RecipeView{}, err
	}
	var out RecipeView
	err = a.In(ctx, func(st kernel.Store) error {
		r, err := st.Recipe(id)
		if err != nil {
			return err
		}
		was := r
		r.Name, r.Words, r.Answers, r.UpdatedBy = name, words, answers, by
		if err := st.SaveRecipe(r, rev); errors.Is(err, kernel.ErrConflict) {
			current, err := a.recipeView(st, id)
			if err != nil {
				return err
			}
			return kernel.Problem{Kind: kernel.Clash, Code: "changed_meanwhile",
				Message: "This recipe was changed meanwhile; your words are kept here until you choose.",
				Current: current}
		} else if err != nil {
			return err
		}
		if err := a.learnFrom(ctx, st, was, answers); err != nil {
			return err
		}
		out, err = a.recipeView(st, id)
		return err
	})
	return out, err
}

// ApartRecipe splits a recipe whose words hold several, over revision rev. The first keeps its place; answers go with
// the words they belong to.
func (a *Room) ApartRecipe(ctx context.Context, id int64, rev int) ([]RecipeView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return nil, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) ([]RecipeView, error) {
		whole, err := a.recipeView(st, id)
		if err != nil {
			return nil, err
		}
		parts := whole.Reading.Recipes
		if len(parts) < 2 {
			return nil, kernel.Refuse("one_recipe", "Only one recipe stands here.")
		}
		var out []RecipeView
		for i, part := range parts {
			name, words, err := CheckRecipe(field.Cut(part.Name, 120), strings.TrimRight(part.Text, "\n"), nil)
			if err != nil {
				return nil, err
			}
			r := kernel.Recipe{ID: id, Name: name, Words: words, Answers: whole.Answers, Made: whole.Made,
				UpdatedBy: by}
			if i == 0 {
				err = st.SaveRecipe(r, rev)
			} else {
				r.ID, r.Made = 0, nil
				err = st.AddRecipe(&r)
			}
			if err != nil {
				return nil, err
			}
			v, err := a.recipeView(st, r.ID)
			if err != nil {
				return nil, err
			}
			out = append(out, v)
		}
		return out, nil
	})
}

// DropRecipe retires a recipe with the reason. Drafts made from it keep their words.
func (a *Room) DropRecipe(ctx context.Context, id int64, why string) error {
	if _, err := kernel.Signed(ctx); err != nil {
		return err
	}
	why, err := kernel.ReasonFor(why)
	if err != nil {
		return err
	}
	return a.In(ctx, func(st kernel.Store) error {
		if _, err := st.Recipe(id); err != nil {
			return err
		}
		return st.DropRecipe(id, why, a.Stamp(ctx))
	})
}
