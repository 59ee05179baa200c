-- +goose Up
CREATE TABLE specimens (
    id       TEXT PRIMARY KEY,
    name     TEXT NOT NULL,
    head     INTEGER NOT NULL DEFAULT 0,  -- the present revision
    sequence INTEGER NOT NULL DEFAULT 0,  -- counts every change, undo and redo among them
    created  TEXT NOT NULL,
    changed  TEXT NOT NULL,
    deleted  TEXT                         -- when it was taken off the Shelf; NULL while it is on it
);

CREATE TABLE revisions (
    specimen TEXT NOT NULL REFERENCES specimens (id),
    number   INTEGER NOT NULL,
    parent   INTEGER,                     -- the revision the edit was made on; NULL for the first
    depth    INTEGER NOT NULL DEFAULT 0,  -- how many edits led here
    redo     INTEGER,                     -- the child that redo goes to
    document BLOB NOT NULL,               -- gzip of the JSON
    edit     BLOB NOT NULL,
    title    TEXT NOT NULL,
    author   TEXT NOT NULL,
    touches  TEXT NOT NULL,               -- JSON list of IDs
    made     TEXT NOT NULL,
    PRIMARY KEY (specimen, number)
);

CREATE TABLE blobs (
    hash TEXT PRIMARY KEY,
    data BLOB NOT NULL
);

-- +goose Down
DROP TABLE blobs;
DROP TABLE revisions;
DROP TABLE specimens;
