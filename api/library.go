package api

import (
	"bytes"
	"context"

	applibrary "vereda/app/library"

	"github.com/danielgtaylor/huma/v2"

	"vereda/app/state"
	"vereda/core/drawing"
	"vereda/core/library"
	"vereda/core/review"
	"vereda/store/files"
)

// largestImport bounds what an import of library files may send: 48 MB of
// files are 64 MB in base 64.
const largestImport = 72 << 20

// largestList bounds a list in CSV or a calendar: 4 MB, in base 64.
const largestList = 6 << 20

// upTo lets an operation take a larger body than others.
func upTo(bytes int64) func(*huma.Operation) {
	return func(o *huma.Operation) { o.MaxBodyBytes, o.BodyReadTimeout = bytes, largeBodyTime }
}

// At names the version a record was read at.
type At struct {
	Version int `query:"version" doc:"The version it was read at; 0 makes a new one"`
}

// Saved says what a record is called now, and how to undo it.
type Saved struct {
	ID     string `json:"id"`
	Change string `json:"change"`
}

// RecordPath names a record of the library.
type RecordPath struct {
	Kind applibrary.RecordKind `path:"kind" enum:"technique,position,variant set,fork table,settings"`
	ID   string                `path:"id" maxLength:"100"`
}

func (s *Server) library() {
	operation(s, get, "/techniques", "list-techniques", "Search the library by name or alias", func(ctx context.Context, u state.User, in *struct {
		Q string `query:"q" maxLength:"100" doc:"Words of a name or an alias; may be misspelt"`
	}) ([]state.TechniqueLine, error) {
		return s.app.Library.Techniques(ctx, u, in.Q)
	})
	operation(s, post, "/techniques", "add-technique", "Write a new technique", func(ctx context.Context, u state.User, in *body[library.Technique]) (Saved, error) {
		id, change, err := s.app.Library.AddTechnique(ctx, u, in.Body)
		return Saved{id, change}, err
	})
	operation(s, get, "/techniques/{id}", "get-technique", "A technique, written for one side", func(ctx context.Context, u state.User, in *struct {
		ByID
		Side library.Side `query:"side" enum:"left,right"`
	}) (applibrary.TechniquePage, error) {
		return s.app.Library.Technique(ctx, u, in.ID, in.Side)
	})
	operation(s, put, "/techniques/{id}", "save-technique", "Rewrite a technique", func(ctx context.Context, u state.User, in *struct {
		ByID
		Version int `query:"version" required:"true" doc:"The version it was read at"`
		Body    library.Technique
	}) (Done, error) {
		in.Body.ID = in.ID
		id, err := s.app.Library.SaveTechnique(ctx, u, in.Body, in.Version)
		return Done{Change: id}, err
	})
	operation(s, put, "/techniques/{id}/points/{point}", "save-key-point", "Rewrite one key point; its faults stay", func(ctx context.Context, u state.User, in *struct {
		ByID
		Point   string `path:"point"`
		Version int    `query:"version" required:"true"`
		Body    library.KeyPoint
	}) (Done, error) {
		in.Body.ID = in.Point
		id, err := s.app.Library.SaveKeyPoint(ctx, u, in.ID, in.Body, in.Version)
		return Done{Change: id}, err
	})
	operation(s, get, "/techniques/{id}/duplicates", "list-duplicates", "Records that are likely the same", func(ctx context.Context, u state.User, in *ByID) ([]applibrary.LikelyPair, error) {
		return s.app.Library.Duplicates(ctx, u, in.ID)
	})
	operation(s, post, "/techniques/{id}/merges", "merge-techniques", "Merge another record into this one", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Drop string   `json:"drop" maxLength:"100" doc:"The record that goes"`
			Take []string `json:"take" doc:"Sections of which its words are taken"`
		}
	}) (Done, error) {
		id, err := s.app.Library.MergeTechniques(ctx, u, in.ID, in.Body.Drop, in.Body.Take)
		return Done{Change: id}, err
	})
	operation(s, get, "/library/words", "library-words", "The lists records are written with", func(ctx context.Context, u state.User, _ *nothing) (applibrary.Words, error) {
		return s.app.Library.LibraryWords(ctx, u)
	})
	s.positions()
	s.forkTables()
	s.libraryMap()
	s.records()
}

