-- +goose Up
-- What files held before they were changed, the last few readings of each: ids that were on a page, and where a page that lost
-- its place to another one is now.
CREATE TABLE former (
    folder  INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE,
    path    BLOB    NOT NULL,
    changed INTEGER NOT NULL,          -- when it was found to be another one, in nanoseconds since 1970
    hash    BLOB    NOT NULL,
    doc     BLOB,                      -- what was read of it; NULL for a file that holds no references
    PRIMARY KEY (folder, path, changed)
) STRICT, WITHOUT ROWID;

-- +goose Down
DROP TABLE former;
