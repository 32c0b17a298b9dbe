-- +goose Up
-- A file may come to where another one is taken away by the same change set: when a move is undone that left a page behind.
CREATE TABLE changed_files_by_kind (
    change INTEGER NOT NULL REFERENCES changes (id) ON DELETE CASCADE,
    path   BLOB    NOT NULL,
    kind   TEXT    NOT NULL,           -- edited, moved, made or deleted
    before BLOB    NOT NULL,           -- hash
    after  BLOB    NOT NULL,           -- hash
    origin BLOB,                       -- where a moved file stood before
    whole  BLOB,                       -- the bytes of a file that was made or deleted
    mode   INTEGER NOT NULL,           -- of a file that was made or deleted
    PRIMARY KEY (change, path, kind)
) STRICT, WITHOUT ROWID;
INSERT INTO changed_files_by_kind SELECT change, path, kind, before, after, origin, whole, mode FROM changed_files;
DROP TABLE changed_files;
ALTER TABLE changed_files_by_kind RENAME TO changed_files;

-- +goose Down
CREATE TABLE changed_files_by_path (
    change INTEGER NOT NULL REFERENCES changes (id) ON DELETE CASCADE,
    path   BLOB    NOT NULL,
    before BLOB    NOT NULL,
    after  BLOB    NOT NULL,
    kind   TEXT    NOT NULL DEFAULT 'edited',
    origin BLOB,
    whole  BLOB,
    mode   INTEGER NOT NULL DEFAULT 420,
    PRIMARY KEY (change, path)
) STRICT, WITHOUT ROWID;
INSERT OR IGNORE INTO changed_files_by_path SELECT change, path, before, after, kind, origin, whole, mode FROM changed_files;
DROP TABLE changed_files;
ALTER TABLE changed_files_by_path RENAME TO changed_files;
