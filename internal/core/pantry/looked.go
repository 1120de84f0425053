package pantry

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/law"
)

// Looked is somebody's word that they read what is in an ingredient: from which packet or list, and what they answered
// to what its words leave open. Texts are its names and lists as they were read; other ones open it again.
type Looked struct {
	By      string   `json:"by"`
	On      string   `json:"on"`
	From    string   `json:"from"`
	Texts   string   `json:"texts"`
	Answers []Answer `json:"answers,omitempty"`
}

// Answer is what somebody said to a question that words leave open.
type Answer struct {
	Ask  string `json:"ask"`
	Says string `json:"says"`
}

// Stated is a supplier's word of what an ingredient may contain without being made of it, by law.
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

// AsToday makes a locked version's ingredient tell of today's where it is asked whether somebody looked at it, and be
// read by today's words.
func (g *Ingredient) AsToday(now *Ingredient) { g.today, g.Lexicon = now, now.Lexicon }

const (
	maxFrom   = 120
	maxAnswer = 200
)

// Look checks a look at the ingredient: it says from what, and answers every question. Errors: FieldErrors.
func (g *Ingredient) Look(l Looked) []FieldError {
	var errs []FieldError
	if n := len([]rune(strings.TrimSpace(l.From))); n == 0 || n > maxFrom {
		errs = append(errs, FieldError{"from",
			fmt.Sprintf("say what you read, in at most %d characters: the packet, the "+
				"supplier's sheet, the food itself", maxFrom)})
	}
	for i, ask := range g.Reading().Asks() {
		at := slices.IndexFunc(l.Answers, func(a Answer) bool { return a.Ask == ask })
		if at < 0 || strings.TrimSpace(l.Answers[at].Says) == "" {
			errs = append(errs, FieldError{fmt.Sprintf("answers[%d]", i),
				fmt.Sprintf("its words leave open “%s”: say which, "+
					"or that it has none", ask)})
		} else if len([]rune(l.Answers[at].Says)) > maxAnswer {
			errs = append(errs, FieldError{fmt.Sprintf("answers[%d]", i),
				fmt.Sprintf("at most %d characters", maxAnswer)})
		}
	}
	return errs
}
