package catalog

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"
)

// IngredientClash says what happened to an ingredient in the meantime, with the other side's state.
func (a *Room) IngredientClash(st kernel.Store, old kernel.Ingredient, err error) error {
	if !errors.Is(err, kernel.ErrConflict) {
		return err
	}
	current, err := a.IngredientView(st, old.ID)
	if err != nil {
		return err
	}
	return kernel.Problem{Kind: kernel.Clash, Code: "changed_meanwhile",
		Message: fmt.Sprintf("%s was changed meanwhile by %s; what you typed is kept here.", old.Name, old.UpdatedBy),
		Current: current}
}

// Seed fills an empty pantry with the typical ingredients. To a pantry that has some already it adds the outputs of
// typical steps whose inputs are there: without its output a step would lead nowhere.
func (a *Room) Seed(ctx context.Context, ingredients []pantry.Ingredient) error {
	return a.In(kernel.As(ctx, kernel.TheProgram), func(st kernel.Store) error {
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

// IngredientRow is an ingredient in the pantry's list.
type IngredientRow struct {
	ID        string             `json:"id"`
	Name      string             `json:"name"`
	Called    []string           `json:"called"` // its other names, by which it is found too
	Role      string             `json:"role"`
	Typical   bool               `json:"typical"`
	Retired   bool               `json:"retired"`
	MakeUp    formula.MakeUp     `json:"make_up"` // per 100 g
	PH        *pantry.PHRange    `json:"ph"`
	PerKg     *amount.Exact      `json:"per_kg"` // usable; of a part of the pack a piece
	Stale     bool               `json:"stale"`
	Allergens law.Each[[]string] `json:"allergens"`
	Used      int                `json:"used"` // in how many formulas
	// what its lots are asked for when they come in
	AsksEnd   bool `json:"asks_end"`
	AsksProof bool `json:"asks_proof"`
	AsksCold  bool `json:"asks_cold"`
	Open      bool `json:"open"` // nobody has said what is in it
	// g/mL, 0 where it is not known: lets a volume be typed for a mass
	Density float64 `json:"density_g_ml"`
}

// IngredientView is what the page of an ingredient shows.
type IngredientView struct {
	pantry.Ingredient
	Rev         int                `json:"rev"`
	Retired     bool               `json:"retired"`
	MakeUp      formula.MakeUp     `json:"make_up"`
	Cost        *pantry.UnitCost   `json:"cost"`
	Arithmetic  string             `json:"cost_arithmetic"` // how the price becomes the cost of a usable gram
	CostProblem string             `json:"cost_problem"`
	Told        []pantry.OfferTold `json:"offers_told"`
	KnownPiece  float64            `json:"known_piece_g"` // grams a piece by the measures; 0: none is known
	UsedIn      []UsedIn           `json:"used_in"`
	Parsed      []pantry.ListItem  `json:"parsed_list"`
	UpdatedAt   time.Time          `json:"updated_at"`
	UpdatedBy   string             `json:"updated_by"`

	Measures     []pantry.Measure  `json:"measures"`     // the maker's own before the typical ones
	Preparations []PreparationView `json:"preparations"` // that it goes into or comes out of
	Known        []string          `json:"known_as"`     // typical synonyms; its own are in Synonyms

	Open    []string           `json:"open"`    // why it counts as not looked at
	Asks    []string           `json:"asks"`    // what its words leave open
	Carries law.Each[[]string] `json:"carries"` // all allergens, whether ticked, read or inherited
	Passed  pantry.Inherited   `json:"inherited"`
}

// UsedIn is a version that an ingredient is in.
type UsedIn struct {
	Formula string       `json:"formula"`
	Name    string       `json:"name"`
	Version int          `json:"version"`
	State   string       `json:"state"`
	Grams   amount.Grams `json:"grams"`
}

func makeUpOf(g pantry.Ingredient) formula.MakeUp {
	return formula.MakeUpOf([]formula.Leaf{{Ingredient: &g, Grams: 100}}, 0)
}

// Pantry lists ingredients by name.
func (a *Room) Pantry(ctx context.Context) ([]IngredientRow, error) {
	return a.pantryRows(a.On(ctx))
}

func (a *Room) pantryRows(st kernel.Store) ([]IngredientRow, error) {
	rows, err := st.Ingredients()
	if err != nil {
		return nil, err
	}
	s, _, err := a.Settings(st)
	if err != nil {
		return nil, err
	}
	versions, err := st.Versions("")
	if err != nil {
		return nil, err
	}
	used := map[string]map[string]bool{}
	for _, v := range versions {
		for _, id := range kernel.NamedBy(v.Core()).Ingredients {
			if used[id] == nil {
				used[id] = map[string]bool{}
			}
			used[id][v.FormulaID] = true
		}
	}
	rate, err := a.rate(st, s)
	if err != nil {
		return nil, err
	}
	out := make([]IngredientRow, len(rows))
	for i, r := range rows {
		g := r.Data
		out[i] = IngredientRow{ID: r.ID, Name: r.Name, Called: match.CalledBy(&g, a.Typical.Synonyms[r.ID])[1:],
			Role: g.Role, Typical: g.Typical, Retired: r.Retired,
			MakeUp: makeUpOf(g),
			PH:     g.PH, Allergens: carriedBy(&g), Open: len(g.Open()) > 0 && !g.IsPackaging(), Used: len(used[r.ID]),
			AsksEnd: lots.NeedsEnd(&g), Density: g.DensityGPerML,
			AsksProof: lots.NeedsProof(&g), AsksCold: lots.ArrivesCold(&g)}
		if c, err := rate(&g, ""); err == nil {
			perKg := c.PerGram.Times(match.GramsInKilo)
			if g.IsPackaging() {
				perKg = c.PerGram // a piece
			}
			out[i].PerKg, out[i].Stale = &perKg, c.Stale
		}
	}
	return out, nil
}

// Ingredient returns the page of one.
func (a *Room) Ingredient(ctx context.Context, id string) (IngredientView, error) {
	return a.IngredientView(a.On(ctx), id)
}

// IngredientView is what the page of an ingredient shows.
func (a *Room) IngredientView(st kernel.Store, id string) (IngredientView, error) {
	r, err := st.Ingredient(id)
	if err != nil {
		return IngredientView{}, err
	}
	s, _, err := a.Settings(st)
	if err != nil {
		return IngredientView{}, err
	}
	v := IngredientView{Ingredient: r.Data, Rev: r.Rev, Retired: r.Retired, MakeUp: makeUpOf(r.Data),
		UpdatedAt: r.UpdatedAt, UpdatedBy: r.UpdatedBy}
	v.Open, v.Asks, v.Carries, v.Passed = textsOrNone(r.Data.Open()), textsOrNone(r.Data.Reading().Asks()),
		carriedBy(&r.Data), r.Data.Inherited
	v.Passed.Flags, v.Passed.From = textsOrNone(v.Passed.Flags), textsOrNone(v.Passed.From)
	v.Known = slices.DeleteFunc(slices.Clone(a.Typical.Synonyms[id]), func(name string) bool {
		return !a.Typical.Names.Own(s.Locale, id, name)
	})
	if v.Known == nil {
		v.Known = []string{}
	}
	if v.Preparations, err = a.stepsAround(st, id); err != nil {
		return v, err
	}
	if err := a.priceOf(st, s, &v); err != nil {
		return v, err
	}
	own, err := a.Measures(st, id)
	if err != nil {
		return v, err
	}
	v.Measures = own.Of(id)
	v.Parsed, err = pantry.ParseSupplierList(r.Data.ListFor(s.Regime))
	if err != nil || v.Parsed == nil {
		v.Parsed = []pantry.ListItem{}
	}
	v.UsedIn, err = usesOf(st, id)
	return v, err
}

func textsOrNone(list []string) []string {
	if list == nil {
		return []string{}
	}
	return list
}

// carriedBy are all allergens of an ingredient, by law.
func carriedBy(g *pantry.Ingredient) law.Each[[]string] {
	out := law.Each[[]string]{}
	for _, l := range law.All() {
		out[l.Regime] = textsOrNone(g.AllergensUnder(l))
	}
	return out
}

// usesOf are the lines of all versions that name an ingredient.
func usesOf(st kernel.Store, id string) ([]UsedIn, error) {
	formulas, err := st.Formulas()
	if err != nil {
		return nil, err
	}
	versions, err := st.Versions("")
	if err != nil {
		return nil, err
	}
	names := map[string]string{}
	for _, f := range formulas {
		names[f.ID] = f.Name
	}
	out := []UsedIn{}
	for _, v := range versions {
		for _, l := range v.Data.Lines {
			if l.Ingredient == id {
				out = append(out, UsedIn{v.FormulaID, names[v.FormulaID], v.Number, v.State, l.Grams})
			}
		}
		if slices.ContainsFunc(v.Data.Packaging, func(p formula.PackagingItem) bool { return p.Item == id }) {
			out = append(out, UsedIn{v.FormulaID, names[v.FormulaID], v.Number, v.State, amount.Grams{}})
		}
	}
	return out, nil
}

// priceOf fills in what a usable gram costs and how that is worked out: from its own price, or through the step that
// makes it.
func (a *Room) priceOf(st kernel.Store, s shop.Settings, v *IngredientView) error {
	rate, err := a.rate(st, s)
	if err != nil {
		return err
	}
	market := a.Market(st, s, a.TodayIn(s))
	v.Told, v.KnownPiece = v.Ingredient.Told(market), market.Piece(v.ID)
	c, err := rate(&v.Ingredient, "")
	if err != nil {
		v.CostProblem = field.Sentence(err.Error())
		return nil
	}
	v.Cost, v.Arithmetic = &c, v.Ingredient.Arithmetic(c)
	i := slices.IndexFunc(v.Preparations, func(p PreparationView) bool { return p.ID == c.Through })
	if c.Through == "" || i < 0 {
		return nil
	}
	p := v.Preparations[i]
	v.Arithmetic = fmt.Sprintf("through %s: %s per kg of %s, of which %.4g %% comes out",
		strings.ReplaceAll(p.Name, "_", " "), p.InPerKg.Fixed(2), p.InputName, p.Expected.Percent)
	if p.CoOutput == v.ID {
		v.Arithmetic = fmt.Sprintf("beside %s from %s; it carries %g %% of the cost", p.OutputName, p.InputName,
			p.CoShare)
	}
	return nil
}

// stepsAround are the steps that an ingredient goes into or comes out of.
func (a *Room) stepsAround(st kernel.Store, id string) ([]PreparationView, error) {
	return a.preparationViews(st, func(p pantry.Preparation) bool {
		return p.Input == id || p.Output == id || p.CoOutput == id
	})
}

// AddIngredient stores a new one.
func (a *Room) AddIngredient(ctx context.Context, g pantry.Ingredient) (IngredientView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return IngredientView{}, err
	}
	g = Tidy(g)
	g.Looked, g.MayContain, g.Lifted = nil, nil, nil // a new one is open until somebody looks
	if errs := g.Check(); len(errs) > 0 {
		return IngredientView{}, kernel.Mistakes(errs...)
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (IngredientView, error) {
		var v IngredientView
		var err error
		g.ID, err = kernel.FreshID(g.Name, func(id string) error {
			_, err := st.Ingredient(id)
			return err
		})
		if err != nil {
			return v, err
		}
		if err := st.AddIngredient(g, false, by); err != nil {
			return v, Taken(err, g.Name)
		}
		v, err = a.IngredientView(st, g.ID)
		return v, err
	})
}

// Taken says that an id or a name is in use already.
func Taken(err error, name string) error {
	if errors.Is(err, kernel.ErrTaken) {
		return kernel.Mistake("name", "%s is there already; retire the old one or choose another name", name)
	}
	return err
}

// Tidy trims what was typed.
func Tidy(g pantry.Ingredient) pantry.Ingredient {
	g.Name = strings.TrimSpace(g.Name)
	if g.Labels == nil {
		g.Labels = law.Each[string]{}
	}
	if g.Allergens == nil {
		g.Allergens = law.Each[[]string]{}
	}
	for _, l := range law.All() {
		if g.Allergens[l.Regime] == nil {
			g.Allergens[l.Regime] = []string{}
		}
	}
	if g.Flags == nil {
		g.Flags = []string{}
	}
	if g.Offers == nil {
		g.Offers = []pantry.PriceOffer{}
	}
	return g
}

// SaveIngredient writes an ingredient with its offers over revision rev.
func (a *Room) SaveIngredient(ctx context.Context, g pantry.Ingredient, retired bool, rev int) (IngredientView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return IngredientView{}, err
	}
	g = Tidy(g)
	if errs := g.Check(); len(errs) > 0 {
		return IngredientView{}, kernel.Mistakes(errs...)
	}
	var v IngredientView
	err = a.In(ctx, func(st kernel.Store) error {
		old, err := st.Ingredient(g.ID)
		if err != nil {
			return err
		}
		if err := a.mayBecome(ctx, st, old, g, retired); err != nil {
			return err
		}
		g.Looked, g.MayContain, g.Lifted = old.Data.Looked, old.Data.MayContain, old.Data.Lifted
		write := func() error {
			if err := st.SaveIngredient(g, retired, rev, by); err != nil {
				return Taken(a.IngredientClash(st, old, err), g.Name)
			}
			if err := st.ReplaceOffers(g.ID, g.Offers, a.Stamp(ctx)); err != nil {
				return err
			}
			if !judgedBy(old.Data, g) {
				return nil
			}
			return a.JudgeIngredient(ctx, st, g.ID)
		}
		if judgedBy(old.Data, g) {
			err = a.Guard.Guarded(ctx, st, write)
		} else {
			err = write()
		}
		if err == nil {
			err = a.Guard.Renames(ctx, st, old.Data, g)
		}
		if err != nil {
			return err
		}
		v, err = a.IngredientView(st, g.ID)
		return err
	})
	return v, err
}

// mayBecome refuses changes an ingredient must not undergo, or not without a reason.
func (a *Room) mayBecome(ctx context.Context, st kernel.Store, old kernel.Ingredient, g pantry.Ingredient,
	retired bool) error {
	if err := a.Retires(ctx, old.Retired, retired); err != nil {
		return err
	}
	if old.Data.IsPackaging() != g.IsPackaging() {
		return kernel.Mistake("role",
			"what is eaten stays an ingredient, and a part of the pack stays one: add the other anew")
	}
	return a.leaps(ctx, st, old.Data, g)
}

// judgedBy reports whether a change to an ingredient can alter how batches are judged: anything but its prices and
// notes can.
func judgedBy(before, after pantry.Ingredient) bool {
	for _, g := range []*pantry.Ingredient{&before, &after} {
		g.Offers, g.Note, g.Synonyms, g.UsablePercent, g.PieceGrams = nil, "", nil, 0, 0
	}
	return !match.SameJSON(before, after)
}

// JudgeIngredient re-judges the batches that contain an ingredient, however deep.
func (a *Room) JudgeIngredient(ctx context.Context, st kernel.Store, id string) error {
	lib := kernel.NewLibrary()
	return a.Touched(ctx, st, func(ref formula.Ref) (bool, error) {
		v, err := st.Version(ref)
		if err != nil {
			return false, err
		}
		if err := kernel.Extend(st, &lib, v.Core()); err != nil {
			return false, err
		}
		return lib.Uses(v.Core(), id), nil
	})
}

// CheckSupplierList reads a list as it is typed.
func (a *Room) CheckSupplierList(text string) ([]pantry.ListItem, error) {
	items, err := pantry.ParseSupplierList(text)
	if err != nil {
		return nil, kernel.Mistake("text", "%s", err.Error())
	}
	if items == nil {
		items = []pantry.ListItem{}
	}
	return items, nil
}
