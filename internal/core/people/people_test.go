package people

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestARoleMayDoWhatTheOnesBelowItMay(t *testing.T) {
	for _, c := range []struct {
		who, asked Role
		may        bool
	}{
		{Owner, Owner, true}, {Owner, Maker, true}, {Owner, Helper, true}, {Maker, Owner, false}, {Maker, Maker, true},
		{Maker, Helper, true}, {Helper, Owner, false}, {Helper, Maker, false}, {Helper, Helper, true},
		{"", Helper, false}, {"boss", Helper, false}, {Owner, "", false}, {Owner, "boss", false},
	} {
		assert.Equal(t, c.may, c.who.May(c.asked), "%q for %q", c.who, c.asked)
	}
	assert.False(t, Role("boss").Known())
	assert.True(t, Helper.Known())
}
