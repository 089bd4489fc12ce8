DROP TABLE recordings;
