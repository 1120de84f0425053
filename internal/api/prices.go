package api

import (
	"bytes"
	"net/http"

	"gallipot/internal/app/catalog"
	"gallipot/internal/interchange"

	"github.com/labstack/echo/v5"
)

func (s *server) GetPrices(c *echo.Context) error {
	rows, err := s.app.Catalog.PriceList(c.Request().Context())
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if err := interchange.WritePrices(&b, rows); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="gallipot-prices.csv"`)
	return c.Blob(http.StatusOK, "text/csv; charset=utf-8", b.Bytes())
}

func (s *server) ReadPrices(c *echo.Context) error {
	f, err := body[catalog.PriceFile](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.ReadPrices(c.Request().Context(), f, interchange.ReadPrices)
	return answer(c, v, err)
}

func (s *server) PostPrices(c *echo.Context, p PostPricesParams) error {
	f, err := body[catalog.PriceFile](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.ImportPrices(c.Request().Context(), f, interchange.ReadPrices)
	return answer(c, v, err)
}
