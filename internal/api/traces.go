package api

import (
	"bytes"
	"net/http"

	"gallipot/internal/app/release"
	"gallipot/internal/interchange"

	"github.com/labstack/echo/v5"
)

func (p GetTraceParams) ask() release.TraceAsk {
	ask := release.TraceAsk{Code: deref(p.Code), Batch: orZero(p.Batch)}
	if p.Lot != nil {
		ask.Lots = []int64{*p.Lot}
	}
	return ask
}

func (s *server) GetTrace(c *echo.Context, p GetTraceParams) error {
	v, err := s.app.Release.Trace(c.Request().Context(), p.ask())
	return answer(c, v, err)
}

func (s *server) GetTraceFile(c *echo.Context, p GetTraceFileParams) error {
	v, err := s.app.Release.Trace(c.Request().Context(), GetTraceParams(p).ask())
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if err := interchange.WriteTrace(&b, v); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="trace.csv"`)
	return c.Blob(http.StatusOK, "text/csv; charset=utf-8", b.Bytes())
}
