package reader

import (
	"slices"
	"strings"

	"gallipot/internal/core/law"
)

// shortForms are written with a full stop that ends no sentence.
var shortForms = wordSet("tsp tsps tbsp tbsps tbs tbl oz lb lbs fl approx ca c g kg gr ml cl dl l pt qt pkg min mins hr hrs no e i vs etc")

// sentence is a stretch of a row with its tokens.
type sentence struct {
	words string
	toks  cursor
}

// sentences splits a row where a sentence ends, as it is spoken or dictated into one long row. A sentence that only puts
// right what the one before said, or gives its amount, stays with it: Two lemons. No, three.
func (p *page) sentences(words string) []sentence {
	c := cursor(tokenise(words))
	p.book.Index.know(c)
	if !strings.ContainsAny(words, ".!?:") {
		return []sentence{{words, c}}
	}
	begun := skipMarks(c)
	runes := []rune(words)
	var out []sentence
	from, first := 0, 0 // the rune and the token where the sentence begins
	cut := func(to, next int) {
		toks := c[first:next:next]
		for i := range toks {
			toks[i].from, toks[i].to = toks[i].from-from, toks[i].to-from
		}
		out = append(out, sentence{string(runes[from:to]), toks})
		from, first = to, next
	}
	if head := p.heads(c, begun); head > 0 {
		begun = head + 1
		cut(c[head].to, head+1)
	}
	for i := begun; i+1 < len(c); i++ {
		if c.endsSentence(i) && i > max(first, begun) && !p.belongs(c[max(first, begun):i+1], c[i+1:]) {
			cut(c[i].to, i+1)
		}
	}
	cut(len(runes), len(c))
	return out
}

// heads is the colon behind a name or a heading that the amounts stand right behind: honey miso glaze: 3 tbsp miso; 0
// where there is none.
func (p *page) heads(c cursor, from int) int {
	at := from
	for at < len(c) && at < from+10 && !c.is(at, ":") {
		if _, _, number := c.number(at); number {
			return 0
		}
		at++
	}
	if !c.is(at, ":") || at-from < 2 || at+1 >= len(c) || c[at+1].from == c[at].to || says(c[from:at], "each") ||
		says(c[from:at], "optional") {
		return 0
	}
	_, ok := c.amountAt(at+1, true)
	if _, idle := c.countsNoFood(at + 1); !ok || idle || aboutTheRecipe("", c[from:]) || c.is(from, "makes", "yields", "serves") {
		return 0
	}
	if id, taken := p.book.Index.find(c[from:at], false); id != "" && len(taken) == at-from {
		return 0 // olive oil: 2 tbsp
	}
	return at
}

// endsSentence reports whether the sign at i ends a sentence that another one follows.
func (c cursor) endsSentence(i int) bool {
	if !c.is(i, ".", "!", "?") || c[i+1].from == c[i].to {
		return false
	}
	before := c[i-1]
	return c.is(i, "!", "?") || !before.isWord() || !shortForms[before.low] && len(before.low) > 1
}

// belongs reports whether the sentence at the start of rest goes on with the amount or the slip of the one before.
func (p *page) belongs(before, rest cursor) bool {
	end := slices.IndexFunc(rest, func(t token) bool { return t.low == "." || t.low == "!" || t.low == "?" })
	if end < 0 {
		end = len(rest)
	}
	next := rest[:end]
	back, amounts := next.takesBack(), false
	if id, _ := p.book.Index.find(next, false); id == "" && back && end+1 < len(rest) {
		if after := rest[end+1:]; after.amountOnly(0) { // no, hang on, that's for the jam. A hundred and twenty.
			return true
		}
	}
	for i := range next {
		if _, ok := next.amountAt(i, i == 0); ok {
			amounts = true
			break
		}
	}
	if !amounts || next.denies(0) > 0 {
		return false
	}
	named, _ := p.book.Index.find(before, false)
	id, _ := p.book.Index.find(next, false)
	if named == "" || id != "" && id != named {
		return false
	}
	return back || before.lastSentence().takesBack() || id == "" && (!before.amounts(0, len(before)) || next.is(0, "maybe", "about", "or", "that's", "say")) &&
		!next.content(0, len(next))
}

