package api

import (
	"context"

	"vereda/app/academies"
	"vereda/app/state"
	"vereda/core/library"
	"vereda/core/say"
)

func (s *Server) begin() {
	operation(s, post, "/academy/settings/trial", "try-settings", "What would move if the settings were these", func(ctx context.Context, u state.User, in *struct{ Body academies.SettingsForm }) ([]say.Sentence, error) {
		return s.app.Academies.TrySettings(ctx, u, in.Body)
	})
	operation(s, put, "/academy/settings", "save-settings", "Save the settings", func(ctx context.Context, u state.User, in *struct {
		Version int `query:"version" doc:"The one the form was opened at"`
		Body    academies.SettingsForm
	}) (Done, error) {
		change, err := s.app.Academies.SaveSettings(ctx, u, in.Body, in.Version)
		return Done{Change: change}, err
	})
	operation(s, get, "/begin", "get-begin", "Where the beginning with an academy of one's own stands", func(ctx context.Context, u state.User, _ *nothing) (academies.BeginPage, error) {
		return s.app.Academies.Begin(ctx, u)
	})
	operation(s, post, "/begin/library", "begin-library", "Bring the starter library in, or some families of it", func(ctx context.Context, u state.User, in *struct {
		Body struct {
			Families []library.Family `json:"families" maxItems:"40"`
		}
	}) (Done, error) {
		change, err := s.app.Academies.BeginLibrary(ctx, u, in.Body.Families)
		return Done{Change: change}, err
	})
	operation(s, post, "/begin/ladders", "begin-ladders", "Bring starter ladders in", func(ctx context.Context, u state.User, in *struct {
		Body struct {
			Ladders []string `json:"ladders" minItems:"1" maxItems:"20"`
		}
	}) (Done, error) {
		change, err := s.app.Academies.BeginLadders(ctx, u, in.Body.Ladders)
		return Done{Change: change}, err
	})
	operation(s, post, "/begin/curricula/{id}", "begin-from-starter", "Bring a first curriculum in as a draft", func(ctx context.Context, u state.User, in *ByID) (Done, error) {
		change, err := s.app.Academies.BeginCurriculum(ctx, u, in.ID)
		return Done{Change: change}, err
	})
}
