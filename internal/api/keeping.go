package api

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"

	"gallipot/internal/app/kernel"

	"github.com/labstack/echo/v5"
)

func (s *server) ListRules(c *echo.Context) error {
	v, err := s.app.Release.Rules(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) ListDates(c *echo.Context) error {
	v, err := s.app.Release.Dates(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) ListEvidence(c *echo.Context, p ListEvidenceParams) error {
	id := ""
	if p.Formula != nil {
		id = *p.Formula
	}
	v, err := s.app.Release.Evidence(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) AttachEvidence(c *echo.Context, p AttachEvidenceParams) error {
	e := kernel.Evidence{FormulaID: c.FormValue("formula"), AttachedWhy: c.FormValue("why")}
	if err := json.Unmarshal([]byte(c.FormValue("covers")), &e.Document); err != nil {
		return mistake("covers", "say what the document covers")
	}
	e.ID, e.Kind, e.Title, e.Days, e.Fingerprint = 0, c.FormValue("kind"), c.FormValue("title"), nil, ""
	if text := strings.TrimSpace(c.FormValue("days")); text != "" {
		n, err := strconv.Atoi(text)
		if err != nil {
			return mistake("days", "whole days, as in 21")
		}
		e.Days = &n
	}
	file, err := c.FormFile("file")
	if err != nil {
		return mistake("file", "attach the document itself")
	}
	src, err := file.Open()
	if err != nil {
		return err
	}
	defer src.Close()
	if e.Content, err = io.ReadAll(src); err != nil {
		return err
	}
	e.FileName, e.MediaType = file.Filename, http.DetectContentType(e.Content)
	v, err := s.app.Release.Attach(kernel.WithErrandDigest(c.Request().Context(), e), e)
	return answer(c, v, err)
}

func (s *server) GetEvidence(c *echo.Context, id int64) error {
	e, err := s.app.Release.Document(c.Request().Context(), id)
	if err != nil {
		return err
	}
	// Always a download: a document is never run as a page of ours.
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", e.FileName))
	c.Response().Header().Set("X-Content-Type-Options", "nosniff")
	return c.Blob(http.StatusOK, "application/octet-stream", e.Content)
}

func (s *server) WithdrawEvidence(c *echo.Context, id int64, p WithdrawEvidenceParams) error {
	return done(c, s.app.Release.Withdraw(c.Request().Context(), id, p.Why))
}
