package api

import (
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/day"

	"github.com/labstack/echo/v5"
)

func (s *server) ListParties(c *echo.Context) error {
	v, err := s.app.Production.Parties(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddParty(c *echo.Context, p AddPartyParams) error {
	in, err := body[AddPartyJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Production.AddParty(c.Request().Context(), kernel.Party{Name: in.Name, Kind: in.Kind,
		Contact: deref(in.Contact),
		Day:     day.Day(deref(in.Day))})
	return answer(c, v, err)
}

func (s *server) PutParty(c *echo.Context, id int64, p PutPartyParams) error {
	in, err := body[kernel.Party](c)
	if err != nil {
		return err
	}
	in.ID = id
	v, err := s.app.Production.SaveParty(kernel.Because(c.Request().Context(), deref(p.Why)), in)
	return answer(c, v, err)
}
