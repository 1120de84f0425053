package api

import (
	"fmt"
	"io"
	"net/http"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/interchange"

	"github.com/labstack/echo/v5"
)

func (s *server) GetStock(c *echo.Context) error {
	v, err := s.app.Production.StockOf(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) ListLots(c *echo.Context, p ListLotsParams) error {
	q := kernel.StockQuery{Show: "there", Ingredient: deref(p.Of), Find: deref(p.Find)}
	if p.Show != nil {
		q.Show = string(*p.Show)
	}
	v, err := s.app.Production.ListOfLots(c.Request().Context(), q)
	return answer(c, v, err)
}

func (s *server) GetLot(c *echo.Context, id int64) error {
	v, err := s.app.Production.Lot(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) ActOnLot(c *echo.Context, id int64, p ActOnLotParams) error {
	in, err := body[NewLotEntry](c)
	if err != nil {
		return err
	}
	act := in.details()
	if act == nil {
		return mistake("kind", entry.KindError{Kind: string(in.Kind)}.Error())
	}
	v, err := s.app.Production.ActOnLot(c.Request().Context(), id, act, p.Key)
	return answer(c, v, err)
}

// details returns the body of the act's kind, or nil if it is missing.
func (in NewLotEntry) details() any {
	switch {
	case in.Kind == "corrected" && in.Corrected != nil:
		return in.Corrected
	case in.Kind == "accepted" && in.Accepted != nil:
		return in.Accepted
	case in.Kind == "refused" && in.Refused != nil:
		return in.Refused
	case in.Kind == "held" && in.Held != nil:
		return in.Held
	case in.Kind == "freed" && in.Freed != nil:
		return in.Freed
	case in.Kind == "compared" && in.Compared != nil:
		return in.Compared
	case in.Kind == "counted" && in.Counted != nil:
		return in.Counted
	case in.Kind == "stated" && in.Stated != nil:
		return in.Stated
	case in.Kind == "roasted" && in.Roasted != nil:
		return in.Roasted
	case in.Kind == "thawed" && in.Thawed != nil:
		return in.Thawed
	}
	return nil
}

func (s *server) FreezeLot(c *echo.Context, id int64, p FreezeLotParams) error {
	in, err := body[FreezeLotJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Production.Freeze(c.Request().Context(), id, amount.G(in.Grams), day.Day(in.Day))
	return answer(c, v, err)
}

func (s *server) GetSticker(c *echo.Context, id int64, p GetStickerParams) error {
	count := 1
	if p.Count != nil {
		count = *p.Count
	}
	run, err := s.app.Production.Sticker(c.Request().Context(), id, count)
	if err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("inline; filename=%q", run.Name))
	return c.Blob(http.StatusOK, "application/pdf", run.PDF)
}

func (s *server) Receive(c *echo.Context, p ReceiveParams) error {
	in, err := body[production.NewDelivery](c)
	if err != nil {
		return err
	}
	v, err := s.app.Production.Receive(c.Request().Context(), in)
	return answer(c, v, err)
}

func (s *server) LookOver(c *echo.Context) error {
	in, err := body[production.NewDelivery](c)
	if err != nil {
		return err
	}
	v, err := s.app.Production.LookOver(c.Request().Context(), in)
	return answer(c, v, err)
}

func (s *server) ReadDelivery(c *echo.Context) error {
	raw, err := io.ReadAll(io.LimitReader(c.Request().Body, interchange.MaxDeliveryBytes+1))
	if err != nil {
		return err
	}
	rows, err := interchange.ReadDelivery(raw)
	if err != nil {
		return err
	}
	v, err := s.app.Production.LookOverRead(c.Request().Context(), rows)
	return answer(c, v, err)
}

func (s *server) LotsForBatch(c *echo.Context, id int64) error {
	v, err := s.app.Production.LotsFor(c.Request().Context(), id)
	return answer(c, v, err)
}
