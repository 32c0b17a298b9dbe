-- +goose Up
ALTER TABLE folders ADD COLUMN settings TEXT; -- JSON; NULL for the defaults

-- What was read of each file when the folder was last read. What an older program kept is read anew.
DROP TABLE files;
DROP TABLE documents;
CREATE TABLE files (
    id       INTEGER PRIMARY KEY,
    folder   INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE,
    path     BLOB    NOT NULL,
    size     INTEGER NOT NULL,         -- bytes
    modified INTEGER NOT NULL,         -- nanoseconds since 1970
    hash     BLOB    NOT NULL,
    content  TEXT    NOT NULL,         -- the extension that the first bytes speak for, or ''
    doc      BLOB,                     -- what was read of it; NULL for a file that holds no references
    UNIQUE (folder, path)
) STRICT;

-- The files that were there before and are gone: what the record of the folder knows of them.
CREATE TABLE past (
    folder   INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE,
    path     BLOB    NOT NULL,
    size     INTEGER NOT NULL,
    hash     BLOB    NOT NULL,
    doc      BLOB,
    gone     INTEGER NOT NULL,         -- nanoseconds since 1970
    PRIMARY KEY (folder, path)
) STRICT, WITHOUT ROWID;

-- Findings that the author set aside.
CREATE TABLE aside (
    folder  INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE,
    page    BLOB    NOT NULL,
    rule    TEXT    NOT NULL,
    written BLOB    NOT NULL,
    reason  TEXT    NOT NULL,
    made    INTEGER NOT NULL,          -- nanoseconds since 1970
    PRIMARY KEY (folder, page, rule, written)
) STRICT, WITHOUT ROWID;

-- Change sets can also make, move and delete files and folders.
ALTER TABLE changes ADD COLUMN folders TEXT;                          -- JSON: the folders made and taken away
ALTER TABLE changed_files ADD COLUMN kind TEXT NOT NULL DEFAULT 'edited';  -- edited, moved, made or deleted
ALTER TABLE changed_files ADD COLUMN origin BLOB;                     -- where a moved file stood before
ALTER TABLE changed_files ADD COLUMN whole BLOB;                      -- the bytes of a file that was made or deleted
ALTER TABLE changed_files ADD COLUMN mode INTEGER NOT NULL DEFAULT 420;    -- of a file that was made or deleted

-- +goose Down
DROP TABLE aside;
DROP TABLE past;
