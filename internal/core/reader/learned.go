package reader

import (
	"cmp"
	"slices"
	"strings"

	"gallipot/internal/core/field"
	"gallipot/internal/core/pantry"
)

// Learned is what a shop said once and means each time it says it again: what a name stands for, what a tin holds, how
// a cup is filled, what a measure of its own holds.
type Learned struct {
	ID         int64   `json:"id"`
	Kind       string  `json:"kind"`
	Words      string  `json:"words"`                // as they were said
	Ingredient string  `json:"ingredient,omitempty"` // what a name means, or whose tin or cup it is
	Unit       string  `json:"unit,omitempty"`       // can, jar, packet, cup, spoon, glass …
	Size       string  `json:"size,omitempty"`       // of the measure: small, large
	Grams      float64 `json:"grams,omitempty"`      // on the tin
	ML         float64 `json:"ml,omitempty"`         // in the measure
	Fill       string  `json:"fill,omitempty"`       // loose, packed, chopped, whole, grated
}

// What may be learned.
const (
	LearnedName   = "name"
	LearnedPack   = "pack"
	LearnedFill   = "fill"
	LearnedVolume = "volume"
)

// The bounds of what is learned: a tin of a kitchen, and a measure that a hand can lift.
const (
	mostPack   = 20_000 // g
	mostVolume = 5_000  // mL
	mostWords  = 80
)

// Check lists what is wrong with something learned, by its field.
func (x Learned) Check() []pantry.FieldError {
	var errs field.Errors
	bad := errs.Bad
	measure := unitWords[x.Unit] == x.Unit && x.Unit != ""
	switch x.Kind {
	case LearnedName:
		if keyOf(x.Words) == "" || len([]rune(x.Words)) > mostWords {
			bad("words", "say a name, in at most 80 characters")
		}
		if x.Ingredient == "" {
			bad("ingredient", "say what it means")
		}
	case LearnedPack:
		if !isContainer(x.Unit) {
			bad("unit", "a tin, a jar or a packet")
		}
		if !(x.Grams > 0 && x.Grams <= mostPack) {
			bad("grams", "grams above 0 and up to 20 kg")
		}
	case LearnedFill:
		if x.Ingredient == "" {
			bad("ingredient", "say what fills the cup")
		}
		if !slices.Contains([]string{"loose", "packed", "chopped", "grated", "whole"}, x.Fill) {
			bad("fill", "loose, packed, chopped, grated or whole")
		}
	case LearnedVolume:
		if !measure || isContainer(x.Unit) {
			bad("unit", "a measure of yours: a spoon, a glass, a ladle")
		}
		if !(x.ML > 0 && x.ML <= mostVolume) {
			bad("ml", "millilitres above 0 and up to 5 litres")
		}
		if _, sized := sizeTimes[x.Size]; x.Size != "" && !sized {
			bad("size", "small, medium or large")
		}
	default:
		bad("kind", "a name, a pack, a fill or a volume")
	}
	return errs
}

// Same reports whether two say what the same words mean, so that the later takes the place of the other.
func (x Learned) Same(o Learned) bool {
	if x.Kind != o.Kind {
		return false
	}
	if x.Kind == LearnedName {
		return keyOf(x.Words) == keyOf(o.Words)
	}
	return x.Ingredient == o.Ingredient && x.Unit == o.Unit && x.Size == o.Size
}

// learn lets the index know the names that a shop has for things. Such a name comes before any other.
func (x *Index) learn(list []Learned) {
	x.learned = map[string]int64{}
	for _, l := range list {
		k := keyOf(l.Words)
		if l.Kind != LearnedName || k == "" {
			continue
		}
		x.keys[k], x.learned[k] = l.Ingredient, l.ID
		for _, w := range strings.Fields(k) {
			x.words[w] = true
		}
	}
}

// heardName is what was learned of the name that a segment goes by; 0 where nothing was.
func (x *Index) heardName(s *segment) int64 {
	if len(x.learned) == 0 {
		return 0
	}
	var stems []string
	for _, t := range s.cursor {
		if t.role == Ingredient {
			stems = append(stems, stem(t.low))
		}
	}
	return x.learned[joinKey(stems)]
}

