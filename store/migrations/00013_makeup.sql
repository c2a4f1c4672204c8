-- What a class did with some of its people alone: those who had missed something, at a station of their own. A row is one of them with one technique.
CREATE TABLE IF NOT EXISTS class_report_makeup (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  makeup INT NOT NULL,
  n INT NOT NULL,
  student VARCHAR(100) NOT NULL,
  technique VARCHAR(100) NOT NULL,
  kind VARCHAR(16) NOT NULL,
  reached VARCHAR(16) NOT NULL,
  one_side BOOLEAN NOT NULL,
  point VARCHAR(200) NOT NULL,
  PRIMARY KEY (academy, seq, makeup, n, student),
  KEY of_student (academy, student),
  FOREIGN KEY (academy, seq) REFERENCES class_report (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
