package api

import (
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/release"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"

	"github.com/labstack/echo/v5"
)

func (s *server) LookAt(c *echo.Context, id string, p LookAtParams) error {
	in, err := body[release.LookIn](c)
	if err != nil {
		return err
	}
	v, err := s.app.Release.Look(kernel.Because(c.Request().Context(), deref(p.Why)), id, in, p.Rev)
	return answer(c, v, err)
}

func (s *server) Lift(c *echo.Context, id string, p LiftParams) error {
	in, err := body[LiftJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Release.Lift(c.Request().Context(), id, in.What, in.Off, in.Reason, p.Rev)
	return answer(c, v, err)
}

func (s *server) ReadWords(c *echo.Context) error {
	in, err := body[ReadWordsJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Release.ReadText(c.Request().Context(), in.Text)
	return answer(c, v, err)
}

func (s *server) ListOpen(c *echo.Context) error {
	v, err := s.app.Release.OpenIngredients(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) ListAllergenChanges(c *echo.Context) error {
	v, err := s.app.Release.AllergenChanges(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) GetAllergenChange(c *echo.Context, id int64) error {
	v, err := s.app.Release.AllergenChange(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) FromLot(c *echo.Context, id int64) error {
	in, err := body[FromLotJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Release.FromLot(c.Request().Context(), id, in.Lot, in.Reason)
	return answer(c, v, err)
}

func (s *server) ListVessels(c *echo.Context) error {
	v, err := s.app.Production.Vessels(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddVessel(c *echo.Context, _ AddVesselParams) error {
	in, err := body[AddVesselJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Production.SaveVessel(c.Request().Context(), kernel.Vessel{Name: in.Name,
		Least:    amount.G(deref(in.LeastG)),
		Greatest: amount.G(deref(in.GreatestG)), Residue: amount.G(deref(in.ResidueG))}, 0)
	return answer(c, v, err)
}

func (s *server) PutVessel(c *echo.Context, id int64, p PutVesselParams) error {
	in, err := body[kernel.Vessel](c)
	if err != nil {
		return err
	}
	in.ID = id
	v, err := s.app.Production.SaveVessel(kernel.Because(c.Request().Context(), deref(p.Why)), in, in.Rev)
	return answer(c, v, err)
}

func (s *server) NoteVessel(c *echo.Context, id int64, _ NoteVesselParams) error {
	in, err := body[NoteVesselJSONBody](c)
	if err != nil {
		return err
	}
	e := kernel.VesselEntry{Vessel: id, Kind: string(in.Kind), Batch: deref(in.Batch), What: deref(in.What),
		At: deref(in.At)}
	if in.Allergens != nil {
		e.Allergens = *in.Allergens
	}
	v, err := s.app.Production.NoteVessel(c.Request().Context(), e)
	return answer(c, v, err)
}

func (s *server) BeforeLock(c *echo.Context, id string, number int) error {
	v, err := s.app.Catalog.BeforeLock(c.Request().Context(), formula.Ref{Formula: id, Version: number})
	return answer(c, v, err)
}
