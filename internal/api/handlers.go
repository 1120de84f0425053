package api

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/labelart"
	"gallipot/internal/interchange"

	"github.com/labstack/echo/v5"
)

// body decodes a JSON body whose shape the contract has checked.
func body[T any](c *echo.Context) (T, error) {
	var v T
	if err := json.NewDecoder(c.Request().Body).Decode(&v); err != nil {
		return v, mistake("body", "the body is not JSON of the right shape: "+err.Error())
	}
	return v, nil
}

// answer sends what a use case returned.
func answer[T any](c *echo.Context, v T, err error) error {
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, v)
}

func done(c *echo.Context, err error) error {
	if err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (s *server) GetShop(c *echo.Context) error {
	v, err := s.app.Shop(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) PutShop(c *echo.Context, p PutShopParams) error {
	in, err := body[app.Settings](c)
	if err != nil {
		return err
	}
	v, err := s.app.SaveShop(c.Request().Context(), in, p.Rev, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) ListPeople(c *echo.Context) error {
	v, err := s.app.People(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddPerson(c *echo.Context) error {
	in, err := body[AddPersonJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.AddPerson(c.Request().Context(), in.Name)
	return answer(c, v, err)
}

func (s *server) GetToday(c *echo.Context) error {
	v, err := s.app.Today(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) ListIngredients(c *echo.Context) error {
	v, err := s.app.Pantry(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddIngredient(c *echo.Context, p AddIngredientParams) error {
	in, err := body[Ingredient](c)
	if err != nil {
		return err
	}
	v, err := s.app.AddIngredient(c.Request().Context(), in, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) GetIngredient(c *echo.Context, id string) error {
	v, err := s.app.Ingredient(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) PutIngredient(c *echo.Context, id string, p PutIngredientParams) error {
	in, err := body[Ingredient](c)
	if err != nil {
		return err
	}
	in.ID = id
	v, err := s.app.SaveIngredient(c.Request().Context(), in, p.Retired != nil && *p.Retired, p.Rev, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) CheckSupplierList(c *echo.Context) error {
	in, err := body[CheckSupplierListJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.CheckSupplierList(in.Text)
	return answer(c, v, err)
}

func (s *server) GetPrices(c *echo.Context) error {
	rows, err := s.app.PriceList(c.Request().Context())
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if err := interchange.WritePrices(&b, rows); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="gallipot-prices.csv"`)
	return c.Blob(http.StatusOK, "text/csv; charset=utf-8", b.Bytes())
}

func (s *server) PostPrices(c *echo.Context, p PostPricesParams) error {
	rows, err := interchange.ReadPrices(c.Request().Body)
	if err != nil {
		return err
	}
	v, err := s.app.ImportPrices(c.Request().Context(), rows, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) ListFormulas(c *echo.Context) error {
	v, err := s.app.Formulas(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddFormula(c *echo.Context, p AddFormulaParams) error {
	in, err := body[AddFormulaJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.AddFormula(c.Request().Context(), in.Name, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) PutFormula(c *echo.Context, id string, p PutFormulaParams) error {
	in, err := body[PutFormulaJSONBody](c)
	if err != nil {
		return err
	}
	return done(c, s.app.RenameFormula(c.Request().Context(), id, in.Name, in.Retired, who(p.XGallipotPerson)))
}

func (s *server) NextDraft(c *echo.Context, id string, p NextDraftParams) error {
	in, err := body[NextDraftJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.NextDraft(c.Request().Context(), formula.Ref{Formula: id, Version: in.From}, in.Body, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) GetSheet(c *echo.Context, id string, number int) error {
	v, err := s.app.Sheet(c.Request().Context(), formula.Ref{Formula: id, Version: number})
	return answer(c, v, err)
}

func (s *server) PutSheet(c *echo.Context, id string, number int, p PutSheetParams) error {
	in, err := body[Version](c)
	if err != nil {
		return err
	}
	in.Formula, in.Number = id, number
	v, err := s.app.SaveSheet(c.Request().Context(), in, p.Rev, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) DropDraft(c *echo.Context, id string, number int, p DropDraftParams) error {
	return done(c, s.app.DropDraft(c.Request().Context(), formula.Ref{Formula: id, Version: number}, p.Rev, who(p.XGallipotPerson)))
}

func (s *server) LockSheet(c *echo.Context, id string, number int, p LockSheetParams) error {
	v, err := s.app.LockSheet(c.Request().Context(), formula.Ref{Formula: id, Version: number}, p.Rev, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) CompareVersions(c *echo.Context, id string, p CompareVersionsParams) error {
	v, err := s.app.CompareVersions(c.Request().Context(), id, p.Before, p.After)
	return answer(c, v, err)
}

func (s *server) ListBatches(c *echo.Context) error {
	v, err := s.app.Batches(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) PlanBatch(c *echo.Context, p PlanBatchParams) error {
	in, err := body[PlanBatchJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.PlanBatch(c.Request().Context(), formula.Ref{Formula: in.Formula, Version: in.Version}, in.Jars, in.MadeOn, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) GetBatch(c *echo.Context, id int64) error {
	v, err := s.app.Batch(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) WriteEntry(c *echo.Context, id int64, p WriteEntryParams) error {
	in, err := body[NewEntry](c)
	if err != nil {
		return err
	}
	e := bench.Entry{Kind: string(in.Kind), Weighing: in.Weighing, Fill: in.Fill, Void: in.Void, Heat: in.Heat, Lab: in.Laboratory, Decided: in.Decision}
	if r := in.Reading; r != nil {
		e.Reading = &acidity.Reading{Load: r.Load, Jar: r.Jar, Moment: r.Moment, Sample: r.Sample, Preparation: r.Preparation, Fraction: r.Fraction,
			Celsius: r.SampleTemperatureC, MeterCheck: r.MeterCheck, At: r.At}
		if r.Ph != nil {
			e.Reading.PH = *r.Ph
		}
		if r.Mv != nil {
			mv := *r.Mv
			e.Reading.MV = &mv
		}
	}
	v, err := s.app.Write(c.Request().Context(), id, e, p.Key, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) ListMeterChecks(c *echo.Context) error {
	v, err := s.app.MeterChecks(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddMeterCheck(c *echo.Context, p AddMeterCheckParams) error {
	in, err := body[NewMeterCheck](c)
	if err != nil {
		return err
	}
	var at time.Time
	if in.CheckedAt != nil {
		at = *in.CheckedAt
	}
	check := acidity.Check{MV4: float64(in.MvBuffer4), MV7: float64(in.MvBuffer7), Celsius: in.BufferTemperatureC}
	v, err := s.app.CheckMeter(c.Request().Context(), in.Meter, check, at, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) CloseMeterCheck(c *echo.Context, id int64, p CloseMeterCheckParams) error {
	in, err := body[CloseMeterCheckJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.CloseMeter(c.Request().Context(), id, in.ClosingPh, in.ClosingTemperatureC, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) ListRules(c *echo.Context) error {
	v, err := s.app.Rules(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) ListEvidence(c *echo.Context, p ListEvidenceParams) error {
	id := ""
	if p.Formula != nil {
		id = *p.Formula
	}
	v, err := s.app.Evidence(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) AttachEvidence(c *echo.Context, p AttachEvidenceParams) error {
	e := app.Evidence{FormulaID: c.FormValue("formula"), Kind: c.FormValue("kind"), Title: c.FormValue("title")}
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
	v, err := s.app.Attach(c.Request().Context(), e, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) GetEvidence(c *echo.Context, id int64) error {
	e, err := s.app.Document(c.Request().Context(), id)
	if err != nil {
		return err
	}
	// Always a download: a document is never run as a page of ours.
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", e.FileName))
	c.Response().Header().Set("X-Content-Type-Options", "nosniff")
	return c.Blob(http.StatusOK, "application/octet-stream", e.Content)
}

func (s *server) WithdrawEvidence(c *echo.Context, id int64, p WithdrawEvidenceParams) error {
	return done(c, s.app.Withdraw(c.Request().Context(), id, who(p.XGallipotPerson)))
}

func (s *server) ListLabels(c *echo.Context) error {
	v, err := s.app.Labels(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddLabel(c *echo.Context, p AddLabelParams) error {
	in, err := body[AddLabelJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.NewLabel(c.Request().Context(), in.Formula, in.Regime, labelart.Stock{WidthMM: in.WidthMm, HeightMM: in.HeightMm}, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) GetLabel(c *echo.Context, id int64, p GetLabelParams) error {
	v, err := s.app.Label(c.Request().Context(), id, orZero(p.Batch))
	return answer(c, v, err)
}

func orZero(n *int64) int64 {
	if n == nil {
		return 0
	}
	return *n
}

func (s *server) PutLabel(c *echo.Context, id int64, p PutLabelParams) error {
	in, err := body[PutLabelJSONBody](c)
	if err != nil {
		return err
	}
	stock := labelart.Stock{WidthMM: in.WidthMm, HeightMM: in.HeightMm}
	v, err := s.app.SaveLabel(c.Request().Context(), id, stock, in.Confirm, p.Rev, orZero(p.Batch), who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) PrintLabel(c *echo.Context, id int64, p PrintLabelParams) error {
	in, err := body[PrintLabelJSONBody](c)
	if err != nil {
		return err
	}
	run, err := s.app.Print(c.Request().Context(), id, in.Batch, in.Count, p.Key, who(p.XGallipotPerson))
	if err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("inline; filename=%q", run.Name))
	return c.Blob(http.StatusOK, "application/pdf", run.PDF)
}

func (s *server) GetBundle(c *echo.Context) error {
	b, err := s.app.Export(c.Request().Context())
	if err != nil {
		return err
	}
	var out bytes.Buffer
	if err := interchange.WriteBundle(&out, b); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="gallipot.bundle.json"`)
	return c.JSONBlob(http.StatusOK, out.Bytes())
}

func (s *server) PostBundle(c *echo.Context, p PostBundleParams) error {
	b, err := interchange.ReadBundle(c.Request().Body)
	if err != nil {
		return err
	}
	v, err := s.app.Import(c.Request().Context(), b, p.Apply != nil && *p.Apply, who(p.XGallipotPerson))
	return answer(c, v, err)
}