// lastSentence is what stands behind the last full stop but one.
func (c cursor) lastSentence() cursor {
	for i := len(c) - 2; i >= 0; i-- {
		if c.is(i, ".") {
			return c[i+1:]
		}
	}
	return c
}

// takesBack reports whether a sentence begins by putting right what was said: Sorry, three; no, make that two.
func (c cursor) takesBack() bool {
	for i := 0; i < len(c) && i < 4; i++ {
		switch {
		case c.is(i, "sorry", "actually", "wait", "oops", "scratch", "rather", "hang"), c.run(i, "i", "mean"), c.run(i, "make", "that"),
			c.run(i, "that", "was"), c.is(i, "no") && (c.is(i+1, ",", "wait", "about", "maybe", "make") || c.amounts(i+1, len(c))):
			return true
		case !c.is(i, "oh", "well", "no", ",", "um", "uh", "ah"):
			return false
		}
	}
	return false
}

// talkWords are in sentences that talk beside the matter, and addWords in those that say what goes in.
var (
	talkWords = wordSet(`i i'm i've i'd you you'd you'll it it's that that's this is was were we my our they their them what when
		because he she his her used know think like love always never usually sometimes but so very really`)
	addWords = wordSet(`add adds adding put putting throw toss pour stir mix take use using need needs goes go get grab fold crumble
		squeeze drizzle sprinkle grate whisk beat tip include give gives`)
)

// noFood are what is counted in a kitchen and goes into no bowl: twenty minutes, two things.
var noFood = wordSet(`thing things recipe recipes way ways minute minutes min mins hour hours second seconds time times day days week weeks month months year years
	person people friend friends degree degrees step steps reason reasons kid kids portion portions serving servings batch batches word words`)

// countsNoFood reports whether the number at i counts what goes into no bowl; next is behind it.
func (c cursor) countsNoFood(i int) (next int, is bool) {
	_, next, ok := c.number(i)
	if !ok && c.is(i, "a", "an") {
		next, ok = i+1, true
	}
	for ok && c.is(next, "to", "or", "-", "–") {
		_, end, more := c.number(next + 1)
		if !more {
			break
		}
		next = end
	}
	next += btoi(ok && c.is(next, "more", "good", "whole", "of", "°"))
	if !ok || next >= len(c) || !noFood[c[next].low] {
		return i, false
	}
	return next + 1, true
}

// shortestTalk is from how many words on a sentence may be talk.
const shortestTalk = 4

// talk reads a sentence that names no amount and says of nothing that it goes in. What of the pantry it names is asked
// about once where no line has it (handbook 02).
func (p *page) talk(words string, c cursor) (Line, bool) {
	n, talks, says := 0, false, false
	for i := 0; i < len(c); i++ {
		if next, is := c.countsNoFood(i); is {
			n, i, talks = n+2, next-1, true
			continue
		}
		t := c[i]
		if c.run(i, "so", "that's") || c.run(i, "which", "is") || c.run(i, "that's", "about") { // I cook them myself, so that's a cup dry
			if id, _ := p.book.Index.find(c, false); id == "" && i > 0 {
				n, talks = n+len(c)-i, true
				break
			}
		}
		if t.isNumber() || addWords[t.low] {
			return Line{}, false
		}
		if _, is := c.amountAt(i, false); is {
			return Line{}, false
		}
		if t.isWord() {
			n++
			talks = talks || talkWords[t.low]
			says = says || !talkWords[t.low] && !t.small() && !t.leads() && !beforeName[t.low]
		}
	}
	if n == 0 || says && (n < shortestTalk || !talks) {
		return Line{}, false
	}
	return Line{Kind: Remark, Words: words, Marks: []Mark{{0, len([]rune(words)), Note}}}, !newSegment(words).saysWithout()
}

