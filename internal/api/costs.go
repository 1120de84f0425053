package api

import (
	"gallipot/internal/app"
	"gallipot/internal/core/formula"

	"github.com/labstack/echo/v5"
)

func (s *server) CostOf(c *echo.Context, id string, number int) error {
	ask, err := body[app.CostAsk](c)
	if err != nil {
		return err
	}
	v, err := s.app.Cost(c.Request().Context(), formula.Ref{Formula: id, Version: number}, ask)
	return answer(c, v, err)
}

func (s *server) VariancesOf(c *echo.Context, id string) error {
	v, err := s.app.VariancesOf(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) VarianceOfBatch(c *echo.Context, id int64) error {
	v, err := s.app.VarianceOf(c.Request().Context(), id)
	return answer(c, v, err)
}
