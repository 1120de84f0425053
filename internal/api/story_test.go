package api

import (
	"fmt"
	"regexp"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/production"

	"github.com/stretchr/testify/assert"
)

var pageOfPDF = regexp.MustCompile(`/Type\s*/Page\b[^s]`)

// TestARecordStandsOnOnePageWithAllThatHappened reads the record of a batch that was corrected, and its PDF.
func TestARecordStandsOnOnePageWithAllThatHappened(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	b := bake(t, c, now)
	b.weighAndFill()
	salt := b.line("Fine sea salt")
	b.write(map[string]any{"kind": "weighing", "weighing": map[string]any{"line": salt.Line, "grams": salt.Actual,
		"lot": "", "draws": salt.Draws, "correction": true, "over": salt.Entry}}).ok()
	*now = now.Add(26 * time.Hour)
	b.readAll(4.05)
	b.decide("released", "tasted good").ok()
	b.send("POST", fmt.Sprintf("/api/labels/2/print?key=st-%d", b.id), map[string]any{"batch": b.id, "count": 12}).ok()

	s := get[production.Story](c, fmt.Sprintf("/api/batches/%d/story", b.id))
	v := b.view()
	assert.Len(t, s.Acts, len(v.Entries), "no act is left out")
	for i, a := range s.Acts {
		assert.Equal(t, v.Entries[i].Seq, a.Seq)
		assert.NotEmpty(t, a.Said, a.Kind)
		assert.NotContains(t, a.Said, "line "+salt.Line)
	}
	var fixed production.StoryAct
	for _, a := range s.Acts {
		if strings.HasPrefix(a.Said, "corrected Fine sea salt to") {
			fixed = a
		}
	}
	assert.Positive(t, fixed.Corrects, "a correction points to what it corrects")
	assert.Contains(t, s.Acts[fixed.Corrects-1].Said, "weighed Fine sea salt")
	facts := fmt.Sprint(s.Facts)
	for _, want := range []string{"12 jars filled", "none is short", "g in,", "12 looked at", "released by Ines",
		"tasted good",
		"On the bench 12", "readings no. ", "Rules in force", "Under "} {
		assert.Contains(t, facts, want)
	}
	assert.Contains(t, fmt.Sprint(s.Label), "190 g")
	for _, l := range s.Lines {
		assert.NotEmpty(t, l.Lots, l.Name)
	}

	is, err := c.app.Store.With(t.Context()).ChainHead()
	assert.NoError(t, err)
	assert.Equal(t, is, s.Head, "whoever has the paper can prove the book by it")
	raw := c.send("GET", fmt.Sprintf("/api/batches/%d/record.pdf", b.id), nil).ok().body
	assert.Len(t, pageOfPDF.FindAll(raw, -1), 1, "one page")
	text := strings.Join(strings.Fields(pdfText(t, raw)), " ")
	for _, want := range []string{"Beetroot", s.Code, "corrected Fine sea salt", "released it: tasted good",
		"What the label said",
		s.Lines[0].Lots[0].Code, "1 / 1", s.Head} {
		assert.Contains(t, text, want)
	}
	b.decide("called_back", "a jar swelled").ok()
	facts = fmt.Sprint(get[production.Story](c, fmt.Sprintf("/api/batches/%d/story", b.id)).Facts)
	assert.Contains(t, facts, "a jar swelled")
	assert.Contains(t, facts, "No date")
	assert.NotContains(t, facts, " days, until", "what is called back keeps no day longer")
	assert.Equal(t, 404, c.send("GET", "/api/batches/9999/story", nil).status)
	assert.Equal(t, 404, c.send("GET", "/api/batches/9999/record.pdf", nil).status)
}
