-- A hash over all other columns of each row: what is changed on the disk, or by another program, is seen.
-- The rows that are there get theirs in the same transaction, from the application. Tables with something long are made
-- anew, so that the hash stands before it. Foreign keys are off while migrating.
CREATE TABLE patches_new (
    id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
    name TEXT NOT NULL,
    -- rises with every save; a save must name the one it is based on
    revision INTEGER NOT NULL,
    created_at TEXT NOT NULL,
    changed_at TEXT NOT NULL,
    -- when it went into the bin; NULL while it is in the library
    binned_at TEXT,
    -- JSON list of texts
    tags TEXT NOT NULL DEFAULT '[]',
    note TEXT NOT NULL DEFAULT '',
    strips INTEGER NOT NULL DEFAULT 0,
    -- SHA-256 of the document; empty: not looked at yet
    content TEXT NOT NULL DEFAULT '',
    -- why the document cannot be read; NULL if it can
    damage TEXT,
    seal TEXT NOT NULL DEFAULT '',
    -- the patch file, as text
    document TEXT NOT NULL
);
INSERT INTO patches_new (id, name, revision, created_at, changed_at, binned_at, tags, note, strips, content, damage, document)
    SELECT id, name, revision, created_at, changed_at, binned_at, tags, note, strips, content, damage, document FROM patches;
-- numbers are never given twice, not even those of patches that are gone
DELETE FROM sqlite_sequence WHERE name = 'patches_new';
INSERT INTO sqlite_sequence (name, seq) SELECT 'patches_new', seq FROM sqlite_sequence WHERE name = 'patches';
DROP TABLE patches;
ALTER TABLE patches_new RENAME TO patches;
CREATE INDEX patches_by_change ON patches (changed_at DESC, id DESC);

-- a document changed by something else than this application is seen in a list without being read
CREATE TRIGGER patches_unread AFTER UPDATE OF document ON patches
WHEN NEW.content = OLD.content AND NEW.document IS NOT OLD.document
BEGIN
    UPDATE patches SET content = '' WHERE id = NEW.id;
END;

CREATE TABLE recordings_new (
    -- SHA-256 of the WAV file, so that none is kept twice
    content TEXT PRIMARY KEY NOT NULL,
    name TEXT NOT NULL,
    frames INTEGER NOT NULL,
    rate_hz INTEGER NOT NULL,
    created_at TEXT NOT NULL,
    seal TEXT NOT NULL DEFAULT '',
    wav BLOB NOT NULL
);
INSERT INTO recordings_new (content, name, frames, rate_hz, created_at, wav)
    SELECT content, name, frames, rate_hz, created_at, wav FROM recordings;
DROP TABLE recordings;
ALTER TABLE recordings_new RENAME TO recordings;

ALTER TABLE versions ADD COLUMN seal TEXT NOT NULL DEFAULT '';
ALTER TABLE library ADD COLUMN seal TEXT NOT NULL DEFAULT '';
ALTER TABLE kept ADD COLUMN seal TEXT NOT NULL DEFAULT '';
