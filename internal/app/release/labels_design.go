package release

import (
	"context"
	"errors"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/shop"
)

// usualForm is how a new label looks.
const usualForm = labelart.Banded

// AnswerLabel answers a point of a label's check list. A label that was up to date stays so, with the words that
// result.
func (a *Room) AnswerLabel(ctx context.Context, id int64, answer string, rev int, batch int64) (LabelView, error) {
	return a.changeLabel(ctx, id, rev, batch, func(st kernel.Store, row *kernel.Label, s shop.Settings) error {
		if strings.HasPrefix(answer, "nutrition:") {
			if err := exempts(*row, strings.TrimPrefix(answer, "nutrition:")); err != nil {
				return err
			}
		}
		return a.keepingUp(st, row, func(name string) error {
			if err := row.Design.Answer(answer, name); err != nil {
				return err
			}
			return row.Design.Check(s)
		})
	})
}

// exempts refuses an answer that the law does not exempt.
func exempts(row kernel.Label, key string) error {
	under, err := law.Of(row.Regime)
	if err != nil {
		return err
	}
	offered := func(x law.Exemption) bool { return x.Key == key }
	if key == labelart.Shown || slices.ContainsFunc(under.Exemptions, offered) {
		return nil
	}
	return kernel.Mistake("answer", "this is none of the answers")
}

// keepingUp changes a design. A label that was up to date takes the resulting words.
func (a *Room) keepingUp(st kernel.Store, row *kernel.Label, change func(name string) error) error {
	v, err := kernel.NewestLocked(st, row.FormulaID)
	if err != nil {
		return err
	}
	under, err := law.Of(row.Regime)
	if err != nil {
		return err
	}
	before, err := a.LabelFacts(st, v, *row, under)
	if err != nil {
		return err
	}
	current := row.Facts.Equal(before)
	if err := change(before.Name); err != nil || !current {
		return err
	}
	row.Facts, err = a.LabelFacts(st, v, *row, under)
	row.Version = v.Number
	return err
}

// changeLabel changes a label over a revision and shows it.
func (a *Room) changeLabel(ctx context.Context, id int64, rev int, batch int64,
	change func(st kernel.Store, row *kernel.Label, s shop.Settings) error) (LabelView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return LabelView{}, err
	}
	var out LabelView
	err = a.In(ctx, func(st kernel.Store) error {
		row, err := st.Label(id)
		if err != nil {
			return err
		}
		s, _, err := a.Settings(st)
		if err != nil {
			return err
		}
		if err := change(st, &row, s); err != nil {
			return err
		}
		row.UpdatedBy = by
		if err := st.SaveLabel(row, rev); errors.Is(err, kernel.ErrConflict) {
			current, err := a.labelView(st, id, batch)
			if err != nil {
				return err
			}
			return kernel.Problem{Kind: kernel.Clash, Code: "changed_meanwhile", Current: current,
				Message: "This label was changed meanwhile. It is shown as it is now; what you just chose was not stored."}
		} else if err != nil {
			return err
		}
		out, err = a.labelView(st, id, batch)
		return err
	})
	return out, err
}
