CREATE TABLE recordings (
    -- SHA-256 of the WAV file, so that none is kept twice
    content TEXT PRIMARY KEY NOT NULL,
    name TEXT NOT NULL,
    frames INTEGER NOT NULL,
    rate_hz INTEGER NOT NULL,
    wav BLOB NOT NULL,
    created_at TEXT NOT NULL
);
