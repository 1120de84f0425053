package bench

import (
	"strings"
	"testing"

	"gallipot/internal/core/entry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestWhatAHandWroteIsTrimmedAndBounded: every act that takes words says in which field and how many; too many are
// refused in that field, before anything else is asked.
func TestWhatAHandWroteIsTrimmedAndBounded(t *testing.T) {
	for kind, row := range map[string]func(text string) any{
		"fill.reason":         func(s string) any { return &Fill{Reason: s} },
		"void.cause":          func(s string) any { return &Void{Cause: s} },
		"laboratory.report":   func(s string) any { return &Laboratory{WaterActivity: 0.8, Report: s} },
		"strained.note":       func(s string) any { return &Strained{Note: s} },
		"decision.reason":     func(s string) any { return &Decided{State: OnHold, Reason: s} },
		"jars_in.reason":      func(s string) any { return &JarsIn{Reason: s} },
		"made_good.authority": func(s string) any { return &MadeGood{Authority: s} },
		"moved.reason":        func(s string) any { return &Moved{Reason: s} },
		"capture.reason":      func(s string) any { return &Capture{Reason: s} },
		"choice.reason":       func(s string) any { return &Choice{Reason: s} },
		"tasted.note":         func(s string) any { return &Tasted{Note: s} },
		"left_out.reason":     func(s string) any { return &LeftOut{Reason: s} },
		"taken_out.reason":    func(s string) any { return &TakenOut{Reason: s} },
		"added.note":          func(s string) any { return &Added{Note: s} },
		"ticked.note":         func(s string) any { return &Ticked{Note: s} },
		"closed.note":         func(s string) any { return &Closed{Note: s} },
		"cooled.probe":        func(s string) any { return &Cooled{Probe: s} },
		"net_weights.scale":   func(s string) any { return &NetWeights{Scale: s} },
		"counted.reason":      func(s string) any { return &Counted{Reason: s} },
		"aimed.reason":        func(s string) any { return &Aimed{Reason: s} },
		"worked.note":         func(s string) any { return &Worked{Minutes: 5, Note: s} },
	} {
		t.Run(kind, func(t *testing.T) {
			f := NewFold(Needs{})
			var r entry.Refusal
			require.ErrorAs(t, f.Refuses(Entry{Body: row(strings.Repeat("é", 501))}), &r)
			assert.Equal(t, kind, r.Field)
			body := row("  it slopped over \n")
			require.NoError(t, Tidy(Entry{Body: body}))
			for _, s := range body.(interface{ said() []said }).said() {
				assert.Contains(t, []string{"", "it slopped over"}, *s.text)
			}
		})
	}
}

// TestOnlyHandsAreAskedWhatTheyWrite: what the program writes is not taken from outside.
func TestOnlyHandsAreAskedWhatTheyWrite(t *testing.T) {
	var program []string
	for _, kind := range Kinds() {
		if !WrittenByHand(kind) {
			program = append(program, kind)
		}
	}
	assert.Equal(t, []string{"from_bowl", "print", "recall", "split"}, program)
	assert.False(t, WrittenByHand("a kind that nobody knows"))
}
