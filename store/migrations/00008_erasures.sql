-- +goose Up
-- How many people were erased: whoever holds the log of an academy reads it anew when this grows.
ALTER TABLE academy ADD COLUMN erasures BIGINT NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE academy DROP COLUMN erasures;
