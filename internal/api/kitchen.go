package api

import (
	"bytes"
	"fmt"
	"net/http"

	"gallipot/internal/app"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/interchange"

	"github.com/labstack/echo/v5"
)

func (s *server) ListRecipes(c *echo.Context) error {
	v, err := s.app.Recipes(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddRecipe(c *echo.Context, p AddRecipeParams) error {
	in, err := body[AddRecipeJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.AddRecipe(c.Request().Context(), deref(in.Name), in.Words, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) AddRecipeFile(c *echo.Context, p AddRecipeFileParams) error {
	name, words, err := interchange.ReadRecipe(c.Request().Body)
	if err != nil {
		return err
	}
	v, err := s.app.AddRecipe(c.Request().Context(), name, words, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) GetRecipe(c *echo.Context, id int64) error {
	v, err := s.app.Recipe(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) PutRecipe(c *echo.Context, id int64, p PutRecipeParams) error {
	in, err := body[PutRecipeJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.SaveRecipe(c.Request().Context(), id, in.Name, in.Words, in.Answers, p.Rev, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) DropRecipe(c *echo.Context, id int64, p DropRecipeParams) error {
	return done(c, s.app.DropRecipe(c.Request().Context(), id, who(p.XGallipotPerson)))
}

func (s *server) DraftFromRecipe(c *echo.Context, id int64, p DraftFromRecipeParams) error {
	in, err := body[DraftFromRecipeJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.DraftFromRecipe(c.Request().Context(), id, in.Name, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) PutMeasure(c *echo.Context, id, measure string, p PutMeasureParams) error {
	in, err := body[PutMeasureJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.SaveHouseMeasure(c.Request().Context(), id, measure, in.Weighings, deref(in.Note), who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) DropMeasure(c *echo.Context, id, measure string, p DropMeasureParams) error {
	v, err := s.app.DropHouseMeasure(c.Request().Context(), id, measure, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) ListPreparations(c *echo.Context) error {
	v, err := s.app.Preparations(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddPreparation(c *echo.Context, p AddPreparationParams) error {
	in, err := body[pantry.Preparation](c)
	if err != nil {
		return err
	}
	in.ID = ""
	v, err := s.app.SavePreparation(c.Request().Context(), in, 0, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) GetPreparation(c *echo.Context, id string) error {
	v, err := s.app.Preparation(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) PutPreparation(c *echo.Context, id string, p PutPreparationParams) error {
	in, err := body[pantry.Preparation](c)
	if err != nil {
		return err
	}
	in.ID = id
	v, err := s.app.SavePreparation(c.Request().Context(), in, p.Rev, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) AddYield(c *echo.Context, id string, p AddYieldParams) error {
	in, err := body[pantry.YieldTrial](c)
	if err != nil {
		return err
	}
	v, err := s.app.AddYield(c.Request().Context(), id, in, p.Rev, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) DropYield(c *echo.Context, id string, index int, p DropYieldParams) error {
	v, err := s.app.DropYield(c.Request().Context(), id, index, p.Rev, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) LessWater(c *echo.Context, id string) error {
	v, err := s.app.LessWater(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) CompareRoutes(c *echo.Context) error {
	in, err := body[CompareRoutesJSONBody](c)
	if err != nil {
		return err
	}
	co := 0.0
	if in.CoOutG != nil {
		co = *in.CoOutG
	}
	v, err := s.app.CompareRoutes(c.Request().Context(), in.Routes, in.OutG, co)
	return answer(c, v, err)
}

func (s *server) ListTrials(c *echo.Context, id string) error {
	v, err := s.app.Trials(c.Request().Context(), id)
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
	v, err := s.app.SaveTrial(c.Request().Context(), id, in, rev, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) DropTrial(c *echo.Context, id string, trial int64, p DropTrialParams) error {
	v, err := s.app.DropTrial(c.Request().Context(), id, trial, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) Standardise(c *echo.Context, id string) error {
	in, err := body[app.Choice](c)
	if err != nil {
		return err
	}
	v, err := s.app.Standardise(c.Request().Context(), id, in)
	return answer(c, v, err)
}

func (s *server) StandardDraft(c *echo.Context, id string, p StandardDraftParams) error {
	in, err := body[app.Choice](c)
	if err != nil {
		return err
	}
	v, err := s.app.StandardDraft(c.Request().Context(), id, in, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) GetFamily(c *echo.Context, id string) error {
	v, err := s.app.FamilyOf(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) AddVariant(c *echo.Context, id string, p AddVariantParams) error {
	in, err := body[AddVariantJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.AddVariant(c.Request().Context(), formula.Ref{Formula: id, Version: in.Version}, in.Name, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) Rebase(c *echo.Context, id string, p RebaseParams) error {
	in, err := body[RebaseJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Rebase(c.Request().Context(), id, in.Apply, who(p.XGallipotPerson))
	return answer(c, v, err)
}

func (s *server) SideBySide(c *echo.Context) error {
	in, err := body[SideBySideJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.SideBySide(c.Request().Context(), in.Versions)
	return answer(c, v, err)
}

func (s *server) Swap(c *echo.Context) error {
	in, err := body[SwapJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Swap(c.Request().Context(), in.Version, in.Line, in.To, in.Keep)
	return answer(c, v, err)
}

func (s *server) AtSize(c *echo.Context, id string, number int, p AtSizeParams) error {
	v, err := s.app.AtSize(c.Request().Context(), formula.Ref{Formula: id, Version: number}, p.Jars)
	return answer(c, v, err)
}

func (s *server) GetRecipeFile(c *echo.Context, id string, number int) error {
	return s.file(c, formula.Ref{Formula: id, Version: number}, "json", "application/ld+json", func(b *bytes.Buffer, v app.SheetView) error {
		return interchange.WriteRecipe(b, v)
	})
}

func (s *server) GetSheetFile(c *echo.Context, id string, number int) error {
	return s.file(c, formula.Ref{Formula: id, Version: number}, "csv", "text/csv; charset=utf-8", func(b *bytes.Buffer, v app.SheetView) error {
		return interchange.WriteSheet(b, v)
	})
}

func (s *server) GetCostFile(c *echo.Context, id string, number int) error {
	shop, err := s.app.Shop(c.Request().Context())
	if err != nil {
		return err
	}
	const media = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
	return s.file(c, formula.Ref{Formula: id, Version: number}, "xlsx", media, func(b *bytes.Buffer, v app.SheetView) error {
		return interchange.WriteCost(b, v, shop.Currency)
	})
}

// file sends a version as a file to keep.
func (s *server) file(c *echo.Context, ref formula.Ref, ending, media string, write func(*bytes.Buffer, app.SheetView) error) error {
	v, err := s.app.Sheet(c.Request().Context(), ref)
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if err := write(&b, v); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s-v%d.%s"`, ref.Formula, ref.Version, ending))
	return c.Blob(http.StatusOK, media, b.Bytes())
}

func deref(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}
