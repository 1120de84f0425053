package bench

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// deepestStep bounds how many preparations lie between what is bought and what goes into the bowl.
const deepestStep = 4

// Kitchen is what a shopping list goes by. Steps are the preparations, the likeliest for a thing first; Offer is the
// offer that the shop buys by; There is what lies on the shelf and may be used on the day, by ingredient.
type Kitchen struct {
	Ingredients map[string]*pantry.Ingredient
	Steps       []pantry.Preparation
	Offer       func(*pantry.Ingredient) (pantry.UnitCost, error)
	There       map[string]amount.Grams
	Piece       func(id string) float64 // what one weighs, in grams; 0: nobody weighed one
}

// Buy is a row of the shopping list, of what is bought as it is bought.
type Buy struct {
	Ingredient string        `json:"ingredient"`
	Name       string        `json:"name"`
	Need       amount.Grams  `json:"need_g"`  // before what is not usable of it is off
	There      amount.Grams  `json:"there_g"` // on the shelf
	Short      amount.Grams  `json:"short_g"`
	Pieces     int           `json:"pieces"` // that the short comes to; 0 where it is not counted
	Packs      int           `json:"packs"`
	Pack       string        `json:"pack"` // what one holds: 1 kg, 20 pieces
	Supplier   string        `json:"supplier"`
	Cost       *amount.Exact `json:"cost"` // of the packs; nil: no price
	Over       amount.Grams  `json:"over_g"`
	Note       string        `json:"note"`
}

// Prepare is a preparation that the batch asks for.
type Prepare struct {
	Step   pantry.Preparation `json:"-"`
	Key    string             `json:"key"`
	Name   string             `json:"name"`
	Input  string             `json:"input"`
	Output string             `json:"output"`
	In     amount.Grams       `json:"in_g"`
	Out    amount.Grams       `json:"out_g"`
	Beside string             `json:"beside"`
	Co     amount.Grams       `json:"co_g"`
	Hands  float64            `json:"hands_min"`
	Wait   float64            `json:"wait_min"`
	Look   string             `json:"look_for"`
	After  []string           `json:"-"` // keys of what makes its input
	Cools  bool               `json:"-"` // it comes hot, and goes on cold
}

// List is the shopping list of a batch, and the preparations between what is bought and the bowl.
type List struct {
	Buy     []Buy     `json:"buy"`
	Prepare []Prepare `json:"prepare"`
	Enough  int       `json:"enough"` // rows of which enough is there
	// what the packs cost together; at least, where Unpriced names what has no price
	Cost     amount.Exact `json:"cost"`
	Unpriced []string     `json:"unpriced"`
}

// Wanted is an ingredient that goes into the bowl, by a stated preparation where there is one.
type Wanted struct {
	Ingredient string
	Grams      amount.Grams
	Step       string
}

// shop works down from the bowl to what is bought.
type shop struct {
	Kitchen
	need map[string]float64 // grams of ingredients wanted at this level
	by   map[string]string  // the stated step
	made map[string]*Prepare
	keys []string
	buys map[string]float64 // grams as they are used, of what is bought
	took map[string]amount.Grams
}

// ShoppingList works out what to get and what to prepare for what goes into the bowl: what lies ready on the shelf is
// taken first; outputs of one preparation come from the same pieces, so that the greater need rules (handbook 02); what
// is bought grows by what is not usable of it, and is rounded up to pieces and packs.
func ShoppingList(wants []Wanted, k Kitchen) List {
	s := &shop{k, map[string]float64{}, map[string]string{}, map[string]*Prepare{}, nil, map[string]float64{},
		map[string]amount.Grams{}}
	for _, w := range wants {
		s.need[w.Ingredient] += w.Grams.Float()
		if w.Step != "" {
			s.by[w.Ingredient] = w.Step
		}
	}
	for depth := 0; len(s.need) > 0; depth++ {
		s.down(depth)
	}
	return s.list()
}

