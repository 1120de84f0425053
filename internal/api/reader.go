package api

import (
	"gallipot/internal/core/reader"
	"gallipot/internal/interchange"

	"github.com/labstack/echo/v5"
)

func (s *server) ListRecipes(c *echo.Context, p ListRecipesParams) error {
	v, err := s.app.Catalog.Recipes(c.Request().Context(), deref(p.After))
	return answer(c, v, err)
}

func (s *server) AddRecipe(c *echo.Context, p AddRecipeParams) error {
	in, err := body[AddRecipeJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.AddRecipe(c.Request().Context(), deref(in.Name), in.Words)
	return answer(c, v, err)
}

func (s *server) AddRecipeFile(c *echo.Context, p AddRecipeFileParams) error {
	name, words, err := interchange.ReadRecipe(c.Request().Body)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.AddRecipe(c.Request().Context(), name, words)
	return answer(c, v, err)
}

func (s *server) GetRecipe(c *echo.Context, id int64) error {
	v, err := s.app.Catalog.Recipe(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) PutRecipe(c *echo.Context, id int64, p PutRecipeParams) error {
	in, err := body[PutRecipeJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.SaveRecipe(c.Request().Context(), id, in.Name, in.Words, in.Answers, p.Rev)
	return answer(c, v, err)
}

func (s *server) DropRecipe(c *echo.Context, id int64, p DropRecipeParams) error {
	return done(c, s.app.Catalog.DropRecipe(c.Request().Context(), id, p.Why))
}

func (s *server) DraftFromRecipe(c *echo.Context, id int64, p DraftFromRecipeParams) error {
	in, err := body[DraftFromRecipeJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.DraftFromRecipe(c.Request().Context(), id, in.Name)
	return answer(c, v, err)
}

func (s *server) ApartRecipe(c *echo.Context, id int64, p ApartRecipeParams) error {
	v, err := s.app.Catalog.ApartRecipe(c.Request().Context(), id, p.Rev)
	return answer(c, v, err)
}

func (s *server) ListWords(c *echo.Context) error {
	v, err := s.app.Catalog.ShopWords(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddWord(c *echo.Context, p AddWordParams) error {
	in, err := body[AddWordJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Catalog.AddShopWord(c.Request().Context(), reader.Learned{Kind: in.Kind, Words: deref(in.Words),
		Ingredient: deref(in.Ingredient), Unit: deref(in.Unit), Size: deref(in.Size), Grams: deref(in.Grams),
		ML: deref(in.Ml), Fill: deref(in.Fill)})
	return answer(c, v, err)
}

func (s *server) DropWord(c *echo.Context, id int64, p DropWordParams) error {
	v, err := s.app.Catalog.DropShopWord(c.Request().Context(), id, p.Why)
	return answer(c, v, err)
}
