package recall

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/law"
)

// Shop is who writes a letter, and how.
type Shop struct {
	Name      string
	Address   string
	LotPrefix string // before the code on its labels
	Tongue    law.Tongue
	Zone      *time.Location // in which its days begin
}

// Reached is how somebody who has jars is reached. At a market nobody knows who bought.
type Reached struct {
	Contact string
	Market  bool
}

// Letter is a text to send. A drill's says so before anything else.
type Letter struct {
	Party   int64  `json:"party"` // 0: the authority
	To      string `json:"to"`
	Contact string `json:"contact"`
	Subject string `json:"subject"`
	Text    string `json:"text"`
}

// Letters are what everybody who has jars is told: customers by a letter, who bought at a market by a notice; and what
// a real recall tells the authority.
func (s State) Letters(shop Shop, how map[int64]Reached) []Letter {
	out := []Letter{}
	for _, p := range s.Parties {
		l := Letter{Party: p.ID, To: p.Name, Contact: how[p.ID].Contact}
		if how[p.ID].Market {
			l.Subject, l.Text = s.subject("NOTICE TO BUYERS", s.of(p.ID)), s.notice(shop, p)
		} else {
			l.Subject, l.Text = s.subject("PRODUCT RECALL", s.of(p.ID)), s.letter(shop, p)
		}
		out = append(out, l)
	}
	if !s.Mock {
		out = append(out, Letter{To: "The authority", Subject: s.subject("PRODUCT RECALL", s.Lines),
			Text: s.report(shop)})
	}
	return out
}

// exercise stands before everything that a drill writes.
const exercise = "EXERCISE ONLY. Nothing is wrong with these jars; please only tell us that this reached you."

// subject names the products of lines, each once.
func (s State) subject(kind string, lines []Line) string {
	if s.Mock {
		kind = "EXERCISE: " + strings.ToLower(kind)
	}
	var names []string
	for _, l := range lines {
		if !slices.Contains(names, l.Name) {
			names = append(names, l.Name)
		}
	}
	return kind + ": " + strings.Join(names, "; ")
}

// jars tells the jars of each batch that lines name, one under the other.
func (shop Shop) jars(lines []Line) string {
	var b strings.Builder
	for _, l := range lines {
		fmt.Fprintf(&b, "  %s, %s%s", l.Name, shop.LotPrefix, l.Code)
		if d, err := day.Parse(l.Ends); err == nil {
			fmt.Fprintf(&b, ", with the date %s", shop.Tongue.DayYear(d))
		}
		if l.Jars > 0 {
			fmt.Fprintf(&b, ": %s", jarWord(l.Jars))
			if at, err := time.Parse(time.RFC3339, l.Since); err == nil && l.Place == bench.With {
				fmt.Fprintf(&b, ", the last of them on %s", shop.Tongue.DayYear(at.In(shop.Zone)))
			}
		}
		b.WriteString("\n")
	}
	return b.String()
}

func jarWord(n int) string {
	if n == 1 {
		return "1 jar"
	}
	return fmt.Sprintf("%d jars", n)
}

func (s State) of(party int64) []Line {
	var out []Line
	for _, l := range s.Lines {
		if l.Place == bench.With && l.Party == party {
			out = append(out, l)
		}
	}
	return out
}

// why is the reason, with the allergen that the label does not name, and who must not eat of it.
func (s State) why() string {
	out := "Why: " + s.Why
	if !strings.ContainsAny(out[len(out)-1:], ".!?") {
		out += "."
	}
	if s.Allergen != "" {
		out += fmt.Sprintf(
			" The label does not name %s. Nobody who is allergic or intolerant to it may eat of these jars.",
			s.Allergen)
	}
	return out
}

func (s State) head() string {
	if s.Mock {
		return exercise + "\n\n"
	}
	return ""
}

func (s State) letter(shop Shop, p Party) string {
	return s.head() + fmt.Sprintf(`To %s

We call back these jars, which you had from us:
%s
%s

Please, now:
  1. Stop selling and using them. Do not taste them, do not give them away.
  2. Set what you have apart, marked “do not sell”, and count it.
  3. Tell us today how many you set apart and how many were sold or used.
  4. If you passed jars on to another shop or kitchen, tell them, and tell us who they are.
  5. If a buyer asks: do not eat it; bring it back or throw it away. We make it good.

%s`, p.Name, shop.jars(s.of(p.ID)), s.why(), shop.signed())
}

func (s State) notice(shop Shop, p Party) string {
	lines := s.of(p.ID)
	for i := range lines {
		lines[i].Jars = 0 // how many others bought says nothing to who reads it
	}
	return s.head() + fmt.Sprintf(`To everybody who bought from us: %s

We call back these jars:
%s
%s

Please do not eat it. Bring it back to us, or throw it away and tell us; we make it good. If you gave a jar to somebody
else, please tell them. Who has eaten of it and feels unwell asks a doctor, and takes this notice along.

%s`, p.Name, shop.jars(lines), s.why(), shop.signed())
}

func (s State) report(shop Shop) string {
	var batches []Line
	seen := map[int64]int{}
	for _, l := range s.Lines {
		i, there := seen[l.Batch]
		if !there {
			i, seen[l.Batch] = len(batches), len(batches)
			batches = append(batches, Line{Row: Row{Code: l.Code, Name: l.Name, Ends: l.Ends}})
		}
		batches[i].Jars += l.Jars
	}
	who := []string{}
	for _, p := range s.Parties {
		said := "not told yet"
		if p.Told != nil {
			said = "told " + shop.Tongue.Moment(p.Told.In(shop.Zone))
		}
		who = append(who, fmt.Sprintf("  %s: %s, %s", p.Name, jarWord(p.Jars), said))
	}
	if len(who) == 0 {
		who = []string{"  nobody; no jar left the shop"}
	}
	a := s.Account
	return fmt.Sprintf(`We call back these jars, of our own making:
%s
%s

Begun %s by %s. Of %s: %d were found with us, %d are set apart by who has them, %d went to people who eat them,
%d were out of sale before, %d are not found, %d are still looked for.

Who has jars of it:
%s

%s`, shop.jars(batches), s.why(), shop.Tongue.Moment(s.Began.In(shop.Zone)), s.By, jarWord(a.Made), a.Here,
		a.Held, a.Sold, a.Gone, a.Missing, a.Open, strings.Join(who, "\n"), shop.signed())
}

func (shop Shop) signed() string {
	if shop.Address == "" {
		return shop.Name
	}
	if strings.HasPrefix(shop.Address, shop.Name) {
		return shop.Address
	}
	return shop.Name + "\n" + shop.Address
}
