-- What was decided about ranks, and what keeps people out of drills.
CREATE TABLE IF NOT EXISTS promotion (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  student VARCHAR(100) NOT NULL,
  day DATE NOT NULL,
  outcome VARCHAR(16) NOT NULL,
  from_ladder VARCHAR(100) NOT NULL,
  from_rank VARCHAR(100) NOT NULL,
  ladder VARCHAR(100) NOT NULL,
  to_rank VARCHAR(100) NOT NULL,
  stripes INT NOT NULL,
  reason VARCHAR(2000) NOT NULL,
  PRIMARY KEY (academy, seq),
  KEY of_student (academy, student, day),
  FOREIGN KEY (academy, seq) REFERENCES event (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS hold (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  student VARCHAR(100) NOT NULL,
  day DATE NOT NULL,
  regions VARCHAR(500) NOT NULL,
  everything BOOLEAN NOT NULL,
  no_live BOOLEAN NOT NULL,
  note VARCHAR(4000) NOT NULL,
  PRIMARY KEY (academy, seq),
  KEY of_student (academy, student, day),
  FOREIGN KEY (academy, seq) REFERENCES event (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS clearance (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  student VARCHAR(100) NOT NULL,
  day DATE NOT NULL,
  hold VARCHAR(64) NOT NULL,
  clinician VARCHAR(2000) NOT NULL,
  PRIMARY KEY (academy, seq),
  KEY of_student (academy, student, day),
  FOREIGN KEY (academy, seq) REFERENCES event (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
