package production

import (
	"cmp"
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/law"
	"gallipot/internal/core/told"
	"gallipot/internal/core/trace"
)

// Story is the whole record of a batch on one page: what it was, what went in, everything that happened with who and
// when, what the decision rested on and what the label said.
type Story struct {
	ID      int64       `json:"id"`
	Code    string      `json:"code"`
	Name    string      `json:"name"`
	Version int         `json:"version"`
	MadeOn  day.Day     `json:"made_on"`
	Planned int         `json:"jars_planned"`
	By      string      `json:"planned_by"`
	State   string      `json:"state"`
	Facts   []StoryFact `json:"facts"`
	Lines   []StoryLine `json:"lines"`
	Acts    []StoryAct  `json:"acts"`
	Label   []StoryFact `json:"label"` // what the newest printed label said; empty: none was printed
	Shop    string      `json:"shop"`
	Drawn   time.Time   `json:"drawn_at"`
	Head    string      `json:"head"` // of the chain as it was drawn: it proves later that the book is the same
}

// StoryFact is one fact about a batch.
type StoryFact struct {
	What string `json:"what"`
	Says string `json:"says"`
}

// StoryLine is what went in for a line.
type StoryLine struct {
	Name   string        `json:"name"`
	Target amount.Grams  `json:"target_g"`
	Actual *amount.Grams `json:"actual_g"`
	Lots   []StoryLot    `json:"lots"`
	By     string        `json:"by"`
}

// StoryLot is a lot that a line was drawn from.
type StoryLot struct {
	ID       int64        `json:"id"`
	Code     string       `json:"code"`
	Grams    amount.Grams `json:"grams"`
	Supplier string       `json:"supplier"`
	Said     string       `json:"said"`
}

// StoryAct is one act of the record. Corrects is the place of the act that it corrects; 0 for none.
type StoryAct struct {
	Seq      int       `json:"seq"`
	At       time.Time `json:"at"`
	By       string    `json:"by"`
	Role     string    `json:"role"`
	Kind     string    `json:"kind"`
	Said     string    `json:"said"`
	Corrects int       `json:"corrects"`
}

// Story tells a batch's record. Errors: ErrNotFound.
func (a *Room) Story(ctx context.Context, id int64) (Story, error) {
	st := a.On(ctx)
	l, err := a.Load(st, id)
	if err != nil {
		return Story{}, err
	}
	s, _, err := a.Settings(st)
	if err != nil {
		return Story{}, err
	}
	out := Story{ID: id, Code: l.Row.Code, Name: l.name, Version: l.Row.Version, Planned: l.Row.Jars,
		MadeOn: day.Of(l.Row.MadeOn), By: l.Row.CreatedBy, State: l.Record.State, Shop: s.Name,
		Drawn: a.Now(), Facts: l.storyFacts(s.Tongue()), Lines: l.storyLines(), Label: []StoryFact{}}
	if out.Acts, err = l.storyActs(s.Tongue()); err != nil {
		return out, err
	}
	if out.Label, err = l.storyLabel(); err != nil {
		return out, err
	}
	out.Head, err = st.ChainHead()
	return out, err
}

// storyFacts are what stands of the batch, in the order of work.
func (l Loaded) storyFacts(t law.Tongue) []StoryFact {
	r := l.Record
	out := []StoryFact{}
	say := func(what, format string, args ...any) {
		out = append(out, StoryFact{what, told.InTongue(fmt.Sprintf(format, args...), t)})
	}
	if p := l.Row.Planned; p != nil && p.Vessel.Name != "" {
		say("Made in", "%s, %s", p.Vessel.Name, count(len(p.Loads), "load", "loads"))
	}
	if r.FromBowl != nil {
		say("Filled from", "the bowl of %s, %s g of it", r.FromBowl.Code, r.FromBowl.Grams)
	}
	for _, s := range r.Splits {
		say("Other jars", "%s g of the bowl went into %s: %s, %s", s.Grams, count(s.Jars, "jar", "jars"), s.Name,
			s.Code)
	}
	if r.Fill != nil {
		said := count(r.Fill.Jars, "jar", "jars") + " filled"
		if r.Fill.Rejected > 0 {
			said += fmt.Sprintf(", %d set aside", r.Fill.Rejected)
		}
		say("Filling", "%s", said)
	}
	if r.Net != nil {
		say("Net weights", "%s", r.Net.Sentence)
	}
	if b := l.Made().Balance(r.Counted); b != nil {
		said := fmt.Sprintf("%s g in, %s g in jars, %s g left over, %s g samples, %s g spilt, %s g (%s %%) unexplained",
			b.In, b.Jars, b.Residue, b.Samples, b.Spilt, b.Unexplained, b.Share)
		if r.Counted != nil && r.Counted.Reason != "" {
			said += ": " + r.Counted.Reason
		}
		say("Grams", "%s", said)
	}
	if c := r.Counted; c != nil {
		say("Seals", "%d looked at, %d of them not tight", c.Seals, c.Failed)
	}
	if r.Heat != nil {
		say("Heat step", "%g °C for %g min on the coldest jar", r.Heat.ColdestC, r.Heat.Minutes)
	}
	return append(out, l.storyVerdict(t)...)
}

