-- +goose Up
-- Where a file that is gone went, if that is known: Arvel moved it, or was told to follow it.
ALTER TABLE past ADD COLUMN went BLOB;

-- +goose Down
ALTER TABLE past DROP COLUMN went;
