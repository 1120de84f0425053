package bench

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/entry"
)

// Tell is the sentence of an act in a batch record from its stored body, without its author. Lines are named by their
// ids.
func Tell(kind string, raw []byte) string { return kinds.Tell(kind, raw) }

// figure writes a measured number, to the thousandth that no instrument here reads beyond.
func figure(x float64) string { return strconv.FormatFloat(math.Round(x*1000)/1000, 'f', -1, 64) }

func loadNo(no int) string { return fmt.Sprintf("load %d", no) }

func (x *Weighing) tell() string {
	if x.Correction {
		return fmt.Sprintf("corrected line %s to %s g", x.Line, x.Grams)
	}
	return fmt.Sprintf("weighed line %s: %s g", x.Line, x.Grams)
}

func (x *Fill) tell() string { return fmt.Sprintf("filled %d jars", x.Jars) }

func tellReading(x *acidity.Reading) string {
	return fmt.Sprintf("read pH %s on the %s jar", figure(x.PH), x.Jar)
}

func (x *Void) tell() string { return "struck a pair of readings: " + x.Cause }

func (x *Heat) tell() string {
	return fmt.Sprintf("recorded the heat step: %s °C for %s min", figure(x.ColdestC), figure(x.Minutes))
}

func (x *Laboratory) tell() string {
	return fmt.Sprintf("entered the laboratory's water activity %s (%s)", figure(x.WaterActivity), x.Report)
}

func (x *Strained) tell() string {
	if x.Clear {
		return "said that the oil is strained clear"
	}
	return "said that the oil is not clear yet"
}

func (x *Decided) tell() string {
	said := map[string]string{OnHold: "put it on hold", Released: "released it", Rejected: "rejected it",
		CalledBack: "called it back"}[x.State]
	return entry.Because(said, x.Reason)
}

func (x *JarsIn) tell() string { return "said that no jar is out: " + x.Reason }

func (x *Recall) tell() string { return "caused a call-back. " + x.Cause }

func (x *MadeGood) tell() string {
	said := map[string]string{Relabelled: "put new labels on the jars", Withdrawn: "withdrew the jars",
		Gone: "told those who have the jars", Unaffected: "found the batch not affected"}[x.How]
	return said + ": " + x.Reason
}

func (x *Print) tell() string {
	of := func(one, more string) string {
		if x.Count == 1 {
			return "1 " + one
		}
		return fmt.Sprintf("%d %s", x.Count, more)
	}
	switch x.What {
	case PrintedHold:
		return "printed " + of("HOLD sticker", "HOLD stickers")
	case PrintedSpoilt:
		return "threw " + of("spoilt label", "spoilt labels") + " away"
	}
	return "printed " + of("label", "labels")
}

func (x *Moved) tell() string {
	place := func(name string) string {
		if name == With {
			return x.PartyName
		}
		return PlaceWords[name]
	}
	return entry.Because(fmt.Sprintf("moved %d jars: %s, now %s", x.Jars, place(x.From), place(x.To)), x.Reason)
}

func (x *Capture) tell() string {
	how := "on " + x.Scale
	if x.Manual {
		how = "typed by hand"
	}
	return entry.Because(fmt.Sprintf("weighed %s g of line %s into %s, %s", x.Grams, x.Line, loadNo(x.Load), how),
		x.Reason)
}

func (x *Tared) tell() string {
	var reading amount.Grams
	if x.Reading != nil {
		reading = *x.Reading
	}
	return fmt.Sprintf("tared %s at %s g for %s", x.Scale, reading, loadNo(x.Load))
}

func (x *Choice) tell() string {
	of := loadNo(x.Load)
	if x.Load == 0 {
		of = "the batch"
	}
	said := map[string]string{AcceptOver: "let the over-pour of %s stay", Rebalances: "put the ratio of %s right",
		Discards: "gave %s up"}[x.How]
	return entry.Because(fmt.Sprintf(said, of), x.Reason)
}

func (x *Tasted) tell() string {
	return entry.Because(fmt.Sprintf("tasted %s: %s g more of line %s", loadNo(x.Load), x.More, x.Line), x.Note)
}

func (x *LeftOut) tell() string {
	return entry.Because(fmt.Sprintf("left line %s out of %s", x.Line, loadNo(x.Load)), x.Reason)
}

func (x *TakenOut) tell() string {
	return entry.Because(fmt.Sprintf("%s g of %s %s", x.Grams, loadNo(x.Load), x.What), x.Reason)
}

func (x *Added) tell() string {
	return entry.Because(fmt.Sprintf("added %s g of %s to %s, for %s", x.Grams, x.Name, loadNo(x.Load), x.Purpose),
		x.Note)
}

func (x *Ticked) tell() string {
	if x.Off {
		return fmt.Sprintf("took the tick of %s off %s", x.Key, loadNo(x.Load))
	}
	return entry.Because(fmt.Sprintf("ticked %s for %s", x.Key, loadNo(x.Load)), x.Note)
}

func (x *Timed) tell() string {
	if x.Stop {
		return "stopped the timer of " + x.Key
	}
	return fmt.Sprintf("started a timer of %s min for %s", figure(x.Minutes), x.Key)
}

func (x *Closed) tell() string { return entry.Because("closed "+loadNo(x.Load), x.Note) }

func (x *Cooled) tell() string {
	return fmt.Sprintf("took %s °C of %s on its way down", figure(x.Celsius), x.What)
}

func (x *NetWeights) tell() string {
	gross := make([]string, len(x.Gross))
	for i, g := range x.Gross {
		gross[i] = g.String()
	}
	return fmt.Sprintf("weighed full jars, %s g empty: %s g", x.Tare, strings.Join(gross, ", "))
}

func (x *Counted) tell() string {
	return entry.Because(fmt.Sprintf("looked at %d seals, %d of them failed; %s g were left over", x.Seals, x.Failed,
		x.Residue), x.Reason)
}

func (x *Aimed) tell() string {
	return entry.Because(fmt.Sprintf("set the fill of the next jars to %s g", x.Grams), x.Reason)
}

func (x *Split) tell() string {
	return fmt.Sprintf("filled %s g of the bowl into %d jars of another size: %s, batch %s", x.Grams, x.Jars, x.Name,
		x.Code)
}

func (x *FromBowl) tell() string {
	return fmt.Sprintf("filled it from the bowl of %s, %s g", x.Code, x.Grams)
}

func (x *Worked) tell() string {
	return entry.Because(fmt.Sprintf("wrote down %s min of hands", figure(x.Minutes)), x.Note)
}