// storyVerdict is what was measured and decided, and where the jars are.
func (l Loaded) storyVerdict(t law.Tongue) []StoryFact {
	r := l.Record
	out := []StoryFact{}
	say := func(what, format string, args ...any) {
		out = append(out, StoryFact{what, told.InTongue(fmt.Sprintf(format, args...), t)})
	}
	say("Acidity", "%s", r.Acidity.Sentence)
	on := func(at time.Time) string {
		return day.Mark(day.Of(at.In(l.Book.Settings.Zone())))
	}
	v := l.Verdict(l.Book.Law)
	switch {
	case r.State != bench.Released: // only what may leave has a date
		say("Keeps", "No date: it is %s.", bench.StateWords[r.State])
	case v.Days != nil:
		say("Keeps", "%d days, until %s: %s", *v.Days, day.Mark(l.LastDay(v)), v.Reason)
	default:
		say("Keeps", "%s", v.Reason)
	}
	if d := r.Decided; d != nil {
		said := bench.StateWords[d.State] + " by " + r.DecideBy
		if r.DecideAt != nil {
			said += ", " + on(*r.DecideAt)
		}
		if d.Reason != "" {
			said += ": " + d.Reason
		}
		say("Decision", "%s", said)
		if d.Sentence != "" && d.Sentence != r.Acidity.Sentence {
			say("It rested on", "%s", d.Sentence)
		}
		out = append(out, l.storyRested(t)...)
	}
	for _, x := range r.Recalled {
		say("Called back", "%s, by %s: %s", on(x.At), x.By, x.Why)
	}
	if doubt := l.stands().Doubt(); r.State == bench.Released && doubt != "" {
		say("Stays here", "%s", doubt)
	}
	return append(out, l.storyJars()...)
}

// storyJars is where the jars are, and what is still missing before they may leave.
func (l Loaded) storyJars() []StoryFact {
	r := l.Record
	out := []StoryFact{}
	var jars []string
	for _, j := range r.Jars {
		if j.Jars > 0 {
			jars = append(jars, fmt.Sprintf("%s %d", cmp.Or(j.PartyName, trace.PlaceWords[j.Place]), j.Jars))
		}
	}
	if len(jars) > 0 {
		out = append(out, StoryFact{"Jars", strings.Join(jars, "; ")})
	}
	if len(r.Missing) > 0 && r.State == bench.OnHold {
		out = append(out, StoryFact{"Still needed", strings.Join(r.Missing, "; ")})
	}
	return out
}

func count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

func (l Loaded) storyLines() []StoryLine {
	out := []StoryLine{}
	for _, x := range l.Record.Lines {
		line := StoryLine{Name: x.Name, Target: x.Grams, Actual: x.Actual, By: x.By, Lots: []StoryLot{}}
		for _, d := range x.Draws {
			f := l.Needs.Lots[d.Lot]
			line.Lots = append(line.Lots, StoryLot{ID: d.Lot, Code: d.Code, Grams: d.Grams, Supplier: f.Supplier,
				Said: f.Text})
		}
		if len(x.Draws) == 0 && x.Lot != "" {
			line.Lots = append(line.Lots, StoryLot{Code: x.Lot, Grams: *x.Actual})
		}
		out = append(out, line)
	}
	return out
}

// storyActs are all acts in their order, with the names of lines in the place of their ids.
func (l Loaded) storyActs(t law.Tongue) ([]StoryAct, error) {
	places, names := map[int64]int{}, map[string]string{}
	for _, e := range l.entries {
		places[e.ID] = e.Seq
	}
	for _, x := range l.Record.Lines {
		names[x.Line] = x.Name
	}
	errands := map[string]string{}
	if p := l.Row.Planned; p != nil {
		for _, e := range p.Errands {
			errands[e.Key] = e.Text
		}
	}
	out := []StoryAct{}
	for _, e := range l.entries {
		if e.Kind() == "" {
			continue // what meters went through has its own place
		}
		said := lineNamed.ReplaceAllStringFunc(e.Told(), func(found string) string {
			if name, ok := names[strings.TrimPrefix(found, "line ")]; ok {
				return name
			}
			return found
		})
		if text := errands[errandOf(e.Body)]; text != "" {
			said = strings.Replace(said, errandOf(e.Body), "“"+text+"”", 1)
		}
		out = append(out, StoryAct{Seq: e.Seq, At: e.At, By: e.By, Role: string(e.Role), Kind: e.Kind(),
			Said: told.InTongue(said, t), Corrects: places[overOf(e.Body)]})
	}
	return out, nil
}

