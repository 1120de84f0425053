package office

import (
	"context"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/field"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/people"
)

// SaveMark cleans and keeps the shop's mark, for all labels.
func (a *Room) SaveMark(ctx context.Context, raw []byte) error {
	if err := kernel.May(ctx, people.Owner, "What the shop works by"); err != nil {
		return err
	}
	clean, kind, err := labelart.CleanMark(raw)
	if err != nil {
		return kernel.Mistake("mark", "%s", field.Sentence(err.Error()))
	}
	return a.In(ctx, func(st kernel.Store) error {
		return st.SaveMark(kernel.ShopMark{Kind: kind, Body: clean}, kernel.Actor(ctx).Name)
	})
}

// DropMark takes the shop's mark off its labels.
func (a *Room) DropMark(ctx context.Context) error {
	if err := kernel.May(ctx, people.Owner, "What the shop works by"); err != nil {
		return err
	}
	return a.In(ctx, func(st kernel.Store) error { return st.DropMark() })
}

// Mark returns the shop's mark. Errors: ErrNotFound where it has none.
func (a *Room) Mark(ctx context.Context) (kernel.ShopMark, error) { return a.On(ctx).Mark() }
