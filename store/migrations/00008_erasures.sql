-- How many people were erased: whoever holds the log of an academy reads it anew when this grows.
ALTER TABLE academy ADD COLUMN IF NOT EXISTS erasures BIGINT NOT NULL DEFAULT 0;
