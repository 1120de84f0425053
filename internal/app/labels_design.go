package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/assess"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"
)

// LabelDesign is how a label looks and what its maker decided about it.
type LabelDesign struct {
	Form         string       `json:"form"`
	Stock        string       `json:"stock,omitempty"`  // paper of the shop; empty: a size of its own
	Jar          string       `json:"jar,omitempty"`    // where the version names none
	Colour       string       `json:"colour,omitempty"` // of the band; empty: the shop's
	Mono         bool         `json:"mono,omitempty"`   // printed in black alone
	Barcode      string       `json:"barcode,omitempty"`
	QR           string       `json:"qr,omitempty"`
	Nutrition    string       `json:"nutrition,omitempty"` // shown, or the key of an exemption
	ServingGrams float64      `json:"serving_g,omitempty"` // the shop's own serving
	Claims       []LabelClaim `json:"claims,omitempty"`

	// the maker's answers to what the list asks
	Named       []string `json:"named,omitempty"`        // what the name or a picture features
	NotNamed    []string `json:"not_named,omitempty"`    // what shares a word with the name and only flavours
	NothingElse string   `json:"nothing_else,omitempty"` // the name of which it was said
	NameSays    string   `json:"name_says,omitempty"`    // the name that says what it is
}

// LabelClaim is a claim that a label makes: one that has a rule, with what is shown for it, or words of the maker's
// own with the figure and the rule they stand on.
type LabelClaim struct {
	Key   string `json:"key,omitempty"`
	Words string `json:"words,omitempty"`
	Shown string `json:"shown,omitempty"`
}

// usualForm is how a new label looks.
const usualForm = labelart.Banded

func (d LabelDesign) form() string {
	if d.Form == "" {
		return labelart.Plain // labels from before there were others
	}
	return d.Form
}

const (
	mostClaims     = 8
	mostClaimWords = 80
	mostShown      = 300
	mostServing    = 1000
)

// check reports what cannot be, in the place where it was typed.
func (d LabelDesign) check(s Settings) error {
	if err := (labelart.Design{Form: d.form(), Colour: d.Colour}).Check(); err != nil {
		return field("design.form", "%s", err.Error())
	}
	if _, have := s.stock(d.Stock); d.Stock != "" && !have {
		return field("design.stock", "choose one of the shop's papers")
	}
	if d.Jar != "" && !s.jar(d.Jar).Sized() {
		return field("design.jar", "choose a jar of the shop whose sizes are known")
	}
	if err := labelart.CheckBarcode(d.Barcode); err != nil {
		return field("design.barcode", "%s", sentence(err.Error()))
	}
	if err := labelart.CheckQR(d.QR); err != nil {
		return field("design.qr", "%s", sentence(err.Error()))
	}
	if !(d.ServingGrams >= 0 && d.ServingGrams <= mostServing) {
		return field("design.serving_g", "between 0 and %d g", mostServing)
	}
	return d.checkClaims()
}

func (d LabelDesign) checkClaims() error {
	if len(d.Claims) > mostClaims {
		return field("design.claims", "at most %d claims", mostClaims)
	}
	for i, c := range d.Claims {
		at := fmt.Sprintf("design.claims[%d]", i)
		_, ruled := claimRule(c.Key)
		switch words := strings.TrimSpace(c.Words); {
		case c.Key != "" && !ruled:
			return field(at+".key", "there is no rule for this claim")
		case c.Key == "" && (words == "" || len([]rune(words)) > mostClaimWords):
			return field(at+".words", "1 to %d characters", mostClaimWords)
		case len([]rune(c.Shown)) > mostShown:
			return field(at+".shown", "at most %d characters", mostShown)
		}
	}
	return nil
}

func claimRule(key string) (assess.ClaimRule, bool) {
	for _, r := range assess.ClaimRules() {
		if r.Key == key {
			return r, true
		}
	}
	return assess.ClaimRule{}, false
}

// claims are the verdicts on what a label claims, and the words of those that hold.
func (d LabelDesign) claims(p assess.Panel, under *law.Law) (verdicts []labelart.ClaimVerdict, words string) {
	var hold []string
	for _, c := range d.Claims {
		v := labelart.ClaimVerdict{Words: c.Words, Breaks: []string{}, Because: "shown: " + c.Shown}
		if rule, ruled := claimRule(c.Key); ruled {
			v.Words, v.Breaks, v.Because = p.ClaimWords(rule, under), p.ClaimBreaks(rule), rule.Because
			switch {
			case len(v.Breaks) > 0:
			case rule.Shows != "" && c.Shown == "":
				v.Breaks, v.Because = []string{"nothing is shown for it"}, "it needs "+rule.Shows
			case rule.Shows != "":
				v.Because = "shown: " + c.Shown
			default:
				v.Because = "no ingredient speaks against it"
			}
		} else if c.Shown == "" {
			v.Breaks = []string{"neither is entered"}
			v.Because = "words on nutrients, health or origin need their figure and the rule it meets"
		}
		if len(v.Breaks) == 0 {
			hold = append(hold, v.Words+".")
		}
		verdicts = append(verdicts, v)
	}
	return verdicts, strings.Join(hold, " ")
}

