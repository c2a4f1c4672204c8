-- What coaches count and note while they walk round, and more of what a class reports.
CREATE TABLE IF NOT EXISTS tally (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  class VARCHAR(100) NOT NULL,
  day DATE NOT NULL,
  student VARCHAR(100) NOT NULL,
  technique VARCHAR(200) NOT NULL,
  point VARCHAR(200) NOT NULL,
  fault VARCHAR(200) NOT NULL,
  count INT NOT NULL,
  words VARCHAR(1200) NOT NULL,
  PRIMARY KEY (academy, seq),
  KEY of_class (academy, class, day),
  KEY of_student (academy, student, day),
  FOREIGN KEY (academy, seq) REFERENCES event (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

ALTER TABLE class_report_item ADD COLUMN IF NOT EXISTS point VARCHAR(200) NOT NULL DEFAULT '';
