package reader

import (
	"slices"
	"strconv"
	"strings"
)

// Made is a product of the shop that may go into another one: a base, a paste.
type Made struct {
	Formula string
	Version int
	Name    string
}

// madeMark begins the id of a line that is a product of the shop.
const madeMark = "made:"

// ID stands for the product where an ingredient's id stands.
func (m Made) ID() string { return madeMark + m.Formula + "@" + strconv.Itoa(m.Version) }

// MadeOf returns the product an id stands for; ok is false if it is an ingredient of the pantry.
func MadeOf(id string) (formula string, version int, ok bool) {
	rest, ok := strings.CutPrefix(id, madeMark)
	if !ok {
		return "", 0, false
	}
	formula, number, _ := strings.Cut(rest, "@")
	version, err := strconv.Atoi(number)
	return formula, version, err == nil
}

// knowMade lets the index find the shop's own products, where no ingredient has the name.
func (x *Index) knowMade(list []Made) {
	for _, m := range list {
		x.claim(m.ID(), m.Name)
		x.resemble(Candidate{m.ID(), m.Name}, m.Name)
	}
}

// Teach lets a book know what the shop has told, and its own products. A name that came into the pantry since, or an
// allergen, comes before what was told: what was learned may never hide one.
func (b *Book) Teach(learned []Learned, made []Made) {
	b.Learned, b.Made = learned, made
	b.Index.knowMade(made)
	b.Index.learn(slices.DeleteFunc(slices.Clone(learned), func(l Learned) bool {
		return b.Ingredients[l.Ingredient] == nil || len(b.Hides(l)) > 0
	}))
}

// frozenPhrases say that something comes out of the freezer.
var frozenPhrases = phrasesOf("frozenPhrases")

// thaw notes that a product of the shop comes frozen: it is thawed and finished (handbook 06, rule 10).
func (s *segment) thaw(l *Line) {
	if _, _, made := MadeOf(l.Ingredient); !made {
		return
	}
	for i := range s.cursor {
		for _, p := range frozenPhrases[s.cursor[i].low] {
			hit := true
			for k, w := range p {
				hit = hit && i+k < len(s.cursor) && s.cursor[i+k].low == w
			}
			l.Thaw = l.Thaw || hit
		}
	}
}
