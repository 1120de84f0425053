package api

import (
	"fmt"
	"net/http"

	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"

	"github.com/labstack/echo/v5"
)

func (s *server) ListLabels(c *echo.Context) error {
	v, err := s.app.Labels(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddLabel(c *echo.Context, p AddLabelParams) error {
	in, err := body[AddLabelJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.NewLabel(c.Request().Context(), in.Formula, law.Regime(in.Regime),
		labelart.Stock{WidthMM: in.WidthMm, HeightMM: in.HeightMm})
	return answer(c, v, err)
}

func (s *server) GetLabel(c *echo.Context, id int64, p GetLabelParams) error {
	v, err := s.app.Label(c.Request().Context(), id, orZero(p.Batch))
	return answer(c, v, err)
}

func (s *server) PutLabel(c *echo.Context, id int64, p PutLabelParams) error {
	in, err := body[PutLabelJSONBody](c)
	if err != nil {
		return err
	}
	stock := labelart.Stock{WidthMM: in.WidthMm, HeightMM: in.HeightMm}
	v, err := s.app.SaveLabel(c.Request().Context(), id, stock, in.Confirm, p.Rev, orZero(p.Batch))
	return answer(c, v, err)
}

func (s *server) PrintLabel(c *echo.Context, id int64, p PrintLabelParams) error {
	in, err := body[PrintLabelJSONBody](c)
	if err != nil {
		return err
	}
	if in.Printer != nil {
		run, err := s.app.PrintOn(c.Request().Context(), *in.Printer, id, in.Batch, in.Count, p.Key)
		if err != nil {
			return err
		}
		c.Response().Header().Set("Gallipot-Printer", run.Said)
		return c.Blob(http.StatusOK, "application/pdf", run.PDF)
	}
	run, err := s.app.Print(c.Request().Context(), id, in.Batch, in.Count, p.Key)
	if err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("inline; filename=%q", run.Name))
	return c.Blob(http.StatusOK, "application/pdf", run.PDF)
}
