package api

import (
	"github.com/labstack/echo/v5"
)

func (s *server) GetToday(c *echo.Context) error {
	v, err := s.app.Office.Today(c.Request().Context())
	return answer(c, v, err)
}
