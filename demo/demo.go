// Package demo carries the demo academy: the Lantern Street Grappling Hall, in
// a town that does not exist, with people who do not either. Its library is a
// folder of Markdown files, drawings among its lines, the rest is a bundle without a library;
// all of it is in the open formats and goes through the ordinary readers.
package demo

import (
	"embed"
	"encoding/json"
	"io/fs"
	"sync"

	"vereda/exchange"
)

// Academy is the demo academy's identifier.
const Academy = "lantern-street"

//go:embed lantern-street.json
var people []byte

//go:embed library
var folder embed.FS

// Bundle is the demo academy as one bundle.
var Bundle = sync.OnceValues(func() ([]byte, error) {
	var b exchange.Bundle
	if err := json.Unmarshal(people, &b); err != nil {
		return nil, err
	}
	records, err := fs.Sub(folder, "library")
	if err != nil {
		return nil, err
	}
	files, err := exchange.MarkdownIn(records)
	if err != nil {
		return nil, err
	}
	if b.Positions, b.Techniques, b.Sets, b.Tables, err = exchange.LibraryOf(exchange.ReadFolder(files)); err != nil {
		return nil, err
	}
	return exchange.Write(b)
})

// Starter is what a new academy starts from: the demo's library, its ladders, and the first curriculum of each.
func Starter() (exchange.Bundle, error) { return starter() }

var starter = sync.OnceValues(func() (exchange.Bundle, error) {
	text, err := Bundle()
	if err != nil {
		return exchange.Bundle{}, err
	}
	b, err := exchange.Read(text)
	if err != nil {
		return exchange.Bundle{}, err
	}
	out := exchange.Bundle{Positions: b.Positions, Techniques: b.Techniques, Sets: b.Sets, Tables: b.Tables, Ladders: b.Ladders}
	for _, c := range b.Curricula {
		if c.ID == "blue-1" || c.ID == "grey-1" {
			c.State = "draft"
			out.Curricula = append(out.Curricula, c)
		}
	}
	return out, nil
})
