-- +goose Up
-- A letter can bring a document with it.
ALTER TABLE letter
  ADD COLUMN attached_as VARCHAR(200) NOT NULL DEFAULT '',
  ADD COLUMN attachment MEDIUMTEXT NULL;

-- +goose Down
ALTER TABLE letter DROP COLUMN attachment, DROP COLUMN attached_as;
