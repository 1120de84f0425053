package api

import (
	"bytes"
	"fmt"
	"net/http"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/formula"
	"gallipot/internal/interchange"

	"github.com/labstack/echo/v5"
)

func (s *server) ListFormulas(c *echo.Context) error {
	v, err := s.app.Catalog.Formulas(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddFormula(c *echo.Context, p AddFormulaParams) error {
	in, err := body[AddFormulaJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.AddFormula(c.Request().Context(), in.Name)
	return answer(c, v, err)
}

func (s *server) PutFormula(c *echo.Context, id string) error {
	in, err := body[PutFormulaJSONBody](c)
	if err != nil {
		return err
	}
	return done(c, s.app.Catalog.RenameFormula(kernel.Because(c.Request().Context(), deref(in.Why)), id, in.Name,
		in.Retired))
}

func (s *server) NextDraft(c *echo.Context, id string, p NextDraftParams) error {
	in, err := body[NextDraftJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.NextDraft(c.Request().Context(), formula.Ref{Formula: id, Version: in.From}, in.Body)
	return answer(c, v, err)
}

func (s *server) GetSheet(c *echo.Context, id string, number int) error {
	v, err := s.app.Catalog.Sheet(c.Request().Context(), formula.Ref{Formula: id, Version: number})
	return answer(c, v, err)
}

func (s *server) PutSheet(c *echo.Context, id string, number int, p PutSheetParams) error {
	in, err := body[Version](c)
	if err != nil {
		return err
	}
	in.Formula, in.Number = id, number
	v, err := s.app.Catalog.SaveSheet(c.Request().Context(), in, p.Rev)
	return answer(c, v, err)
}

func (s *server) DropDraft(c *echo.Context, id string, number int, p DropDraftParams) error {
	return done(c, s.app.Catalog.DropDraft(c.Request().Context(), formula.Ref{Formula: id, Version: number}, p.Rev))
}

func (s *server) GetLock(c *echo.Context, id string, number int) error {
	v, err := s.app.Catalog.Lock(c.Request().Context(), formula.Ref{Formula: id, Version: number})
	return answer(c, v, err)
}

func (s *server) LockSheet(c *echo.Context, id string, number int, p LockSheetParams) error {
	v, err := s.app.Catalog.LockSheet(c.Request().Context(), formula.Ref{Formula: id, Version: number}, p.Rev,
		deref(p.Confirmed))
	return answer(c, v, err)
}

func (s *server) CompareVersions(c *echo.Context, id string, p CompareVersionsParams) error {
	v, err := s.app.Catalog.CompareVersions(c.Request().Context(), id, p.Before, p.After)
	return answer(c, v, err)
}

func (s *server) GetFamily(c *echo.Context, id string) error {
	v, err := s.app.Catalog.FamilyOf(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) AddVariant(c *echo.Context, id string, p AddVariantParams) error {
	in, err := body[AddVariantJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.AddVariant(c.Request().Context(), formula.Ref{Formula: id, Version: in.Version}, in.Name)
	return answer(c, v, err)
}

func (s *server) Rebase(c *echo.Context, id string, p RebaseParams) error {
	in, err := body[RebaseJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.Rebase(c.Request().Context(), id, in.Apply)
	return answer(c, v, err)
}

func (s *server) SideBySide(c *echo.Context) error {
	in, err := body[SideBySideJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.SideBySide(c.Request().Context(), in.Versions)
	return answer(c, v, err)
}

func (s *server) Swap(c *echo.Context) error {
	in, err := body[SwapJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.Swap(c.Request().Context(), in.Version, in.Line, in.To, in.Keep)
	return answer(c, v, err)
}

func (s *server) AtSize(c *echo.Context, id string, number int, p AtSizeParams) error {
	v, err := s.app.Production.AtSize(c.Request().Context(), formula.Ref{Formula: id, Version: number}, p.Jars)
	return answer(c, v, err)
}

func (s *server) GetRecipeFile(c *echo.Context, id string, number int) error {
	return s.file(c, formula.Ref{Formula: id, Version: number}, "json", "application/ld+json",
		func(b *bytes.Buffer, v catalog.SheetView) error {
			return interchange.WriteRecipe(b, v)
		})
}

func (s *server) GetSheetFile(c *echo.Context, id string, number int) error {
	return s.file(c, formula.Ref{Formula: id, Version: number}, "csv", "text/csv; charset=utf-8",
		func(b *bytes.Buffer, v catalog.SheetView) error {
			return interchange.WriteSheet(b, v)
		})
}

// file sends a version as a file to keep.
func (s *server) file(c *echo.Context, ref formula.Ref, ending, media string,
	write func(*bytes.Buffer, catalog.SheetView) error) error {
	v, err := s.app.Catalog.Sheet(c.Request().Context(), ref)
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if err := write(&b, v); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition",
		fmt.Sprintf(`attachment; filename="%s-v%d.%s"`, ref.Formula, ref.Version, ending))
	return c.Blob(http.StatusOK, media, b.Bytes())
}