var lineNamed = regexp.MustCompile(`line [A-Za-z0-9_.-]*[A-Za-z0-9_]`)

// errandOf is the errand that an act is about; empty where it is about none.
func errandOf(body any) string {
	switch x := body.(type) {
	case *bench.Ticked:
		return x.Key
	case *bench.Timed:
		return x.Key
	}
	return ""
}

// overOf is the entry that an act takes the place of, or strikes; 0: none.
func overOf(body any) int64 {
	switch x := body.(type) {
	case *bench.Weighing:
		return x.Over
	case *bench.NetWeights:
		return x.Over
	case *bench.Void:
		return x.Entry
	}
	return 0
}

// storyLabel is what the newest printed label said.
func (l Loaded) storyLabel() ([]StoryFact, error) {
	out := []StoryFact{}
	for i := len(l.entries) - 1; i >= 0; i-- {
		p, ok := l.entries[i].Body.(*bench.Print)
		if !ok || p.What != "label" || len(p.Kept) == 0 {
			continue
		}
		k, err := kernel.KeptOf(p)
		if err != nil {
			return out, fmt.Errorf("what entry %d printed: %w", l.entries[i].ID, err)
		}
		for _, f := range []StoryFact{{"Name", k.ProductName}, {"Legal name", k.LegalName},
			{"Ingredients", plainWords(k.List)},
			{"Contains", plainWords(k.Contains)}, {"May contain", plainWords(k.MayContain)},
			{"Net quantity", k.NetQuantity},
			{"Date", k.DateLine}, {"Storage", k.Storage}, {"Lot", k.Lot}} {
			if f.Says != "" {
				out = append(out, f)
			}
		}
		return out, nil
	}
	return out, nil
}

// plainWords are declared words without the marks of emphasis.
func plainWords(s string) string { return strings.ReplaceAll(s, "**", "") }

// Told says how moments and days are told where the shop is.
func (a *Room) Told(ctx context.Context) (moment func(time.Time) string, on func(day.Day) string, err error) {
	s, _, err := a.Settings(a.On(ctx))
	if err != nil {
		return nil, nil, err
	}
	t := s.Tongue()
	return func(at time.Time) string { return t.Moment(at.In(s.Zone())) },
		func(d day.Day) string { return told.InTongue(day.Mark(d), t) }, nil
}

// storyRested is what the newest decision rested on, as it was kept with it: the readings that counted, what each law
// said, documents, and the rules with their figures. One from before that was kept tells nothing.
func (l Loaded) storyRested(t law.Tongue) []StoryFact {
	var out []StoryFact
	at := slices.IndexFunc(l.entries, func(e bench.Entry) bool { return e.Body == any(l.Record.Decided) })
	if at < 0 {
		return nil
	}
	r, err := rested(l.entries[at])
	if err != nil || r == nil {
		return nil
	}
	say := func(what, format string, args ...any) {
		out = append(out, StoryFact{what, told.InTongue(fmt.Sprintf(format, args...), t)})
	}
	var counted []string
	for _, e := range l.entries {
		if slices.Contains(r.Readings, e.ID) {
			counted = append(counted, fmt.Sprint(e.Seq))
		}
	}
	if len(counted) > 0 {
		said := "readings no. " + strings.Join(counted, ", ")
		if p := r.Estimate; p.Low != nil && p.High != nil {
			said += fmt.Sprintf("; estimated before, pH %.2f to %.2f", *p.Low, *p.High)
		}
		say("It rested on", "%s", said)
	}
	for _, under := range law.All() {
		if last := r.LastDay[under.Regime]; last != "" {
			say("Under "+under.Title, "until %s: %s", day.Mark(last), r.Verdicts[under.Regime].Reason)
			continue
		}
		say("Under "+under.Title, "%s", r.Verdicts[under.Regime].Reason)
	}
	var titles []string
	for _, d := range r.Documents {
		titles = append(titles, d.Title)
	}
	if len(titles) > 0 {
		say("Documents", "%s", strings.Join(titles, "; "))
	}
	var rules []string
	for _, k := range r.Rules {
		rules = append(rules, fmt.Sprint(k.ID))
	}
	say("Rules in force", "%s, with their figures of the day", strings.Join(rules, ", "))
	return out
}
