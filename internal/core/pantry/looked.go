package pantry

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/day"
	"gallipot/internal/core/law"
)

// Looked is somebody's statement that they read what is in an ingredient: from which packet or list, and how they
// answered what its words leave open. Texts are its names and lists as they were then; if they change, it must be
// looked at again.
type Looked struct {
	By      string   `json:"by"`
	On      day.Day  `json:"on"`
	From    string   `json:"from"`
	Texts   string   `json:"texts"`
	Answers []Answer `json:"answers,omitempty"`
}

// Answer is what somebody said to a question that words leave open.
type Answer struct {
	Ask  string `json:"ask"`
	Says string `json:"says"`
}

// Stated is a supplier's statement, by law, of what an ingredient may contain without being made from it.
type Stated struct {
	Allergens law.Each[[]string] `json:"allergens"`
	Words     string             `json:"words"` // as they stand on the packet
}

// Texts are the names and lists of the ingredient as one text.
func (g *Ingredient) Texts() string { return g.names() + between + g.lists() }

// Plain reports whether the ingredient is a single food: no list, nothing that its name leaves open.
func (g *Ingredient) Plain() bool {
	return !g.Has("compound") && g.lists() == "" && len(g.known().asks) == 0
}

// Asks are the questions that the ingredient's words leave open and nobody answered.
func (g *Ingredient) Asks() []string {
	return slices.DeleteFunc(slices.Clone(g.known().asks), func(ask string) bool {
		return g.Looked != nil && slices.ContainsFunc(g.Looked.Answers, func(a Answer) bool { return a.Ask == ask })
	})
}

// Open are the reasons why the ingredient counts as not looked at; none where somebody read what is in it and its names
// and list are still those. Of a locked version's ingredient it tells of the pantry's today.
func (g *Ingredient) Open() []string {
	if g.today != nil {
		return g.today.Open()
	}
	var out []string
	switch {
	case g.Looked == nil:
		out = append(out, "nobody has said yet what is in it")
	case g.Looked.Texts != g.Texts():
		out = append(out, fmt.Sprintf("its name or list changed since %s looked", g.Looked.By))
	}
	for _, ask := range g.Asks() {
		out = append(out, "its words leave open: "+ask)
	}
	return out
}

// AsToday makes a locked version's ingredient answer with today's record whether somebody looked at it, and be read
// with today's words.
func (g *Ingredient) AsToday(now *Ingredient) { g.today, g.Lexicon = now, now.Lexicon }

const (
	maxFrom   = 120
	maxAnswer = 200
)

// Look checks a look at the ingredient, whose ticks and lists are those looked at: it says from what, answers every
// question, and leaves nothing unticked that an answer or the packet's statement names. Errors: FieldErrors.
func (g *Ingredient) Look(l Looked) []FieldError {
	var errs []FieldError
	if n := len([]rune(strings.TrimSpace(l.From))); n == 0 || n > maxFrom {
		errs = append(errs, FieldError{Field: "from",
			Message: fmt.Sprintf("say what you read, in at most %d characters: the packet, the "+
				"supplier's sheet, the food itself", maxFrom)})
	}
	r := g.Reading()
	for i, ask := range r.Asks() {
		if bad := g.answered(ask, l.Answers); bad != "" {
			errs = append(errs, FieldError{Field: fmt.Sprintf("answers[%d]", i), Message: bad})
		}
	}
	for _, s := range r.Statements {
		if left := g.untold(s.Codes, g.MayContain); left != "" {
			errs = append(errs, FieldError{Field: "may_contain",
				Message: fmt.Sprintf("the list says that it may contain %s: tick it there", left)})
		}
	}
	return errs
}

// answered says what is wrong with the answer to what words leave open; empty for nothing.
func (g *Ingredient) answered(ask string, answers []Answer) string {
	at := slices.IndexFunc(answers, func(a Answer) bool { return a.Ask == ask })
	if at < 0 || strings.TrimSpace(answers[at].Says) == "" {
		return fmt.Sprintf("its words leave open “%s”: say which, or that it has none", ask)
	}
	says := answers[at].Says
	if len([]rune(says)) > maxAnswer {
		return fmt.Sprintf("to “%s” at most %d characters", ask, maxAnswer)
	}
	if ask == allergen.MayContain {
		return ""
	}
	named, r := law.Each[[]string]{}, g.Words().Read(says)
	for _, l := range laws {
		named[l.Regime] = r.Codes(l)
	}
	if left := g.untold(named, nil); left != "" {
		return fmt.Sprintf("the answer to “%s” names %s, which is not ticked: tick it, or say it without that word",
			ask,
			left)
	}
	return ""
}

// untold are the words of codes that the ingredient neither carries nor may contain by a statement, under the law that
// has most of them; empty for none.
func (g *Ingredient) untold(codes law.Each[[]string], stated *Stated) string {
	var out []string
	for _, l := range laws {
		told := slices.Clone(g.AllergensUnder(l))
		if stated != nil {
			told = append(told, stated.Allergens[l.Regime]...)
		}
		var left []string
		for _, code := range codes[l.Regime] {
			base, kind, _ := strings.Cut(code, ":")
			if !slices.ContainsFunc(told, func(has string) bool {
				return has == code || kind == law.UnnamedSpecies && strings.HasPrefix(has, base)
			}) {
				left = append(left, l.Word(code))
			}
		}
		if len(left) > len(out) {
			out = left
		}
	}
	return strings.Join(out, ", ")
}