// ownClaims reports whether a label says something about nutrients or health, which takes an exemption from the panel
// away.
func (d LabelDesign) ownClaims() bool {
	return slices.ContainsFunc(d.Claims, func(c LabelClaim) bool { return c.Key == "" || c.Key == assess.NoAddedSugar })
}

// jarOf is the jar of a version, else the one that was chosen on the label.
func (d LabelDesign) jarOf(s Settings, v formula.Version) pack.Jar {
	if j := s.jar(v.Jar); j.Sized() {
		return j
	}
	return s.jar(d.Jar)
}

// paper is what a label is printed on, by its size.
func (l Label) paper(s Settings) labelart.Stock {
	if k, have := s.stock(l.Design.Stock); have {
		return k
	}
	return labelart.Stock{Kind: labelart.Single, Name: "single", WidthMM: l.WidthMM, HeightMM: l.HeightMM}
}

// answer is what an answer of the check list changes. name is that of the product on this label.
func (d *LabelDesign) answer(key, name string) error {
	what, of, _ := strings.Cut(key, ":")
	drop := func(list []string) []string { return slices.DeleteFunc(list, func(s string) bool { return s == of }) }
	of = strings.TrimSpace(of)
	switch {
	case what == "named" && of != "" && len(d.Named) < mostNamed:
		d.NotNamed, d.Named = drop(d.NotNamed), append(drop(d.Named), of)
	case what == "not" && of != "" && len(d.NotNamed) < mostNamed:
		d.Named, d.NotNamed = drop(d.Named), append(drop(d.NotNamed), of)
	case key == "nothing_else":
		d.NothingElse = name
	case key == "name_says":
		d.NameSays = name
	case what == "nutrition" && of != "":
		d.Nutrition = of
	case what == "jar" && of != "":
		d.Jar = of
	case key == "again:quid":
		d.Named, d.NotNamed, d.NothingElse = nil, nil, ""
	case key == "again:legal_name":
		d.NameSays = ""
	case key == "again:nutrition":
		d.Nutrition = ""
	case key == "again:jar":
		d.Jar = ""
	default:
		return field("answer", "this is none of the answers")
	}
	return nil
}

const mostNamed = 30

// AnswerLabel answers a point of a label's check list. A label that was up to date stays so: its words are those that
// the answer makes.
func (a *App) AnswerLabel(ctx context.Context, id int64, answer string, rev int, batch int64) (LabelView, error) {
	return a.changeLabel(ctx, id, rev, batch, func(st Store, row *Label, s Settings) error {
		if strings.HasPrefix(answer, "nutrition:") {
			if err := exempts(*row, strings.TrimPrefix(answer, "nutrition:")); err != nil {
				return err
			}
		}
		return a.keepingUp(st, row, func(name string) error {
			if err := row.Design.answer(answer, name); err != nil {
				return err
			}
			return row.Design.check(s)
		})
	})
}

// exempts refuses an answer that is no exemption of the law.
func exempts(row Label, key string) error {
	under, err := law.Of(row.Regime)
	if err != nil {
		return err
	}
	offered := func(x law.Exemption) bool { return x.Key == key }
	if key == labelart.Shown || slices.ContainsFunc(under.Exemptions, offered) {
		return nil
	}
	return field("answer", "this is none of the answers")
}

// keepingUp changes a design; a label that was up to date takes the words that come of it.
func (a *App) keepingUp(st Store, row *Label, change func(name string) error) error {
	v, err := newestLocked(st, row.FormulaID)
	if err != nil {
		return err
	}
	under, err := law.Of(row.Regime)
	if err != nil {
		return err
	}
	before, err := a.labelFacts(st, v, *row, under)
	if err != nil {
		return err
	}
	current := row.Facts.equal(before)
	if err := change(before.Name); err != nil || !current {
		return err
	}
	row.Facts, err = a.labelFacts(st, v, *row, under)
	row.Version = v.Number
	return err
}

// changeLabel changes a label over a revision and shows it.
func (a *App) changeLabel(ctx context.Context, id int64, rev int, batch int64,
	change func(st Store, row *Label, s Settings) error) (LabelView, error) {
	by, err := person(ctx)
	if err != nil {
		return LabelView{}, err
	}
	var out LabelView
	err = a.in(ctx, func(st Store) error {
		row, err := st.Label(id)
		if err != nil {
			return err
		}
		s, _, err := a.settings(st)
		if err != nil {
			return err
		}
		if err := change(st, &row, s); err != nil {
			return err
		}
		row.UpdatedBy = by
		if err := st.SaveLabel(row, rev); errors.Is(err, ErrConflict) {
			current, err := a.labelView(st, id, batch)
			if err != nil {
				return err
			}
			return Problem{Kind: Clash, Code: "changed_meanwhile", Current: current,
				Message: "This label was changed meanwhile. It is shown as it is now; what you just chose was not stored."}
		} else if err != nil {
			return err
		}
		out, err = a.labelView(st, id, batch)
		return err
	})
	return out, err
}
