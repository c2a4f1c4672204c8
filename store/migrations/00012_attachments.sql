-- A letter can bring a document with it.
ALTER TABLE letter
  ADD COLUMN IF NOT EXISTS attached_as VARCHAR(200) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS attachment MEDIUMTEXT NULL;
