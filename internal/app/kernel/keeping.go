package kernel

import (
	"time"

	"gallipot/internal/core/bench"

	"gallipot/internal/core/keeping"
)

// RulesKept are rules as a lock or a decision keeps them.
func RulesKept(rules []keeping.Rule) []RuleKept {
	out := []RuleKept{}
	for _, r := range rules {
		if r.On {
			out = append(out, RuleKept{r.ID, r.Title, r.Params, r.Told()})
		}
	}
	return out
}

// Evidence is a document attached to a formula, as it is kept: what it is and covers, the file, and who signed it off.
type Evidence struct {
	keeping.Document
	FormulaID    string
	FileName     string
	MediaType    string
	Content      []byte
	Withdrawn    bool
	WithdrawnAt  *time.Time
	WithdrawnBy  string
	WithdrawnWhy string
	AttachedAt   time.Time
	AttachedBy   string
	AttachedWhy  string
}

// keepingStore keeps the documents that rules of keeping ask for.
type keepingStore interface {
	EvidenceList(formulaID string) ([]Evidence, error)
	EvidenceOf(id int64) (Evidence, error)
	AddEvidence(e *Evidence) error
	WithdrawEvidence(id int64, why string, by Stamp) error
}

// InForce are a formula's documents, the newest first, that are not withdrawn.
func InForce(list []Evidence) []keeping.Document {
	var out []keeping.Document
	for _, e := range list {
		if !e.Withdrawn {
			out = append(out, e.Document)
		}
	}
	return out
}

// OfRecall refuses to release a batch whose jars an open real recall looks for.
func OfRecall(st Store, batch int64, state string) error {
	if state != bench.Released {
		return nil
	}
	code, err := st.RecallOf(batch)
	if err != nil || code == "" {
		return err
	}
	return Refuse("decided", "Recall %s looks for its jars: an owner closes that first.", code)
}