// told completes an amount with what the shop said about its measure: what a tin says, how a cup is filled, what a
// spoon holds. A measure of the ingredient that the maker has weighed takes precedence.
func (b *Book) told(a Amount, ids ...string) (Amount, int64) {
	for _, l := range b.Learned {
		if l.Unit != a.Unit || l.Ingredient != "" && !slices.Contains(ids, l.Ingredient) {
			continue
		}
		switch {
		case l.Kind == LearnedPack && a.Pack == 0:
			a.Pack = l.Grams
			return a, l.ID
		case l.Kind == LearnedFill && a.Fill == "":
			a.Fill = l.Fill
			return a, l.ID
		case l.Kind == LearnedVolume && cmp.Or(a.Size, "medium") == cmp.Or(l.Size, "medium") && !b.weighed(a, ids...):
			a.Low, a.High, a.Unit, a.Size = a.Low*l.ML, a.High*l.ML, "ml", ""
			return a, l.ID
		}
	}
	return a, 0
}

// weighed reports whether the maker has weighed a measure of one of some ingredients.
func (b *Book) weighed(a Amount, ids ...string) bool {
	for _, k := range measureKeys(a) {
		for _, id := range ids {
			if _, ok := b.Measures.House(id, k.name); ok {
				return true
			}
		}
	}
	return false
}

// Learn is what an answer settles for good; ok is false if it concerns this line alone. What is dangerous raw is never
// learned: it is asked about each time.
func (b *Book) Learn(l Line, a Answer) (x Learned, ok bool) {
	s := newSegment(l.Words)
	s.scan()
	s.identify(b.Index)
	id := l.Ingredient
	switch {
	case a.Ingredient != "" && a.Ingredient != id:
		g := b.Ingredients[a.Ingredient]
		if g == nil || slices.Contains(g.Flags, "raw_egg") || !l.asksWhat(a.Ingredient) {
			return x, false
		}
		words := s.text(Ingredient)
		if id == "" {
			s.leftovers()
			words = s.subject()
		}
		x = Learned{Kind: LearnedName, Words: words, Ingredient: a.Ingredient}
	case a.Pack != nil && s.amount != nil:
		x = Learned{Kind: LearnedPack, Ingredient: id, Unit: s.amount.Unit, Grams: *a.Pack}
	case a.Fill != "" && s.amount != nil:
		x = Learned{Kind: LearnedFill, Ingredient: id, Unit: s.amount.Unit, Fill: a.Fill}
	case a.ML != nil && s.amount != nil:
		x = Learned{Kind: LearnedVolume, Unit: s.amount.Unit, Size: s.amount.Size, ML: *a.ML}
	default:
		return x, false
	}
	if x.Words == "" {
		x.Words = strings.TrimSpace(strings.ReplaceAll(x.Size+" "+unitSaid(x.Unit), "_", " "))
	}
	return x, len(x.Check()) == 0
}

// Hides names the allergens that a name brings today and would not bring if it were learned: a name that the pantry
// knows may not come to mean less (safety before convenience).
func (b *Book) Hides(x Learned) []string {
	g, now := b.Ingredients[x.Ingredient], b.Ingredients[b.Index.keys[keyOf(x.Words)]]
	if x.Kind != LearnedName || g == nil || now == nil {
		return nil
	}
	var out []string
	for regime, list := range now.Allergens {
		for _, a := range list {
			if !slices.Contains(g.Allergens[regime], a) && !slices.Contains(out, a) {
				out = append(out, a)
			}
		}
	}
	slices.Sort(out)
	return out
}

// asksWhat reports whether a line asks which ingredient it is, or offers this one instead.
func (l Line) asksWhat(id string) bool {
	return slices.ContainsFunc(l.Questions, func(q Question) bool {
		return q.Code == "ingredient" || slices.ContainsFunc(q.Take, func(c Candidate) bool { return c.ID == id })
	})
}