// down takes one level of needs down: off the shelf, through a preparation, or onto the list.
func (s *shop) down(depth int) {
	level := s.need
	s.need = map[string]float64{}
	steps := map[string]*pantry.Preparation{}
	out, co := map[string]float64{}, map[string]float64{}
	for _, id := range slices.Sorted(maps.Keys(level)) {
		g := s.Ingredients[id]
		if g == nil || g.Has(pantry.FlagWater) {
			continue
		}
		p := s.maker(id, level)
		if p == nil || depth >= deepestStep {
			s.buys[id] += level[id]
			continue
		}
		left := s.offShelf(id, level[id])
		if left <= 0 {
			continue
		}
		steps[p.ID] = p
		if p.Output == id {
			out[p.ID] += left
		} else {
			co[p.ID] += left
		}
	}
	for _, id := range slices.Sorted(maps.Keys(steps)) {
		s.prepare(*steps[id], out[id], co[id])
	}
}

// offShelf takes what lies ready of something that is made; it returns what is still wanted.
func (s *shop) offShelf(id string, want float64) float64 {
	there := s.There[id].Minus(s.took[id]).Float()
	take := min(max(there, 0), want)
	s.took[id] = s.took[id].Plus(amount.G(take))
	return want - take
}

// maker is the preparation that something is made by here; nil where it is bought as it is.
func (s *shop) maker(id string, level map[string]float64) *pantry.Preparation {
	var best *pantry.Preparation
	_, priced := s.Offer(s.Ingredients[id])
	for i := range s.Steps {
		p := &s.Steps[i]
		switch {
		case p.Output != id && (p.CoOutput == "" || p.CoOutput != id):
		case s.by[id] == p.ID:
			return p
		case best == nil || s.joint(p, level) && !s.joint(best, level) && !best.Preferred:
			best = p
		}
	}
	if best != nil && s.by[id] == "" && !best.Preferred && priced == nil {
		return nil // it has a price of its own
	}
	return best
}

// joint reports whether a preparation gives two things that are both wanted.
func (s *shop) joint(p *pantry.Preparation, level map[string]float64) bool {
	return p.CoOutput != "" && level[p.Output] > 0 && level[p.CoOutput] > 0
}

func (s *shop) prepare(p pantry.Preparation, out, co float64) {
	b, err := p.Buy(out, co)
	if err != nil {
		s.buys[p.Output] += out
		return
	}
	x := s.made[p.ID]
	if x == nil {
		x = &Prepare{Step: p, Key: p.ID, Name: p.Name, Look: p.LookFor, Wait: p.WaitMinutes, Input: s.name(p.Input),
			Output: s.name(p.Output)}
		if p.CoOutput != "" {
			x.Beside = s.name(p.CoOutput)
		}
		s.made[p.ID], s.keys = x, append(s.keys, p.ID)
	}
	x.In, x.Out, x.Co = x.In.Plus(amount.G(b.In)), x.Out.Plus(amount.G(out)), x.Co.Plus(amount.G(co))
	x.Hands += b.Minutes
	x.Cools = p.Heats() && s.wet(p.Output)
	s.need[p.Input] += b.In
	for _, e := range p.Extras {
		s.need[e.Ingredient] += b.In * e.PerHundred / 100
	}
}

// wet reports whether something spoils when it cools slowly: nuts and spices do not.
func (s *shop) wet(id string) bool {
	g := s.Ingredients[id]
	return g == nil || g.Composition.Water >= wetPercent
}

// wetPercent of water from which what comes hot has a cooling log.
const wetPercent = 30

func (s *shop) name(id string) string {
	if g := s.Ingredients[id]; g != nil {
		return g.Name
	}
	return id
}

