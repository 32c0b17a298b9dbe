-- +goose Up
-- How many bytes a change set keeps, so that the history is listed and limited without reading them.
ALTER TABLE changes ADD COLUMN size INTEGER NOT NULL DEFAULT 0;
UPDATE changes SET size =
    coalesce((SELECT sum(length(b.old) + length(b.new) + length(b.around)) FROM changed_bytes b WHERE b.change = changes.id), 0) +
    coalesce((SELECT sum(coalesce(length(f.whole), 0)) FROM changed_files f WHERE f.change = changes.id), 0);

-- Which change set moved a file to where it is is asked for by that path; what took a change set back, by its id.
CREATE INDEX changed_files_by_path ON changed_files (path, change);
CREATE INDEX changes_by_undone ON changes (undoes);

-- What was taken out of the history since it grew too large or too old: how many change sets, and when the last of them was
-- made, in nanoseconds since 1970.
ALTER TABLE folders ADD COLUMN pruned INTEGER NOT NULL DEFAULT 0;
ALTER TABLE folders ADD COLUMN pruned_until INTEGER NOT NULL DEFAULT 0;

-- A sum over a row of what was read, by which one that was damaged is noticed. What an older program kept is read anew.
ALTER TABLE files ADD COLUMN sum BLOB;
ALTER TABLE past ADD COLUMN sum BLOB;

-- +goose Down
ALTER TABLE past DROP COLUMN sum;
ALTER TABLE files DROP COLUMN sum;
ALTER TABLE folders DROP COLUMN pruned_until;
ALTER TABLE folders DROP COLUMN pruned;
DROP INDEX changes_by_undone;
DROP INDEX changed_files_by_path;
ALTER TABLE changes DROP COLUMN size;
