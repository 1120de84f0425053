package api

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/interchange"

	"github.com/labstack/echo/v5"
)

func (s *server) ListBatches(c *echo.Context, p ListBatchesParams) error {
	q := kernel.BatchQuery{Formula: deref(p.Formula), Find: deref(p.Find)}
	if p.State != nil {
		q.State = string(*p.State)
	}
	v, err := s.app.Production.Batches(c.Request().Context(), q, deref(p.After))
	return answer(c, v, err)
}

func (s *server) PlanBatch(c *echo.Context, p PlanBatchParams) error {
	in, err := body[PlanAsk](c)
	if err != nil {
		return err
	}
	v, err := s.app.Production.PlanBatch(c.Request().Context(), in.app())
	return answer(c, v, err)
}

// app converts a query of the contract; what it does not name stays open.
func (p PlanAsk) app() production.PlanAsk {
	out := production.PlanAsk{Ref: formula.Ref{Formula: p.Formula, Version: p.Version}, Jars: deref(p.Jars),
		Grams: amount.G(deref(p.Grams)), UseUp: deref(p.UseUp), MadeOn: day.Day(p.MadeOn), StartAt: deref(p.StartAt),
		Vessel: p.Vessel}
	percent := func(x *float64) *amount.Percent {
		if x == nil {
			return nil
		}
		out := amount.Pct(*x)
		return &out
	}
	out.Over, out.Loss = percent(p.OverfillPercent), percent(p.LossPercent)
	if p.SampleG != nil {
		g := amount.G(*p.SampleG)
		out.Samples = &g
	}
	return out
}

func (s *server) PreviewPlan(c *echo.Context) error {
	in, err := body[PlanAsk](c)
	if err != nil {
		return err
	}
	v, err := s.app.Production.PreviewPlan(c.Request().Context(), in.app())
	return answer(c, v, err)
}

func (s *server) GetPlan(c *echo.Context, id int64) error {
	v, err := s.app.Production.PlanOf(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) GetShopping(c *echo.Context, id int64) error {
	v, err := s.app.Production.PlanOf(c.Request().Context(), id)
	if err != nil {
		return err
	}
	shop, err := s.app.Office.Shop(c.Request().Context())
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if err := interchange.WriteShopping(&b, v, shop.Currency); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="to-get-%s.csv"`, v.Code))
	return c.Blob(http.StatusOK, "text/csv; charset=utf-8", b.Bytes())
}

func (s *server) Rehearse(c *echo.Context) error {
	in, err := body[RehearseJSONBody](c)
	if err != nil {
		return err
	}
	acts := make([]bench.Entry, len(in.Acts))
	for i, x := range in.Acts {
		if acts[i].Body, err = x.details(); err != nil {
			return mistake(fmt.Sprintf("acts[%d].kind", i), err.Error())
		}
	}
	v, err := s.app.Production.Rehearse(c.Request().Context(), formula.Ref{Formula: in.Formula, Version: in.Version},
		in.Jars,
		acts)
	return answer(c, v, err)
}

func (s *server) ListLags(c *echo.Context) error {
	v, err := s.app.Production.Lags(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) PreviewAddition(c *echo.Context, id int64) error {
	in, err := body[PreviewAdditionJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Production.PreviewAddition(c.Request().Context(), id, in.Load, in.Ingredient, amount.G(in.Grams))
	return answer(c, v, err)
}

func (s *server) GetBatch(c *echo.Context, id int64) error {
	v, err := s.app.Production.Batch(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) RestedOn(c *echo.Context, id, entry int64) error {
	v, err := s.app.Production.RestedOn(c.Request().Context(), id, entry)
	return answer(c, v, err)
}

func (s *server) GetPrint(c *echo.Context, id, entry int64) error {
	v, err := s.app.Release.Printed(c.Request().Context(), id, entry)
	return answer(c, v, err)
}

func (s *server) WriteEntry(c *echo.Context, id int64, p WriteEntryParams) error {
	in, err := body[NewEntry](c)
	if err != nil {
		return err
	}
	details, err := in.details()
	if err != nil {
		return mistake("kind", err.Error())
	}
	e := bench.Entry{ClientAt: in.ClientAt, Body: details}
	var told ahead[production.BatchView]
	err = s.app.Production.Write(c.Request().Context(), id, e, p.Key, told.make)
	return told.answer(c, err)
}

// details decodes the body of the entry's kind through the registry. Errors: entry.KindError if it is missing.
func (in NewEntry) details() (any, error) {
	if kind := string(in.Kind); kind == "reading" && in.Reading != nil {
		return in.Reading.core(), nil // what is typed lacks what the program makes of it
	}
	raw, err := json.Marshal(in)
	if err != nil {
		return nil, err
	}
	var parts map[string]json.RawMessage
	if err := json.Unmarshal(raw, &parts); err != nil {
		return nil, err
	}
	if parts[string(in.Kind)] == nil {
		return nil, entry.KindError{Kind: string(in.Kind)}
	}
	return bench.ReadBody(string(in.Kind), parts[string(in.Kind)])
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
	v, err := s.app.Production.CostOfBatch(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) WhereJarsAre(c *echo.Context) error {
	v, err := s.app.Production.WhereJarsAre(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) Dispatch(c *echo.Context, p DispatchParams) error {
	in, err := body[production.Send](c)
	if err != nil {
		return err
	}
	v, err := s.app.Production.Dispatch(c.Request().Context(), in)
	return answer(c, v, err)
}

func (s *server) GetBowl(c *echo.Context, id int64) error {
	v, err := s.app.Production.Bowl(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) SplitBatch(c *echo.Context, id int64, _ SplitBatchParams) error {
	in, err := body[SplitBatchJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Production.SplitBatch(c.Request().Context(), id, production.SplitAsk{
		Ref: formula.Ref{Formula: in.Formula, Version: in.Version}, Jars: in.Jars})
	return answer(c, v, err)
}
