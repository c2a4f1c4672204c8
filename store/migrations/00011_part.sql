-- +goose Up
-- Who came late or left early. The index still holds all that the first reading of an academy asks for.
ALTER TABLE attendance
  ADD COLUMN part VARCHAR(8) NOT NULL DEFAULT '',
  DROP KEY of_session,
  ADD KEY of_session (academy, day, class, seq, student, present, part);

-- +goose Down
ALTER TABLE attendance
  DROP KEY of_session,
  DROP COLUMN part,
  ADD KEY of_session (academy, day, class, seq, student, present);
