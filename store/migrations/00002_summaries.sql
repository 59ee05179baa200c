-- +goose Up
-- What the Shelf shows of a revision, so that listing specimens reads no document. A revision without a row gets one when it is listed.
CREATE TABLE summaries (
    specimen   TEXT NOT NULL,
    number     INTEGER NOT NULL,
    parts      INTEGER NOT NULL,
    vertices   INTEGER NOT NULL,
    joints     INTEGER NOT NULL,
    controls   INTEGER NOT NULL,
    mechanisms INTEGER NOT NULL,
    findings   INTEGER NOT NULL,
    damage     TEXT NOT NULL DEFAULT '',
    PRIMARY KEY (specimen, number)
) WITHOUT ROWID;

-- The Shelf's picture of a specimen, of the revision that was drawn last.
CREATE TABLE pictures (
    specimen TEXT PRIMARY KEY,
    number   INTEGER NOT NULL,
    data     BLOB NOT NULL
);

-- What is known of the folder as a whole.
CREATE TABLE folder (
    key   TEXT PRIMARY KEY,
    value TEXT NOT NULL
);

-- +goose Down
DROP TABLE folder;
DROP TABLE pictures;
DROP TABLE summaries;
