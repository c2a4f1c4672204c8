-- What a plan was expected to cover when it was published, and what was asked of whom then.
CREATE TABLE IF NOT EXISTS forecast (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  season VARCHAR(200) NOT NULL,
  day DATE NOT NULL,
  number INT NOT NULL,
  weeks INT NOT NULL,
  begin_week INT NOT NULL,
  line MEDIUMTEXT NOT NULL,
  PRIMARY KEY (academy, seq),
  KEY of_season (academy, season),
  FOREIGN KEY (academy, seq) REFERENCES event (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS forecast_asked (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  n INT NOT NULL,
  student VARCHAR(100) NOT NULL,
  needs MEDIUMTEXT NOT NULL,
  PRIMARY KEY (academy, seq, n),
  KEY of_student (academy, student),
  FOREIGN KEY (academy, seq) REFERENCES forecast (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

-- Which side a technique was done on, where it was one.
ALTER TABLE class_report_item ADD COLUMN IF NOT EXISTS side VARCHAR(16) NOT NULL DEFAULT '';
ALTER TABLE class_report_makeup ADD COLUMN IF NOT EXISTS side VARCHAR(16) NOT NULL DEFAULT '';
