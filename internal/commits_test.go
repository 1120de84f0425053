package internal

import (
	"os/exec"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
)

// longestSubject is how many characters the first line of a commit has at most; earlier ones reach 228.
const longestSubject = 72

func TestCommitSubjectsAreShort(t *testing.T) {
	out, err := exec.Command("git", "log", "--no-merges", "--since=2026-12-02T00:00:00Z", "--format=%s").Output()
	if err != nil {
		t.Skip("there is no history here")
	}
	for subject := range strings.Lines(string(out)) {
		subject = strings.TrimSpace(subject)
		assert.LessOrEqual(t, utf8.RuneCountInString(subject), longestSubject, "%q", subject)
	}
}
