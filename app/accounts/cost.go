//go:build !race

package accounts

// argon2id with the first recommended option of RFC 9106 scaled to a small
// server: one pass less memory, more passes.
const (
	argonTime    = 3
	argonMemory  = 32 * 1024 // KiB
	argonThreads = 1
)
