package reader

import (
	"strings"
	"unicode"
)

// Recipe is one of several that stand in one text, with its own words.
type Recipe struct {
	Name  string `json:"name"`
	Text  string `json:"text"`
	words []string
}

// beforeName are words in front of the name of a recipe, as it is announced: okay so today we're doing the pea spread.
var beforeName = words("beforeName")

// another are words that begin the next of several recipes.
var another = words("another")

// longestAnnounced is how many words may announce a recipe.
const longestAnnounced = 18

// announced reads a sentence that names the recipe and no amount: so the pea and mint spread. Behind lines that name
// amounts it needs a word for one more, or stands right over a list of its own.
func (p *page) announced(words string, c cursor, overList bool) (Line, bool) {
	if len(c) < 2 || len(c) > longestAnnounced || p.serving || !c.any(namesDish) {
		return Line{}, false
	}
	from, dish, begins := -1, -1, false
	for i, t := range c {
		if unitWords[t.low] != "" && t.low != "c" {
			return Line{}, false
		}
		_, _, number := c.number(i)
		if f, amount := c.amountAt(i, false); number && !c.is(i, "one", "second", "third", "a") || amount &&
			f.Unit != "" {
			return Line{}, false
		}
		switch {
		case dish < 0 && from < 0 && (beforeName[t.low] || !t.isWord()):
			begins = begins || another[t.low]
		case from < 0 && t.isWord():
			from = i
		}
		if from >= 0 && dish < 0 && dishWords[t.low] && i > from {
			dish = i
		}
	}
	if dish < 0 || c[from:dish].denies(0) > 0 || cookingVerbs[c[from].low] || addWords[c[from].low] {
		return Line{}, false
	}
	if p.weighed == 0 && p.titled || p.weighed > 0 && !begins && !overList {
		return Line{}, false
	}
	if id, taken := p.book.Index.find(c[from:dish+1], false); id != "" && taken[len(taken)-1] == dish-from {
		return Line{}, false // tomato paste is an ingredient
	}
	name := []rune(strings.TrimSpace(string([]rune(words)[c[from].from:c[dish].to])))
	name[0] = unicode.ToUpper(name[0])
	return Line{Kind: Title, Words: words, Name: string(name)}, true
}

// entitle notes that a recipe begins here; behind lines with amounts it is another one.
func (p *page) entitle(name string) {
	if n := len(p.recipes); n == 0 || p.weighed > 0 && p.titled {
		p.recipes = append(p.recipes, Recipe{})
		if n > 0 {
			p.section = name
		}
	}
	p.recipes[len(p.recipes)-1].Name = name
	p.titled, p.weighed = true, 0
}

// keep adds words to the recipe they belong to.
func (p *page) keep(words string) {
	if len(p.recipes) == 0 {
		p.recipes = append(p.recipes, Recipe{})
	}
	of := &p.recipes[len(p.recipes)-1]
	of.words = append(of.words, words)
}

// The key of the answer to whether one text holds several recipes, and the answer that it is one.
const (
	recipesKey = "recipes"
	oneRecipe  = "one"
	apart      = "apart"
)

// several asks whether several recipes in one text are read one by one (handbook 02).
func (r *Reading) several(list []Recipe, answer string) {
	if len(list) < 2 || answer == oneRecipe {
		return
	}
	for i := range list {
		list[i].Text = strings.Join(list[i].words, "")
	}
	r.Recipes = list
	names := make([]string, len(list))
	for i, x := range list {
		names[i] = "“" + x.Name + "”"
	}
	r.StillOpen++
	r.Notices = append(r.Notices, Notice{Code: recipesKey, Options: []string{apart, oneRecipe},
		Text: "More than one recipe stands here: " + strings.Join(names, " and ") + ". Read each by itself?"})
}
