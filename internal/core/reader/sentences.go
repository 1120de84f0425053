package reader

import (
	"slices"
	"strings"

	"gallipot/internal/core/law"
)

// shortForms are written with a full stop that ends no sentence.
var shortForms = wordSet("tsp tsps tbsp tbsps tbs tbl oz lb lbs fl approx ca c g kg gr ml cl dl l pt qt pkg min mins hr hrs no e i vs etc")

// sentences splits a row where a sentence ends, as it is spoken or dictated into one long row. A sentence that only puts
// right what the one before said, or gives its amount, stays with it: Two lemons. No, three.
func (p *page) sentences(words string) []string {
	if !strings.ContainsAny(words, ".!?:") {
		return []string{words}
	}
	c := cursor(tokenise(words))
	begun := skipMarks(slices.Clone(c))
	runes := []rune(words)
	var out []string
	from, first := 0, begun
	if head := p.heads(c, begun); head > 0 {
		out = append(out, string(runes[:c[head].to]))
		from, first, begun = c[head].to, head+1, head+1
	}
	for i := begun; i+1 < len(c); i++ {
		if !c.endsSentence(i) || i <= first || p.belongs(c[first:i+1], c[i+1:]) {
			continue
		}
		out = append(out, string(runes[from:c[i].to]))
		from, first = c[i].to, i+1
	}
	return append(out, string(runes[from:]))
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
	if id, taken := p.book.Index.find(slices.Clone(c[from:at]), false); id != "" && len(taken) == at-from {
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
	if id, _ := p.book.Index.find(slices.Clone(next), false); id == "" && back && end+1 < len(rest) {
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
	named, _ := p.book.Index.find(slices.Clone(before), false)
	id, _ := p.book.Index.find(slices.Clone(next), false)
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
			if id, _ := p.book.Index.find(slices.Clone(c), false); id == "" && i > 0 {
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
			says = says || !talkWords[t.low] && !smallWords[t.low] && !leadWords[t.low] && !beforeName[t.low]
		}
	}
	if n == 0 || says && (n < shortestTalk || !talks) {
		return Line{}, false
	}
	l := Line{Kind: Remark, Words: words, Marks: []Mark{{0, len([]rune(words)), Note}}}
	if s := newSegment(words); !s.saysWithout() {
		for i := range s.cursor {
			s.mark(i, i+1, Note)
		}
		if also := s.aside(p.book.Index, nil); len(also) > 0 {
			l.Also, l.Questions = p.book.candidates(also), []Question{p.book.askAlso(also)}
		}
	}
	return l, true
}

// saysWithout reports whether a sentence says that something is left out.
func (s *segment) saysWithout() bool {
	s.deny()
	return s.denied
}

// alsoElsewhere drops what is asked to be a line of its own where a line has it already, in whatever state.
func (r *Reading) alsoElsewhere(b *Book) {
	has, said := map[string]bool{}, map[string]bool{}
	for _, l := range r.Lines {
		if l.Kind == Weighed && l.Ingredient != "" {
			for _, id := range append(slices.Clone(l.AnyOf), l.Ingredient) {
				has[b.kind(id)] = true
				said[b.kind(id)] = said[b.kind(id)] || l.Amount != nil
			}
		}
	}
	for i := range r.Lines {
		l := &r.Lines[i]
		if len(l.Also) == 0 {
			continue
		}
		bowl := l.Kind == Weighed && l.As == AsBowl
		l.Also = slices.DeleteFunc(l.Also, func(c Candidate) bool {
			return said[b.kind(c.ID)] || !bowl && has[b.kind(c.ID)]
		})
		l.drop("also")
		if ids := idsOf(l.Also); len(ids) > 0 {
			l.Questions = append(l.Questions, b.askAlso(ids))
		}
	}
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
