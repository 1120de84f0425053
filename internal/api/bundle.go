package api

import (
	"bytes"
	"net/http"

	"gallipot/internal/interchange"

	"github.com/labstack/echo/v5"
)

func (s *server) GetBundle(c *echo.Context) error {
	b, err := s.app.Office.Export(c.Request().Context())
	if err != nil {
		return err
	}
	var out bytes.Buffer
	if err := interchange.WriteBundle(&out, b); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="gallipot.bundle.json"`)
	return c.JSONBlob(http.StatusOK, out.Bytes())
}

func (s *server) PostBundle(c *echo.Context, p PostBundleParams) error {
	b, err := interchange.ReadBundle(c.Request().Body)
	if err != nil {
		return err
	}
	v, err := s.app.Office.Import(c.Request().Context(), b, p.Apply != nil && *p.Apply)
	return answer(c, v, err)
}
