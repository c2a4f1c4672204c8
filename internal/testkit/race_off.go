//go:build !race

package testkit

import "testing"

// Seconds is how long a test plans: under the race detector, which looks at every step, a tenth of it.
func Seconds(wish float64) float64 { return wish }

// NothingAtOnce says that nothing happens at once in a test: the race detector, under which it takes ten times as long, finds in others what it would.
func NothingAtOnce(testing.TB) {}
