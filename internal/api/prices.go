package api

import (
	"bytes"
	"net/http"

	"gallipot/internal/interchange"

	"github.com/labstack/echo/v5"
)

func (s *server) GetPrices(c *echo.Context) error {
	rows, err := s.app.PriceList(c.Request().Context())
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

func (s *server) PostPrices(c *echo.Context, p PostPricesParams) error {
	rows, err := interchange.ReadPrices(c.Request().Body)
	if err != nil {
		return err
	}
	v, err := s.app.ImportPrices(c.Request().Context(), rows)
	return answer(c, v, err)
}
