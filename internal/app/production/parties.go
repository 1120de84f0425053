package production

import (
	"context"
	"errors"

	"gallipot/internal/app/kernel"
)

// Parties lists who may have jars.
func (a *Room) Parties(ctx context.Context) ([]kernel.Party, error) { return a.On(ctx).Parties() }

// AddParty adds a customer or a market day.
func (a *Room) AddParty(ctx context.Context, p kernel.Party) (kernel.Party, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return p, err
	}
	p = p.Tidied()
	if errs := p.Check(); len(errs) > 0 {
		return p, kernel.Mistakes(errs...)
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (kernel.Party, error) {
		p.Rev = 1
		return p, nameTaken(st.AddParty(&p))
	})
}

// SaveParty changes how a party is called or reached. What moved jars told of them stays as it was.
func (a *Room) SaveParty(ctx context.Context, p kernel.Party) (kernel.Party, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return p, err
	}
	p = p.Tidied()
	if errs := p.Check(); len(errs) > 0 {
		return p, kernel.Mistakes(errs...)
	}
	err := a.In(ctx, func(st kernel.Store) error {
		was, err := st.Party(p.ID)
		if err != nil {
			return err
		}
		if err := a.Retires(ctx, was.Retired, p.Retired); err != nil {
			return err
		}
		err = st.PutParty(p, p.Rev)
		if errors.Is(err, kernel.ErrConflict) {
			return kernel.Problem{Kind: kernel.Clash, Code: "changed_meanwhile",
				Message: "This was changed meanwhile; look at it again.",
				Current: was}
		}
		p.Rev++
		return nameTaken(err)
	})
	return p, err
}

func nameTaken(err error) error {
	if errors.Is(err, kernel.ErrTaken) {
		return kernel.Mistake("name", "somebody of this name is in the list already")
	}
	return err
}
