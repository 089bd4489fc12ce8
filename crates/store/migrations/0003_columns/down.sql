DROP TABLE library;
DROP TRIGGER patches_unread;
DROP INDEX patches_by_change;
ALTER TABLE patches DROP COLUMN tags;
ALTER TABLE patches DROP COLUMN note;
ALTER TABLE patches DROP COLUMN strips;
ALTER TABLE patches DROP COLUMN content;
ALTER TABLE patches DROP COLUMN damage;
