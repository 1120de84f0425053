package api

import (
	"gallipot/internal/app/kernel"

	"github.com/labstack/echo/v5"
)

func (s *server) ListIngredients(c *echo.Context) error {
	v, err := s.app.Catalog.Pantry(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddIngredient(c *echo.Context, p AddIngredientParams) error {
	in, err := body[Ingredient](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.AddIngredient(c.Request().Context(), in)
	return answer(c, v, err)
}

func (s *server) GetIngredient(c *echo.Context, id string) error {
	v, err := s.app.Catalog.Ingredient(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) PutIngredient(c *echo.Context, id string, p PutIngredientParams) error {
	in, err := body[Ingredient](c)
	if err != nil {
		return err
	}
	in.ID = id
	v, err := s.app.Catalog.SaveIngredient(kernel.Because(c.Request().Context(), deref(p.Why)), in,
		p.Retired != nil && *p.Retired,
		p.Rev)
	return answer(c, v, err)
}

func (s *server) CheckSupplierList(c *echo.Context) error {
	in, err := body[CheckSupplierListJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.CheckSupplierList(in.Text)
	return answer(c, v, err)
}

func (s *server) PutMeasure(c *echo.Context, id, measure string) error {
	in, err := body[PutMeasureJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.SaveHouseMeasure(c.Request().Context(), id, measure, in.Weighings, deref(in.Note))
	return answer(c, v, err)
}

func (s *server) DropMeasure(c *echo.Context, id, measure string, p DropMeasureParams) error {
	v, err := s.app.Catalog.DropHouseMeasure(c.Request().Context(), id, measure, p.Why)
	return answer(c, v, err)
}
