-- Who came late or left early. The index still holds all that the first reading of an academy asks for.
ALTER TABLE attendance
  ADD COLUMN IF NOT EXISTS part VARCHAR(8) NOT NULL DEFAULT '';
ALTER TABLE attendance DROP KEY IF EXISTS of_session;
ALTER TABLE attendance ADD KEY IF NOT EXISTS of_session (academy, day, class, seq, student, present, part);
