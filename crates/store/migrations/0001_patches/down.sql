DROP TABLE versions; DROP TABLE patches;