func (s *Server) positions() {
	operation(s, get, "/positions", "list-positions", "Positions by family", func(ctx context.Context, u state.User, _ *nothing) ([]applibrary.PositionLine, error) {
		return s.app.Library.Positions(ctx, u)
	})
	operation(s, put, "/positions", "save-position", "Save a position", func(ctx context.Context, u state.User, in *struct {
		At
		Body library.Position
	}) (Saved, error) {
		id, change, err := s.app.Library.SavePosition(ctx, u, in.Body, in.Version)
		return Saved{id, change}, err
	})
	operation(s, get, "/variant-sets", "list-variant-sets", "Variants side by side, with the house choice", func(ctx context.Context, u state.User, _ *nothing) ([]applibrary.SetPage, error) {
		return s.app.Library.VariantSets(ctx, u)
	})
	operation(s, put, "/variant-sets", "save-variant-set", "Save a variant set", func(ctx context.Context, u state.User, in *struct {
		At
		Body library.VariantSet
	}) (Saved, error) {
		id, change, err := s.app.Library.SaveVariants(ctx, u, in.Body, in.Version)
		return Saved{id, change}, err
	})
}

func (s *Server) forkTables() {
	operation(s, get, "/fork-tables", "list-fork-tables", "All fork tables", func(ctx context.Context, u state.User, _ *nothing) ([]applibrary.TableLine, error) {
		return s.app.Library.ForkTables(ctx, u)
	})
	operation(s, get, "/fork-tables/{id}", "get-fork-table", "A fork table with what can be said of it", func(ctx context.Context, u state.User, in *ByID) (applibrary.TablePage, error) {
		return s.app.Library.ForkTable(ctx, u, in.ID)
	})
	operation(s, put, "/fork-tables", "save-fork-table", "Save a fork table", func(ctx context.Context, u state.User, in *struct {
		At
		Body library.ForkTable
	}) (Saved, error) {
		id, change, err := s.app.Library.SaveForkTable(ctx, u, in.Body, in.Version)
		return Saved{id, change}, err
	})
	operation(s, get, "/library/review", "review-library", "What a careful reader would stop at in the library and the curricula", func(ctx context.Context, u state.User, _ *nothing) (applibrary.ReviewPage, error) {
		return s.app.Library.Review(ctx, u)
	})
	operation(s, post, "/library/review", "review-technique", "What a careful reader would stop at in a technique being written", func(ctx context.Context, u state.User, in *body[library.Technique]) ([]review.Finding, error) {
		return s.app.Library.ReviewTechnique(ctx, u, in.Body)
	})
	operation(s, post, "/library/drawings", "draw-technique", "The drawings of a technique being written", func(ctx context.Context, u state.User, in *body[library.Technique]) ([]drawing.Scene, error) {
		return s.app.Library.DrawTechnique(ctx, u, in.Body)
	})
	operation(s, post, "/fork-tables/verdict", "judge-fork-table", "What is to be said of a fork table being written", func(ctx context.Context, u state.User, in *body[library.ForkTable]) (applibrary.TableVerdict, error) {
		return s.app.Library.JudgeTable(ctx, u, in.Body)
	})
	operation(s, get, "/fork-tables/{id}/quiz", "quiz", "Draw a situation", func(ctx context.Context, u state.User, in *struct {
		ByID
		Last string `query:"last" maxLength:"100" doc:"The row asked before"`
	}) (applibrary.QuizQuestion, error) {
		return s.app.Library.Quiz(ctx, u, in.ID, in.Last)
	})
	operation(s, post, "/fork-tables/{id}/quiz", "answer-quiz", "Answer a drawn situation", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body applibrary.QuizAnswer
	}) (applibrary.QuizVerdict, error) {
		return s.app.Library.AnswerQuiz(ctx, u, in.ID, in.Body)
	})
	operation(s, get, "/fork-tables/{id}/reaction-round", "reaction-round", "A sheet of situations for the partner", func(ctx context.Context, u state.User, in *struct {
		ByID
		N    int `query:"n" minimum:"1" maximum:"200" default:"12"`
		Seed int `query:"seed" minimum:"1" maximum:"1000000" default:"1"`
	}) (applibrary.ReactionSheet, error) {
		return s.app.Library.ReactionRound(ctx, u, in.ID, in.N, in.Seed)
	})
}

