package api

import (
	"encoding/base64"
	"fmt"
	"net/http"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/release"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/labstack/echo/v5"
)

func (s *server) ListLabels(c *echo.Context) error {
	v, err := s.app.Release.Labels(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddLabel(c *echo.Context, p AddLabelParams) error {
	in, err := body[AddLabelJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Release.NewLabel(c.Request().Context(), in.Formula, law.Regime(in.Regime),
		labelart.Size{WidthMM: in.WidthMm, HeightMM: in.HeightMm}, deref(in.Design))
	return answer(c, v, err)
}

func (s *server) GetLabel(c *echo.Context, id int64, p GetLabelParams) error {
	v, err := s.app.Release.Label(c.Request().Context(), id, orZero(p.Batch))
	return answer(c, v, err)
}

func (s *server) PutLabel(c *echo.Context, id int64, p PutLabelParams) error {
	in, err := body[PutLabelJSONBody](c)
	if err != nil {
		return err
	}
	size := labelart.Size{WidthMM: in.WidthMm, HeightMM: in.HeightMm}
	v, err := s.app.Release.SaveLabel(c.Request().Context(), id, size, in.Design, in.Confirm, p.Rev, orZero(p.Batch))
	return answer(c, v, err)
}

func (s *server) AnswerLabel(c *echo.Context, id int64, p AnswerLabelParams) error {
	in, err := body[AnswerLabelJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Release.AnswerLabel(c.Request().Context(), id, in.Answer, p.Rev, orZero(p.Batch))
	return answer(c, v, err)
}

func (s *server) SpoilLabels(c *echo.Context, id int64, p SpoilLabelsParams) error {
	in, err := body[SpoilLabelsJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Release.Spoil(c.Request().Context(), id, in.Batch, in.Count, p.Key)
	return answer(c, v, err)
}

func (s *server) PrintLabel(c *echo.Context, id int64, p PrintLabelParams) error {
	in, err := body[PrintLabelJSONBody](c)
	if err != nil {
		return err
	}
	run, err := s.app.Release.Print(c.Request().Context(), id, release.PrintAsk{Batch: in.Batch, Count: in.Count,
		From: deref(in.From), Sure: deref(in.Sure), Printer: deref(in.Printer),
		Part: deref(in.Part), Edition: deref(in.Edition)}, p.Key)
	if err != nil {
		return err
	}
	if run.Said != "" {
		c.Response().Header().Set("Gallipot-Printer", run.Said)
	} else {
		c.Response().Header().Set("Content-Disposition", fmt.Sprintf("inline; filename=%q", run.Name))
	}
	return c.Blob(http.StatusOK, "application/pdf", run.PDF)
}

// GetArtwork sends the label without date and lot, for a printing house.
func (s *server) GetArtwork(c *echo.Context, id int64) error {
	run, err := s.app.Release.Artwork(c.Request().Context(), id)
	if err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", run.Name))
	return c.Blob(http.StatusOK, "application/pdf", run.PDF)
}

func (s *server) GetMark(c *echo.Context) error {
	m, err := s.app.Office.Mark(c.Request().Context())
	if err != nil {
		return err
	}
	kind := map[string]string{"svg": "image/svg+xml", "png": "image/png"}[m.Kind]
	c.Response().Header().Set("Cache-Control", "no-cache")
	return c.Blob(http.StatusOK, kind, m.Body)
}

func (s *server) PutMark(c *echo.Context) error {
	in, err := body[PutMarkJSONBody](c)
	if err != nil {
		return err
	}
	raw, err := base64.StdEncoding.DecodeString(in.Mark)
	if err != nil {
		return kernel.Problem{Kind: kernel.Invalid, Code: "invalid", Message: "This file did not arrive whole.",
			Fields: []pantry.FieldError{{Field: "mark", Message: "This file did not arrive whole."}}}
	}
	if err := s.app.Office.SaveMark(c.Request().Context(), raw); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (s *server) DropMark(c *echo.Context) error {
	if err := s.app.Office.DropMark(c.Request().Context()); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}
