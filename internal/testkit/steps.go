package testkit

import "time"

// StepsAlone lets plannings end by their steps, so that a busy machine finds the same plan.
func StepsAlone() func() time.Duration { return nil }
