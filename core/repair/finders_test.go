package repair

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"arvel/core/audit/rule"
)

func TestEveryFinderIsOfARule(t *testing.T) {
	for name := range finders {
		assert.NotNil(t, rule.All.Named(name), name)
	}
}
