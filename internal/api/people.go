package api

import (
	"github.com/labstack/echo/v5"
)

func (s *server) ListPeople(c *echo.Context) error {
	v, err := s.app.People(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddPerson(c *echo.Context, _ AddPersonParams) error {
	in, err := body[AddPersonJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.AddPerson(c.Request().Context(), in.Name)
	return answer(c, v, err)
}
