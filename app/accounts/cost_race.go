//go:build race

package accounts

// Under the race detector a hash would take a second of every sign-in. Nobody runs an academy with it: a hash says what it cost, so that those made
// here are told from others.
const (
	argonTime    = 1
	argonMemory  = 1024 // KiB
	argonThreads = 1
)
