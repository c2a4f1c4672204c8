// Package demo carries the demo academy: the Lantern Street Grappling Hall, in
// a town that does not exist, with people who do not either.
package demo

import _ "embed"

// Bundle is the demo academy in the open format.
//
//go:embed lantern-street.json
var Bundle []byte
