DROP TABLE steps;