// saysWithout reports whether a sentence says that something is left out.
func (s *segment) saysWithout() bool {
	s.deny()
	return s.denied
}

// servesIt are words that begin what is done at the table: what is named there goes into no bowl.
var servesIt = wordSet("serve serving serves garnish top eat enjoy spoon spread dollop")

// inSteps asks once about what only a step or a remark names (handbook 02, no ingredient is lost).
func (r *Reading) inSteps(b *Book) {
	for i := range r.Lines {
		l := &r.Lines[i]
		if l.Kind != Step && l.Kind != Remark || l.Fixed || l.Serving {
			continue
		}
		s := newSegment(l.Words)
		verb := 0
		for verb < len(s.cursor) && (s.cursor[verb].leads() || s.cursor[verb].small()) {
			verb++
		}
		if verb < len(s.cursor) && servesIt[s.cursor[verb].low] || s.saysWithout() {
			continue
		}
		for k := range s.cursor {
			s.cursor[k].role = Note
		}
		l.Also = b.candidates(s.aside(b.Index, nil))
	}
}

// alsoElsewhere drops what is asked to be a line of its own where a line has it already, in whatever state.
func (r *Reading) alsoElsewhere(b *Book) {
	r.inSteps(b)
	has, said := map[string]bool{}, map[string]bool{}
	for _, l := range r.Lines {
		if l.Kind == Weighed && l.Ingredient != "" {
			for _, id := range append(slices.Clone(l.AnyOf), l.Ingredient) {
				has[b.kind(id)] = true
				said[b.kind(id)] = said[b.kind(id)] || l.Amount != nil
				for _, p := range b.makers(id) {
					has[b.kind(p.Input)] = true
				}
			}
		}
	}
	asked := map[string]bool{}
	for i := range r.Lines {
		l := &r.Lines[i]
		if len(l.Also) == 0 {
			continue
		}
		bowl := l.Kind == Weighed && l.As == AsBowl
		l.Also = slices.DeleteFunc(l.Also, func(c Candidate) bool {
			k := b.kind(c.ID)
			if said[k] || !bowl && (has[k] || asked[k]) {
				return true
			}
			asked[k] = true
			return false
		})
		l.drop("also")
		if ids := idsOf(l.Also); len(ids) > 0 {
			l.Questions = append(l.Questions, b.askAlso(ids))
		}
	}
}

// alsoLines adds the lines of what the maker says goes in as well.
func (r *Reading) alsoLines(p *page, answers map[string]Answer) {
	if !slices.ContainsFunc(r.Lines, func(l Line) bool { return answers[l.Key].Also == "yes" }) {
		return
	}
	lines := make([]Line, 0, len(r.Lines))
	for _, l := range r.Lines {
		lines = append(lines, l)
		if answers[l.Key].Also != "yes" {
			continue
		}
		p.row, p.section, p.serving = l.Row, l.Section, l.Serving
		for _, also := range l.Also {
			lines = append(lines, p.keyed(Line{Kind: Weighed, Words: l.Words, Shares: true, Marks: l.Marks, Ingredient: also.ID,
				Name: also.Name, As: AsBowl, ToWeigh: true, How: "no amount was said of it: weigh it once"}.finish()))
		}
	}
	r.Lines = lines
}

// kind is what an ingredient and its states have in common: the name on a label.
func (b *Book) kind(id string) string {
	if g := b.Ingredients[id]; g != nil && g.Labels[law.GB] != "" {
		return g.Labels[law.GB]
	}
	return id
}

func idsOf(list []Candidate) []string {
	out := make([]string, len(list))
	for i, c := range list {
		out[i] = c.ID
	}
	return out
}
