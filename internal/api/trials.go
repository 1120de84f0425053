package api

import (
	"gallipot/internal/app/catalog"
	"gallipot/internal/core/formula"

	"github.com/labstack/echo/v5"
)

func (s *server) ListTrials(c *echo.Context, id string) error {
	v, err := s.app.Catalog.Trials(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) SaveTrial(c *echo.Context, id string, p SaveTrialParams) error {
	in, err := body[formula.Trial](c)
	if err != nil {
		return err
	}
	rev := 0
	if p.Rev != nil {
		rev = *p.Rev
	}
	v, err := s.app.Catalog.SaveTrial(c.Request().Context(), id, in, rev)
	return answer(c, v, err)
}

func (s *server) DropTrial(c *echo.Context, id string, trial int64, p DropTrialParams) error {
	v, err := s.app.Catalog.DropTrial(c.Request().Context(), id, trial, p.Why)
	return answer(c, v, err)
}

func (s *server) Standardise(c *echo.Context, id string) error {
	in, err := body[catalog.Choice](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.Standardise(c.Request().Context(), id, in)
	return answer(c, v, err)
}

func (s *server) StandardDraft(c *echo.Context, id string, p StandardDraftParams) error {
	in, err := body[catalog.Choice](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.StandardDraft(c.Request().Context(), id, in)
	return answer(c, v, err)
}
