package damage_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"arvel/test/damage"
	"arvel/test/seed"
)

// Each class of damage is known as well as it can be, from the folder alone and with its record, and no better.
func TestCertainMeansCertain(t *testing.T) {
	r := rand.New(rand.NewPCG(seed.Of(t), 1))
	for _, c := range damage.Classes {
		for name, warm := range map[string]bool{"cold": false, "warm": true} {
			t.Run(c.Name+", "+name, func(t *testing.T) {
				for range 30 {
					_, faults := c.Run(damage.NewWords(r), warm)
					if !assert.Empty(t, faults) {
						return
					}
				}
			})
		}
	}
}
