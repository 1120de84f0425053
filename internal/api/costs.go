package api

import (
	"bytes"
	"fmt"
	"io"
	"net/http"

	"gallipot/internal/app/catalog"
	"gallipot/internal/core/formula"
	"gallipot/internal/interchange"

	"github.com/labstack/echo/v5"
)

func (s *server) CostOf(c *echo.Context, id string, number int) error {
	ask, err := body[catalog.CostAsk](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.Cost(c.Request().Context(), formula.Ref{Formula: id, Version: number}, ask)
	return answer(c, v, err)
}

func (s *server) VariancesOf(c *echo.Context, id string) error {
	v, err := s.app.Production.VariancesOf(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) VarianceOfBatch(c *echo.Context, id int64) error {
	v, err := s.app.Production.VarianceOf(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) GetCostFile(c *echo.Context, id string, number int, p GetCostFileParams) error {
	return s.costFile(c, id, number, catalog.CostAsk{Jars: deref(p.Jars), Vessel: p.In}, "xlsx",
		"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", interchange.WriteCost)
}

func (s *server) GetCostTable(c *echo.Context, id string, number int, p GetCostTableParams) error {
	return s.costFile(c, id, number, catalog.CostAsk{Jars: deref(p.Jars), Vessel: p.In}, "csv",
		"text/csv; charset=utf-8",
		interchange.WriteCostCSV)
}

// costFile sends what a jar costs as a file to keep.
func (s *server) costFile(c *echo.Context, id string, number int, ask catalog.CostAsk, ending, media string,
	write func(io.Writer, catalog.CostView, string) error) error {
	ctx := c.Request().Context()
	shop, err := s.app.Office.Shop(ctx)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.Cost(ctx, formula.Ref{Formula: id, Version: number}, ask)
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if err := write(&b, v, shop.Currency); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s-%d-cost.%s"`, id, number,
		ending))
	return c.Blob(http.StatusOK, media, b.Bytes())
}
