package keeping_test

import (
	"fmt"

	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
)

// Without a reading no life is given, and the verdict says so.
func ExampleJudge() {
	gb, err := law.Of(law.GB)
	if err != nil {
		fmt.Println(err)
		return
	}
	v := keeping.Judge(gb, keeping.Chilled, keeping.Facts{Limit: 4.2}, keeping.Rules())
	fmt.Println(v.Condition, v.Days == nil)
	fmt.Println(v.Reason)
	// Output:
	// chilled true
	// No storage life yet: the deciding reading comes first.
}
