-- +goose Up
-- When a file was first seen, in nanoseconds since 1970.
ALTER TABLE files ADD COLUMN since INTEGER NOT NULL DEFAULT 0;
ALTER TABLE past ADD COLUMN since INTEGER NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE past DROP COLUMN since;
ALTER TABLE files DROP COLUMN since;
