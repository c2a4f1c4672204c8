// Package demo carries the demo academy: the Lantern Street Grappling Hall, in
// a town that does not exist, with people who do not either. Its library is a
// folder of Markdown files, its drawings are our own, the rest is a bundle without a library;
// all of it is in the open formats and goes through the ordinary readers.
package demo

import (
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io/fs"
	"sync"

	"vereda/core/library"
	"vereda/exchange"
)

// Academy is the demo academy's identifier.
const Academy = "lantern-street"

//go:embed lantern-street.json
var people []byte

//go:embed library drawings
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
	if b.Files, err = drawings(b.Techniques); err != nil {
		return nil, err
	}
	return exchange.Write(b)
})

// drawings reads the files that the techniques show.
func drawings(techniques []library.Technique) ([]exchange.File, error) {
	var all []exchange.File
	seen := map[string]bool{}
	for _, t := range techniques {
		for _, m := range t.Media {
			if seen[m.File] {
				continue
			}
			seen[m.File] = true
			content, err := folder.ReadFile("drawings/" + m.Name)
			if err != nil {
				return nil, err
			}
			if sum := sha256.Sum256(content); hex.EncodeToString(sum[:]) != m.File {
				return nil, fmt.Errorf("%s shows drawing %s, whose content is now %x: write that into the record", t.ID, m.Name, sum)
			}
			all = append(all, exchange.File{Digest: m.File, Content: content})
		}
	}
	return all, nil
}

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
	out := exchange.Bundle{Positions: b.Positions, Techniques: b.Techniques, Sets: b.Sets, Tables: b.Tables, Files: b.Files, Ladders: b.Ladders}
	for _, c := range b.Curricula {
		if c.ID == "blue-1" || c.ID == "grey-1" {
			c.State = "draft"
			out.Curricula = append(out.Curricula, c)
		}
	}
	return out, nil
})