func (s *Server) libraryMap() {
	operation(s, get, "/map", "get-map", "The map of positions and techniques with its report", func(ctx context.Context, u state.User, in *applibrary.MapFilter) (applibrary.MapPage, error) {
		return s.app.Library.Map(ctx, u, *in)
	})
	operation(s, get, "/map/chain", "find-chain", "The shortest chain between two places", func(ctx context.Context, u state.User, in *struct {
		applibrary.MapFilter
		From   string   `query:"from" required:"true" doc:"position/attack or position/defend"`
		To     string   `query:"to" required:"true" doc:"position/part, or finish"`
		Avoid  []string `query:"avoid" doc:"Techniques to leave out"`
		By     string   `query:"by" enum:"steps,minutes" default:"steps"`
		Turned bool     `query:"turned" doc:"Every step on its other side: the partner tilts the other way"`
	}) (applibrary.ChainPage, error) {
		return s.app.Library.Chain(ctx, u, in.MapFilter, in.From, in.To, in.Avoid, in.By == "minutes", in.Turned)
	})
}

func (s *Server) records() {
	operation(s, remove, "/records/{kind}/{id}", "delete-record", "Take a record out of the library", func(ctx context.Context, u state.User, in *RecordPath) (Done, error) {
		id, err := s.app.Library.DeleteRecord(ctx, u, in.Kind, in.ID)
		return Done{Change: id}, err
	})
	operation(s, get, "/records/{kind}/{id}/history", "record-history", "Every state of a record, with who and when", func(ctx context.Context, u state.User, in *RecordPath) ([]applibrary.StateLine, error) {
		return s.app.Library.History(ctx, u, in.Kind, in.ID)
	})
	operation(s, get, "/records/{kind}/{id}/history/{edit}", "record-state", "A record as one change left it", func(ctx context.Context, u state.User, in *struct {
		RecordPath
		Edit string `path:"edit" maxLength:"40"`
	}) (applibrary.StatePage, error) {
		return s.app.Library.StateAt(ctx, u, in.Kind, in.ID, in.Edit)
	})
	operation(s, post, "/records/{kind}/{id}/history/{edit}/restore", "restore-record", "Make a record again what it was", func(ctx context.Context, u state.User, in *struct {
		RecordPath
		Edit string `path:"edit" maxLength:"40"`
	}) (Done, error) {
		id, err := s.app.Library.Restore(ctx, u, in.Kind, in.ID, in.Edit)
		return Done{Change: id}, err
	})
	operation(s, post, "/library/imports/preview", "preview-import", "What an import would do, row by row", func(ctx context.Context, u state.User, in *body[applibrary.LibraryImport]) (applibrary.ImportPreview, error) {
		return s.app.Library.PreviewImport(ctx, u, in.Body)
	}, upTo(largestImport))
	operation(s, post, "/library/imports", "take-import", "Save an import: all of it or nothing", func(ctx context.Context, u state.User, in *body[applibrary.LibraryImport]) (Done, error) {
		id, err := s.app.Library.TakeImport(ctx, u, in.Body)
		return Done{Change: id}, err
	}, upTo(largestImport))
	operation(s, post, "/files", "attach-file", "Save a picture or a clip; its content tells what it is", func(ctx context.Context, u state.User, in *struct {
		RawBody []byte `contentType:"application/octet-stream"`
	}) (files.Kept, error) {
		return s.app.Library.Attach(ctx, u, bytes.NewReader(in.RawBody))
	}, upTo(library.LargestFile+1))
}