func (s *shop) list() List {
	out := List{Buy: []Buy{}, Prepare: []Prepare{}, Unpriced: []string{}}
	for _, id := range s.keys {
		x := *s.made[id]
		for _, other := range s.keys {
			if p := s.made[other].Step; p.Output == x.Step.Input || p.CoOutput != "" && p.CoOutput == x.Step.Input {
				x.After = append(x.After, other)
			}
		}
		out.Prepare = append(out.Prepare, x)
	}
	for _, id := range slices.Sorted(maps.Keys(s.buys)) {
		b := s.buy(s.Ingredients[id], s.buys[id])
		switch {
		case !b.Short.IsPositive():
			out.Enough++
		case b.Cost == nil:
			out.Unpriced = append(out.Unpriced, b.Name)
		default:
			out.Cost = out.Cost.Plus(*b.Cost)
		}
		out.Buy = append(out.Buy, b)
	}
	slices.SortStableFunc(out.Buy, func(a, b Buy) int {
		if a.Short.IsPositive() != b.Short.IsPositive() {
			if a.Short.IsPositive() {
				return -1
			}
			return 1
		}
		return cmp.Compare(a.Name, b.Name)
	})
	return out
}

// buy rounds a need up to pieces and packs.
func (s *shop) buy(g *pantry.Ingredient, used float64) Buy {
	b := Buy{Ingredient: g.ID, Name: g.Name, Need: amount.G(used * 100 / g.Usable()),
		There: s.There[g.ID].Minus(s.took[g.ID])}
	if b.There.IsNegative() {
		b.There = amount.Grams{}
	}
	if b.Short = b.Need.Minus(b.There); !b.Short.IsPositive() {
		b.Over, b.Short = b.There.Minus(b.Need), amount.Grams{}
		return b
	}
	one := g.PieceGrams
	if one <= 0 && s.Piece != nil {
		one = s.Piece(g.ID)
	}
	if one >= leastPiece {
		b.Pieces = int(math.Ceil(b.Short.Float()/one - 1e-9))
	}
	c, err := s.Offer(g)
	if err != nil || c.Through != "" {
		return b
	}
	pack := c.PackGrams.Float()
	b.Packs = int(math.Ceil(b.Short.Float()/pack - 1e-9))
	b.Supplier, b.Pack = c.Offer.Supplier, packWords(c.Offer)
	cost := c.Offer.Price.Exact().Times(amount.Whole(int64(b.Packs)))
	b.Cost = &cost
	b.Over = amount.G(pack * float64(b.Packs)).Minus(b.Short)
	return b
}

// leastPiece is what something weighs at least that is counted when it is bought: limes are, nuts are not.
const leastPiece = 15

// packWords is what a pack holds, as a person says it.
func packWords(o pantry.PriceOffer) string {
	n := o.PackAmount.Float()
	switch {
	case o.PackUnit == "piece" && n == 1:
		return "1 piece"
	case o.PackUnit == "piece":
		return fmt.Sprintf("%g pieces", n)
	case o.PackUnit == "ml" && n >= 1000:
		return fmt.Sprintf("%g L", n/1000)
	case o.PackUnit == "ml":
		return fmt.Sprintf("%g mL", n)
	case n >= 1000:
		return fmt.Sprintf("%g kg", n/1000)
	}
	return fmt.Sprintf("%g g", n)
}

// WantedBy is what goes into the bowl and onto the jars of a plan: its ingredients, and components by their versions.
func WantedBy(v formula.Version, targets []Target) (out []Wanted, components map[formula.Ref]amount.Grams) {
	components = map[formula.Ref]amount.Grams{}
	for i, t := range targets {
		if i >= len(v.Lines) {
			continue
		}
		if l := v.Lines[i]; l.Component != nil {
			components[*l.Component] = components[*l.Component].Plus(t.Grams)
		} else {
			out = append(out, Wanted{l.Ingredient, t.Grams, l.Preparation})
		}
	}
	for k, t := range v.Toppings {
		if i := len(v.Lines) + k; i < len(targets) {
			out = append(out, Wanted{t.Ingredient, targets[i].Grams, ""})
		}
	}
	return out, components
}
