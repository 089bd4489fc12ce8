DROP TABLE beside;
