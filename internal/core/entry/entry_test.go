package entry

import (
	"encoding/json"
	"errors"
	"fmt"
	"testing"
	"time"

	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// ledger is a record to try a registry on: what was put in, and what was thrown out by the program.
type ledger struct{ in, out int }

type put struct {
	Pieces int `json:"pieces"`
}

type thrown struct {
	Pieces int `json:"pieces"`
}

var kinds = Register(map[string]Kind[*ledger, Head]{
	"put": Row(
		func(_ *ledger, by Head, x *put) error {
			if x.Pieces < 1 || by.By == "" {
				return Refusal{Wrong, "put.pieces", "at least one"}
			}
			return nil
		},
		func(l *ledger, _ Head, x *put) { l.in += x.Pieces },
		func(x *put) string { return fmt.Sprintf("put %d in", x.Pieces) }),
	"thrown": ByProgram(
		func(l *ledger, _ Head, x *thrown) { l.out += x.Pieces },
		func(x *thrown) string { return fmt.Sprintf("threw %d out", x.Pieces) }),
})

func TestARowChecksFoldsAndTells(t *testing.T) {
	l := &ledger{}
	var r Refusal
	require.ErrorAs(t, kinds.Check(l, Head{By: "Ines"}, &put{}), &r)
	assert.Equal(t, "put.pieces", r.Field)
	require.NoError(t, kinds.Check(l, Head{By: "Ines"}, &put{3}))
	require.NoError(t, kinds.Check(l, Head{}, &thrown{1}), "nothing speaks against what the program writes")
	kinds.Fold(l, Head{}, &put{3})
	kinds.Fold(l, Head{}, &thrown{1})
	kinds.Fold(l, Head{}, "of no kind")
	assert.Equal(t, ledger{3, 1}, *l)
	assert.Equal(t, "put 3 in", kinds.Told(&put{3}))
	assert.Equal(t, "threw 1 out", kinds.Tell("thrown", []byte(`{"pieces":1}`)))
	assert.Equal(t, "wrote thrown", kinds.Tell("thrown", []byte(`{"pieces":"many"}`)))
	assert.Equal(t, "wrote a kind", kinds.Tell("a kind", nil))
	assert.Empty(t, kinds.Told(nil))
}

func TestKindsAreKnownByTheirBodies(t *testing.T) {
	assert.Equal(t, []string{"put", "thrown"}, kinds.Names())
	assert.Equal(t, "put", kinds.Of(&put{}))
	assert.Empty(t, kinds.Of(put{}), "a body is pointed to")
	assert.Empty(t, kinds.Of(nil))
	assert.True(t, kinds.ByHand("put"))
	assert.False(t, kinds.ByHand("thrown"))
	for _, raw := range []string{"", "null"} {
		_, err := kinds.Read("put", []byte(raw))
		assert.Equal(t, KindError{"put"}, err)
	}
	_, err := kinds.Read("left", []byte(`{}`))
	assert.True(t, errors.As(err, &KindError{}), "of no registry")
	assert.Contains(t, err.Error(), `"left"`)
}

func TestAnActIsReadAsItWasWritten(t *testing.T) {
	at := time.Date(2026, 11, 26, 10, 30, 0, 0, time.UTC)
	head := Head{ID: 7, Seq: 2, At: at, ClientAt: &at, By: "Ines", Role: people.Maker}
	raw, err := kinds.Marshal(head, &put{3})
	require.NoError(t, err)
	assert.JSONEq(t, `{"id":7,"seq":2,"kind":"put","at":"2026-11-26T10:30:00Z","client_at":"2026-11-26T10:30:00Z",
		"by":"Ines","role":"maker","put":{"pieces":3}}`, string(raw))
	again, body, err := kinds.Unmarshal(raw)
	require.NoError(t, err)
	assert.Equal(t, head, again)
	assert.Equal(t, &put{3}, body)
	for _, bad := range []string{`[]`, `{"id":"x"}`, `{"id":7,"kind":"put"}`, `{"id":7,"kind":"left","left":{}}`} {
		_, _, err := kinds.Unmarshal(json.RawMessage(bad))
		assert.Error(t, err, bad)
	}
}

func TestAReasonAndANoteAreSaidWhereThereAre(t *testing.T) {
	assert.Equal(t, "threw it out: it was old", Because("threw it out", "it was old"))
	assert.Equal(t, "threw it out", Because("threw it out", ""))
	assert.Equal(t, "counted 3 (two on top)", Noted("counted 3", "two on top"))
	assert.Equal(t, "counted 3", Noted("counted 3", ""))
}
