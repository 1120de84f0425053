package api

import (
	"gallipot/internal/app"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"

	"github.com/labstack/echo/v5"
)

func (s *server) ListBatches(c *echo.Context, p ListBatchesParams) error {
	q := app.BatchQuery{Formula: deref(p.Formula), Find: deref(p.Find)}
	if p.State != nil {
		q.State = string(*p.State)
	}
	v, err := s.app.Batches(c.Request().Context(), q, deref(p.After))
	return answer(c, v, err)
}

func (s *server) PlanBatch(c *echo.Context, p PlanBatchParams) error {
	in, err := body[PlanBatchJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.PlanBatch(c.Request().Context(), formula.Ref{Formula: in.Formula, Version: in.Version}, in.Jars,
		in.MadeOn)
	return answer(c, v, err)
}

func (s *server) GetBatch(c *echo.Context, id int64) error {
	v, err := s.app.Batch(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) RestedOn(c *echo.Context, id, entry int64) error {
	v, err := s.app.RestedOn(c.Request().Context(), id, entry)
	return answer(c, v, err)
}

func (s *server) GetPrint(c *echo.Context, id, entry int64) error {
	v, err := s.app.Printed(c.Request().Context(), id, entry)
	return answer(c, v, err)
}

func (s *server) WriteEntry(c *echo.Context, id int64, p WriteEntryParams) error {
	in, err := body[NewEntry](c)
	if err != nil {
		return err
	}
	e := bench.Entry{ClientAt: in.ClientAt, Body: in.details()}
	if e.Body == nil {
		return mistake("kind", entry.KindError{Kind: string(in.Kind)}.Error())
	}
	v, err := s.app.Write(c.Request().Context(), id, e, p.Key)
	return answer(c, v, err)
}

// details is the body of the entry's kind, or nil where it is missing.
func (in NewEntry) details() any {
	switch {
	case in.Kind == "weighing" && in.Weighing != nil:
		return in.Weighing
	case in.Kind == "fill" && in.Fill != nil:
		return in.Fill
	case in.Kind == "reading" && in.Reading != nil:
		return in.Reading.core()
	case in.Kind == "void" && in.Void != nil:
		return in.Void
	case in.Kind == "heat" && in.Heat != nil:
		return in.Heat
	case in.Kind == "laboratory" && in.Laboratory != nil:
		return in.Laboratory
	case in.Kind == "strained" && in.Strained != nil:
		return in.Strained
	case in.Kind == "decision" && in.Decision != nil:
		return in.Decision
	case in.Kind == "jars_in" && in.JarsIn != nil:
		return in.JarsIn
	case in.Kind == "made_good" && in.MadeGood != nil:
		return in.MadeGood
	case in.Kind == "moved" && in.Moved != nil:
		return in.Moved
	}
	return nil
}

func (r NewReading) core() *acidity.Reading {
	out := acidity.Reading{Load: r.Load, Jar: r.Jar, Sample: r.Sample, Preparation: r.Preparation,
		Fraction: r.Fraction,
		StandIn:  deref(r.StandIn), Celsius: r.SampleTemperatureC, MeterCheck: r.MeterCheck, At: r.At, MV: r.Mv}
	if r.Ph != nil {
		out.PH = *r.Ph
	}
	return &out
}

func (s *server) CostOfBatch(c *echo.Context, id int64) error {
	v, err := s.app.CostOfBatch(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) WhereJarsAre(c *echo.Context) error {
	v, err := s.app.WhereJarsAre(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) Dispatch(c *echo.Context, p DispatchParams) error {
	in, err := body[app.Send](c)
	if err != nil {
		return err
	}
	v, err := s.app.Dispatch(c.Request().Context(), in)
	return answer(c, v, err)
}
