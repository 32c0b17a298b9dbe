-- +goose Up
-- Text that was typed into a page and is not saved yet.
CREATE TABLE drafts (
    folder INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE,
    page   BLOB    NOT NULL,
    base   BLOB    NOT NULL,           -- hash of the file that it was begun from
    text   TEXT    NOT NULL,
    made   INTEGER NOT NULL,           -- nanoseconds since 1970
    PRIMARY KEY (folder, page)
) STRICT, WITHOUT ROWID;

-- Links that were followed in the live page, with what their page and their target held then.
CREATE TABLE tried (
    folder  INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE,
    page    BLOB    NOT NULL,
    written BLOB    NOT NULL,
    stood   BLOB    NOT NULL,          -- hash of the page
    landed  BLOB    NOT NULL,          -- hash of the file that it landed on, or empty
    PRIMARY KEY (folder, page, written)
) STRICT, WITHOUT ROWID;

-- +goose Down
DROP TABLE tried;
DROP TABLE drafts;
