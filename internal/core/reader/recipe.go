package reader

import (
	"fmt"
	"strings"
)

// MaxText is how much is read at once, in characters; what lies beyond is kept and said (handbook 02).
const MaxText = 20_000

// Answer is what the maker said to a line's questions.
type Answer struct {
	Ingredient string   `json:"ingredient,omitempty"`
	Grams      *float64 `json:"grams,omitempty"`
	As         string   `json:"as,omitempty"`      // bowl, topping, leave
	Units      string   `json:"units,omitempty"`   // first or second of two that disagree
	Also       string   `json:"also,omitempty"`    // yes or no: what is named aside is a line of its own
	OK         bool     `json:"ok,omitempty"`      // right as it stands
	Guessed    bool     `json:"guessed,omitempty"` // the grams are a guess and no weighing
	Pack       *float64 `json:"pack_g,omitempty"`  // what is on the tin, the jar or the packet
	Fill       string   `json:"fill,omitempty"`    // how the cup is filled
	ML         *float64 `json:"ml,omitempty"`      // what the measure holds
}

// Notice is something about the whole text.
type Notice struct {
	Code    string   `json:"code"`
	Text    string   `json:"text"`
	Options []string `json:"options,omitempty"` // what may be answered, under the notice's code as key
}

// Reading is a whole recipe as it was understood. Lines stand in the order of the words; together their words are the
// text.
type Reading struct {
	Lines      []Line   `json:"lines"`
	Notices    []Notice `json:"notices"`
	Total      float64  `json:"total_g"`
	Deviation  float64  `json:"deviation_g"`
	StillOpen  int      `json:"still_open"`
	WeighFirst []Rank   `json:"weigh_first"`
	SaidGrams  *float64 `json:"said_g"`
	SaidML     *float64 `json:"said_ml"`
	ClaimDays  *int     `json:"claim_days"`        // that the maker says it keeps
	Recipes    []Recipe `json:"recipes,omitempty"` // where more than one stands in the text
}

// Read reads a whole recipe. answers go by the key of a line. It never fails: what is not understood stays, marked.
func (b *Book) Read(text string, answers map[string]Answer) Reading {
	r := Reading{Lines: []Line{}, Notices: []Notice{}, WeighFirst: []Rank{}}
	text, beyond := cutText(text)
	state := page{book: b, seen: map[string]int{}, said: map[string]bool{}}
	rows := splitRows(text)
	r.Lines = make([]Line, 0, len(rows)+8)
	for row := range rows {
		state.row = row
		for _, l := range state.rowOf(rows, row) {
			if l.Kind == Remark && l.Fixed && !r.fixNamed(l.Ingredient) {
				r.fixLast()
			}
			r.Lines = append(r.Lines, l)
		}
		state.keep("\n")
	}
	if beyond != "" {
		r.Notices = append(r.Notices, Notice{Code: "too_long",
			Text: fmt.Sprintf("Only the first %d characters were read; the rest is kept as the last line.", MaxText)})
		state.row++
		r.Lines = append(r.Lines, state.keyed(Line{Kind: Unknown, Words: beyond}))
	}
	if state.control {
		r.Notices = append(r.Notices, Notice{Code: "control",
			Text: "Characters that cannot be printed were passed over; the words around them are kept."})
	}
	r.inPassing()
	r.alsoElsewhere(b)
	r.alsoLines(&state, answers)
	r.several(state.recipes, answers[recipesKey].Units)
	r.SaidGrams, r.SaidML, r.ClaimDays = state.saidGrams, state.saidML, state.claimDays
	if state.doubled {
		r.doubling(answers[doublingKey].Units)
	}
	for i := range r.Lines {
		b.answer(&r.Lines[i], answers[r.Lines[i].Key])
	}
	r.shareOut()
	r.sum(b)
	return r
}

// The answers for a recipe that mentions doubling, and the key they are kept under.
const (
	doublingKey = "doubling"
	toDouble    = "double"
	asItStands  = "single"
)

// doubling asks whether the amounts are doubled already, or doubles them (handbook 02).
func (r *Reading) doubling(answer string) {
	switch answer {
	case asItStands:
	case toDouble:
		for i := range r.Lines {
			l := &r.Lines[i]
			if l.Kind != Weighed || l.Fixed {
				continue
			}
			for k := range l.either {
				l.either[k].Grams, l.either[k].Times = 2*l.either[k].Grams, 2*l.either[k].Times
				l.either[k].How += ", doubled"
			}
			if l.Grams != nil {
				twice := 2 * *l.Grams
				l.Grams, l.Times, l.How = &twice, 2*l.Times, l.How+", doubled"
			}
		}
	default:
		r.StillOpen++
		r.Notices = append(r.Notices, Notice{Code: doublingKey,
			Text: "It speaks of doubling. Are the amounts doubled already?", Options: []string{toDouble, asItStands}})
	}
}

// cutText keeps what can be read at once, up to the end of a row where there is one.
func cutText(text string) (head, beyond string) {
	if len(text) <= MaxText { // no fewer bytes than characters
		return text, ""
	}
	runes := []rune(text)
	if len(runes) <= MaxText {
		return text, ""
	}
	at := MaxText
	for i := MaxText; i > MaxText-2000; i-- {
		if runes[i] == '\n' {
			at = i
			break
		}
	}
	return string(runes[:at]), strings.TrimPrefix(string(runes[at:]), "\n")
}

// rowEnds are what ends a row in pasted text.
var rowEnds = strings.NewReplacer("\r\n", "\n", "\r", "\n", "\u2028", "\n", "\u2029", "\n", "<br>", "<br>\n", "</li>",
	"</li>\n", "</p>", "</p>\n", "</h2>", "</h2>\n", "</h3>", "</h3>\n")

func splitRows(text string) []string { return strings.Split(rowEnds.Replace(text), "\n") }
