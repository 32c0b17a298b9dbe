-- +goose Up
CREATE TABLE folders (
    id      INTEGER PRIMARY KEY,
    path    TEXT    NOT NULL UNIQUE,
    opened  INTEGER NOT NULL,          -- nanoseconds since 1970
    exclude TEXT                       -- JSON array of patterns; NULL for the default
) STRICT;

-- What was read of a page, by the hash of its bytes: the same page is kept once, wherever it stands.
CREATE TABLE documents (
    hash BLOB PRIMARY KEY,
    doc  BLOB NOT NULL
) STRICT, WITHOUT ROWID;

-- Which file had which bytes when the folder was last read.
CREATE TABLE files (
    folder   INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE,
    path     BLOB    NOT NULL,
    size     INTEGER NOT NULL,         -- bytes
    modified INTEGER NOT NULL,         -- nanoseconds since 1970
    hash     BLOB    NOT NULL,
    PRIMARY KEY (folder, path)
) STRICT, WITHOUT ROWID;

-- Change sets, with what they replaced.
CREATE TABLE changes (
    id     INTEGER PRIMARY KEY,
    folder INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE,
    title  TEXT    NOT NULL,
    made   INTEGER NOT NULL,           -- nanoseconds since 1970
    state  TEXT    NOT NULL CHECK (state IN ('writing', 'done', 'taken back')),
    undoes INTEGER REFERENCES changes (id)
) STRICT;
CREATE INDEX changes_by_folder ON changes (folder, id);

CREATE TABLE changed_files (
    change INTEGER NOT NULL REFERENCES changes (id) ON DELETE CASCADE,
    path   BLOB    NOT NULL,
    before BLOB    NOT NULL,           -- hash
    after  BLOB    NOT NULL,           -- hash
    PRIMARY KEY (change, path)
) STRICT, WITHOUT ROWID;

CREATE TABLE changed_bytes (
    change INTEGER NOT NULL REFERENCES changes (id) ON DELETE CASCADE,
    path   BLOB    NOT NULL,
    start  INTEGER NOT NULL,           -- offset in the file before, in bytes
    old    BLOB    NOT NULL,
    new    BLOB    NOT NULL,
    line   INTEGER NOT NULL,           -- from 1
    around TEXT    NOT NULL,           -- JSON: the line before and after, to be shown
    PRIMARY KEY (change, path, start)
) STRICT, WITHOUT ROWID;

-- +goose Down
DROP TABLE changed_bytes;
DROP TABLE changed_files;
DROP TABLE changes;
DROP TABLE files;
DROP TABLE documents;
DROP TABLE folders;
