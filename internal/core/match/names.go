package match

import (
	"cmp"
	"slices"
	"strings"

	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
)

// Names are what everything in a pantry goes by: its name, its own other names and the typical ones, which are also
// what the reader of recipes knows it by. Price files, deliveries and pickers find by them.
type Names struct {
	own     map[string][]string // ids by the words of a name that the shop gave
	called  map[string][]string // and of any
	retired map[string]bool
	list    []*pantry.Ingredient
}

// NewNames begins names of nothing.
func NewNames() *Names {
	return &Names{own: map[string][]string{}, called: map[string][]string{}, retired: map[string]bool{}}
}

// CalledBy are the names that an ingredient goes by, its own first.
func CalledBy(g *pantry.Ingredient, typical []string) []string {
	return slices.Concat([]string{g.Name}, g.Synonyms, typical, []string{g.ID})
}

// Add lets an ingredient be found by its names and by the typical ones of its kind. What is retired is found only where
// nothing in use has the name.
func (n *Names) Add(g *pantry.Ingredient, typical []string, retired bool) {
	n.retired[g.ID] = retired
	if !retired {
		n.list = append(n.list, g)
	}
	for i, name := range CalledBy(g, typical) {
		claim(n.called, name, g.ID)
		if ours := len(g.Synonyms) + 1; i < ours || i >= ours+len(typical) {
			claim(n.own, name, g.ID)
		}
	}
}

func claim(names map[string][]string, name, id string) {
	if key := WordsIn(name); key != "" && !slices.Contains(names[key], id) {
		names[key] = append(names[key], id)
	}
}

// All are the ids of what is in use and goes by the words of a name.
func (n *Names) All(name string) []string { return n.used(n.called[WordsIn(name)]) }

// One is the id of the one thing to which the shop gave a name; empty where there is none, or several.
func (n *Names) One(name string) string { return n.only(n.own[WordsIn(name)]) }

// Typically is the id of the one thing that goes by a name, if only typically so: vegetable oil may be this shop's
// sunflower oil, where somebody looks at it before it counts.
func (n *Names) Typically(name string) string {
	if id := n.One(name); id != "" {
		return id
	}
	return n.only(n.called[WordsIn(name)])
}

// only is the one of ids; of those in use where there are any.
func (n *Names) only(ids []string) string {
	if used := n.used(ids); len(used) > 0 {
		ids = used
	}
	if len(ids) == 1 {
		return ids[0]
	}
	return ""
}

func (n *Names) used(ids []string) []string {
	return slices.DeleteFunc(slices.Clone(ids), func(id string) bool { return n.retired[id] })
}

// Near are the ids of what words could mean, the likeliest first: what goes by them, what a reader of recipes hears in
// them, then what shares the most of them.
func (n *Names) Near(name string, book *reader.Book) []string {
	ids := n.All(name)
	for _, l := range book.Read("100 g "+name, nil).Lines {
		ids = append(ids, l.Ingredient)
	}
	words := strings.Fields(WordsIn(name))
	type hit struct {
		id    string
		share float64
	}
	var hits []hit
	for _, g := range n.list {
		own := strings.Fields(WordsIn(g.Name))
		same := 0
		for _, w := range words {
			if len(w) > 2 && slices.Contains(own, w) {
				same++
			}
		}
		if same > 0 {
			hits = append(hits, hit{g.ID, float64(same) / float64(max(len(own), len(words)))})
		}
	}
	slices.SortStableFunc(hits, func(a, b hit) int {
		if a.share != b.share {
			return cmp.Compare(b.share, a.share)
		}
		return strings.Compare(a.id, b.id)
	})
	for _, h := range hits {
		ids = append(ids, h.id)
	}
	var out []string
	for _, id := range ids {
		if id != "" && !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	return out
}
