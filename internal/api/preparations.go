package api

import (
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/pantry"

	"github.com/labstack/echo/v5"
)

func (s *server) ListPreparations(c *echo.Context) error {
	v, err := s.app.Catalog.Preparations(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddPreparation(c *echo.Context, p AddPreparationParams) error {
	in, err := body[pantry.Preparation](c)
	if err != nil {
		return err
	}
	in.ID = ""
	v, err := s.app.Catalog.SavePreparation(c.Request().Context(), in, 0)
	return answer(c, v, err)
}

func (s *server) GetPreparation(c *echo.Context, id string) error {
	v, err := s.app.Catalog.Preparation(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) PutPreparation(c *echo.Context, id string, p PutPreparationParams) error {
	in, err := body[pantry.Preparation](c)
	if err != nil {
		return err
	}
	in.ID = id
	v, err := s.app.Catalog.SavePreparation(kernel.Because(c.Request().Context(), deref(p.Why)), in, p.Rev)
	return answer(c, v, err)
}

func (s *server) AddYield(c *echo.Context, id string, p AddYieldParams) error {
	in, err := body[pantry.YieldTrial](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.AddYield(c.Request().Context(), id, in, p.Rev)
	return answer(c, v, err)
}

func (s *server) DropYield(c *echo.Context, id string, index int, p DropYieldParams) error {
	v, err := s.app.Catalog.DropYield(c.Request().Context(), id, index, p.Rev)
	return answer(c, v, err)
}

func (s *server) LessWater(c *echo.Context, id string) error {
	v, err := s.app.Catalog.LessWater(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) CompareRoutes(c *echo.Context) error {
	in, err := body[CompareRoutesJSONBody](c)
	if err != nil {
		return err
	}
	co := 0.0
	if in.CoOutG != nil {
		co = *in.CoOutG
	}
	v, err := s.app.Catalog.CompareRoutes(c.Request().Context(), in.Routes, in.OutG, co)
	return answer(c, v, err)
}
