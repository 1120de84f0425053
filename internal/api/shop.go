package api

import (
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/shop"

	"github.com/labstack/echo/v5"
)

func (s *server) GetShop(c *echo.Context) error {
	v, err := s.app.Office.Shop(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) PutShop(c *echo.Context, p PutShopParams) error {
	in, err := body[shop.Settings](c)
	if err != nil {
		return err
	}
	v, err := s.app.Office.SaveShop(kernel.Because(c.Request().Context(), deref(p.Why)), in, p.Rev)
	return answer(c, v, err)
}
