package api

import (
	"github.com/labstack/echo/v5"
)

func (s *server) GetHistory(c *echo.Context, p GetHistoryParams) error {
	before := int64(0)
	if p.Before != nil {
		before = *p.Before
	}
	v, err := s.app.History(c.Request().Context(), string(p.Of), deref(p.Id), before)
	return answer(c, v, err)
}
