// Package pack holds the jars a shop fills: their sizes, and what the law and a label take from them, which are the
// largest surface, the display panel and the room for a label.
package pack

import (
	"fmt"
	"math"
	"strings"

	"gallipot/internal/core/field"
	"gallipot/internal/core/pantry"
)

// Shapes of a jar.
const (
	Round = "round"
	Sided = "sided" // flat sides, as of a square jar
)

// Jar is a jar that the shop fills. Lengths are outer ones in mm. A jar without them is known by what it holds only.
type Jar struct {
	ID   string  `json:"id"`
	Name string  `json:"name"`
	ML   float64 `json:"ml"` // to the brim
	// round or sided; empty: as long as nobody measured it
	Shape      string  `json:"shape,omitempty"`
	HeightMM   float64 `json:"height_mm,omitempty"` // with its lid
	DiameterMM float64 `json:"diameter_mm,omitempty"`
	WidthMM    float64 `json:"width_mm,omitempty"` // of a sided jar's front
	DepthMM    float64 `json:"depth_mm,omitempty"`
	LidMM      float64 `json:"lid_mm,omitempty"`  // height of the lid
	WallMM     float64 `json:"wall_mm,omitempty"` // of the straight wall that a label lies flat on
}

// Usual are made-up jars that a new shop starts with.
func Usual() []Jar {
	return []Jar{
		{ID: "squat-110", Name: "110 ml squat jar", ML: 116, Shape: Round, HeightMM: 58, DiameterMM: 64, LidMM: 12,
			WallMM: 30},
		{ID: "round-190", Name: "190 ml round jar", ML: 205, Shape: Round, HeightMM: 100, DiameterMM: 65, LidMM: 12,
			WallMM: 66},
		{ID: "square-250", Name: "250 ml square jar", ML: 268, Shape: Sided, HeightMM: 108, WidthMM: 60, DepthMM: 60,
			LidMM: 14, WallMM: 64},
		{ID: "tall-300", Name: "300 ml tall jar", ML: 318, Shape: Round, HeightMM: 130, DiameterMM: 66, LidMM: 14,
			WallMM: 80},
		{ID: "bottle-250", Name: "250 ml slim bottle", ML: 262, Shape: Round, HeightMM: 196, DiameterMM: 54, LidMM: 18,
			WallMM: 96},
		{ID: "round-500", Name: "500 ml round jar", ML: 540, Shape: Round, HeightMM: 128, DiameterMM: 84, LidMM: 15,
			WallMM: 78},
	}
}

// displayShare is the part of a cylinder's height times its circumference that faces the buyer (21 CFR 101.1(b)).
const displayShare = 0.40

// overlapMM is what a label around a jar needs to stick on itself or to leave open.
const overlapMM = 4

// Sized reports whether its sizes are known.
func (j Jar) Sized() bool { return j.Shape != "" }

// BodyMM is its height without the lid.
func (j Jar) BodyMM() float64 { return j.HeightMM - j.LidMM }

// AroundMM is the way around it.
func (j Jar) AroundMM() float64 {
	if j.Shape == Round {
		return math.Pi * j.DiameterMM
	}
	return 2 * (j.WidthMM + j.DepthMM)
}

// FrontMM is how wide it looks from the front.
func (j Jar) FrontMM() float64 {
	if j.Shape == Round {
		return j.DiameterMM
	}
	return j.WidthMM
}

// SurfaceCM2 is its largest surface, which sets the least type in GB (Regulation 1169/2011 article 13(3)): the wall of
// a round jar, the larger side of a sided one.
func (j Jar) SurfaceCM2() float64 {
	if j.Shape == Round {
		return j.AroundMM() * j.BodyMM() / 100
	}
	return max(j.WidthMM, j.DepthMM) * j.BodyMM() / 100
}

// DisplayCM2 is the principal display panel, which sets the least type of the quantity in the US (21 CFR 101.1(b)).
func (j Jar) DisplayCM2() float64 {
	if j.Shape == Round {
		return displayShare * j.AroundMM() * j.BodyMM() / 100
	}
	return j.WidthMM * j.BodyMM() / 100
}

// RoomMM is the room for one label around the jar, and for one of two labels.
func (j Jar) RoomMM() (around, half, high float64) {
	around = j.AroundMM() - overlapMM
	half = displayShare * j.AroundMM() // what is seen at once
	if j.Shape == Sided {
		half = j.WidthMM - overlapMM
	}
	return around, half, j.WallMM
}

// HeadspaceMM is the air over a fill of so many mL, where the jar is as wide inside as its volume and height make it;
// negative where it runs over.
func (j Jar) HeadspaceMM(ml float64) float64 {
	if j.ML <= 0 {
		return 0
	}
	return (1 - ml/j.ML) * j.BodyMM()
}

// Fullness is how full a jar is of a fill, in words.
type Fullness struct {
	Says string `json:"says"` // empty where the jar or the volume is not known
	Over bool   `json:"over"` // it does not hold the fill
}

// Filled tells how full a jar is of so many mL.
func (j Jar) Filled(ml float64) Fullness {
	switch {
	case j.ML <= 0 || ml <= 0:
		return Fullness{}
	case ml > j.ML:
		return Fullness{fmt.Sprintf("holds %.0f mL to the brim; the fill is %.0f mL", j.ML, ml), true}
	case j.BodyMM() <= 0:
		return Fullness{Says: fmt.Sprintf("%.0f of %.0f mL to the brim", ml, j.ML)}
	}
	return Fullness{Says: fmt.Sprintf("%.0f of %.0f mL to the brim, %.0f mm of headspace", ml, j.ML, j.HeadspaceMM(ml))}
}

// Greatest and least lengths of a jar in mm.
const (
	leastMM = 15
	mostMM  = 500
	mostML  = 50_000
)

// Check lists what is wrong in a jar, at places that start with at.
func (j Jar) Check(at string) []pantry.FieldError {
	var errs field.Errors
	bad := errs.At(at)
	if n := len([]rune(strings.TrimSpace(j.Name))); n == 0 || n > 60 {
		bad("name", "a name of 1 to 60 characters")
	}
	if !(j.ML > 0 && j.ML <= mostML) {
		bad("ml", "what it holds to the brim, above 0 and up to 50 L")
	}
	length := func(field string, x, least, most float64) {
		if !(x >= least && x <= most) {
			bad(field, "between %g and %.0f mm", least, most)
		}
	}
	switch j.Shape {
	case "":
		return errs
	case Round:
		length("diameter_mm", j.DiameterMM, leastMM, mostMM)
	case Sided:
		length("width_mm", j.WidthMM, leastMM, mostMM)
		length("depth_mm", j.DepthMM, leastMM, mostMM)
	default:
		bad("shape", "a jar is round or has flat sides")
	}
	length("height_mm", j.HeightMM, leastMM, mostMM)
	length("lid_mm", j.LidMM, 0, max(0, j.HeightMM/2))
	length("wall_mm", j.WallMM, 10, max(10, j.BodyMM()))
	return errs
}
