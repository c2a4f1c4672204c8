//go:build race

package testkit

// Seconds is how long a test plans: under the race detector, which looks at every step, a tenth of it.
func Seconds(wish float64) float64 { return wish / 10 }
