-- What happened is an event log: one sequence per academy, a typed table per kind. Rows are only ever added; a
-- correction is a new event that names the one it replaces, and an event can be replaced once.
CREATE TABLE IF NOT EXISTS event_log (
  academy VARCHAR(64) NOT NULL PRIMARY KEY,
  last BIGINT NOT NULL DEFAULT 0,
  FOREIGN KEY (academy) REFERENCES academy (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS event (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  id VARCHAR(64) NOT NULL,
  kind VARCHAR(32) NOT NULL,
  replaces BIGINT NULL,
  recorded_at DATETIME(6) NOT NULL,
  recorded_by VARCHAR(100) NOT NULL,
  PRIMARY KEY (academy, seq),
  UNIQUE KEY sent_once (academy, id),
  UNIQUE KEY replaced_once (academy, replaces),
  FOREIGN KEY (academy) REFERENCES event_log (academy),
  FOREIGN KEY (academy, replaces) REFERENCES event (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS attendance (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  class VARCHAR(100) NOT NULL,
  day DATE NOT NULL,
  student VARCHAR(100) NOT NULL,
  present BOOLEAN NOT NULL,
  PRIMARY KEY (academy, seq),
  -- Holds all that the first reading of an academy asks for, in its order, so that the rows need not be looked up.
  KEY of_session (academy, day, class, seq, student, present),
  KEY of_student (academy, student, day),
  FOREIGN KEY (academy, seq) REFERENCES event (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS class_report (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  class VARCHAR(100) NOT NULL,
  day DATE NOT NULL,
  led_by VARCHAR(100) NOT NULL,
  note VARCHAR(2000) NOT NULL,
  PRIMARY KEY (academy, seq),
  KEY of_class (academy, class, day),
  FOREIGN KEY (academy, seq) REFERENCES event (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS class_report_item (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  n INT NOT NULL,
  technique VARCHAR(100) NOT NULL,
  kind VARCHAR(16) NOT NULL,
  reached VARCHAR(16) NOT NULL,
  one_side BOOLEAN NOT NULL,
  PRIMARY KEY (academy, seq, n),
  KEY of_technique (academy, technique),
  FOREIGN KEY (academy, seq) REFERENCES class_report (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS class_report_fault (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  n INT NOT NULL,
  technique VARCHAR(100) NOT NULL,
  fault VARCHAR(100) NOT NULL,
  seen INT NOT NULL,
  tries INT NOT NULL,
  PRIMARY KEY (academy, seq, n),
  KEY of_technique (academy, technique),
  FOREIGN KEY (academy, seq) REFERENCES class_report (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS student_check (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  student VARCHAR(100) NOT NULL,
  technique VARCHAR(100) NOT NULL,
  side VARCHAR(16) NOT NULL,
  day DATE NOT NULL,
  class VARCHAR(120) NOT NULL,
  coach VARCHAR(100) NOT NULL,
  met BOOLEAN NOT NULL,
  rung VARCHAR(16) NOT NULL,
  observation LONGTEXT NOT NULL CHECK (JSON_VALID(observation)),
  verdict LONGTEXT NULL CHECK (verdict IS NULL OR JSON_VALID(verdict)),
  overruled LONGTEXT NULL CHECK (overruled IS NULL OR JSON_VALID(overruled)),
  PRIMARY KEY (academy, seq),
  KEY of_student (academy, student, day),
  KEY of_technique (academy, technique),
  FOREIGN KEY (academy, seq) REFERENCES event (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS placement (
  academy VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  student VARCHAR(100) NOT NULL,
  day DATE NOT NULL,
  from_curriculum VARCHAR(100) NOT NULL,
  to_curriculum VARCHAR(100) NOT NULL,
  PRIMARY KEY (academy, seq),
  KEY of_student (academy, student),
  FOREIGN KEY (academy, seq) REFERENCES event (academy, seq)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

-- Kinds and fields by the names they have now.
UPDATE document SET kind = 'class session' WHERE kind = 'night';
UPDATE edit_part SET kind = 'class session' WHERE kind = 'night';
UPDATE document SET body = JSON_REMOVE(JSON_SET(body, '$.required_cells', JSON_EXTRACT(body, '$.musts')), '$.musts') WHERE kind = 'settings' AND JSON_EXISTS(body, '$.musts');

-- What was kept as facts so far, in the order it was kept in. A fact that took another one back without putting
-- anything in its place is an attendance that says the student was not there.
INSERT INTO event_log (academy, last) SELECT a.id, (SELECT COUNT(*) FROM fact f WHERE f.academy = a.id) FROM academy a
ON DUPLICATE KEY UPDATE event_log.academy = event_log.academy;

CREATE TABLE IF NOT EXISTS fact_seq (
  academy VARCHAR(64) NOT NULL,
  id VARCHAR(64) NOT NULL,
  seq BIGINT NOT NULL,
  PRIMARY KEY (academy, id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

INSERT INTO fact_seq (academy, id, seq)
SELECT academy, id, ROW_NUMBER() OVER (PARTITION BY academy ORDER BY recorded_at, id) AS seq FROM fact
ON DUPLICATE KEY UPDATE fact_seq.academy = fact_seq.academy;

INSERT INTO event (academy, seq, id, kind, replaces, recorded_at, recorded_by)
SELECT f.academy, s.seq, f.id, CASE f.kind WHEN 'taught' THEN 'class report' WHEN 'moved' THEN 'placement' WHEN 'void' THEN 'attendance' ELSE f.kind END, NULL, f.recorded_at, f.recorded_by
FROM fact f JOIN fact_seq s ON s.academy = f.academy AND s.id = f.id ORDER BY f.academy, s.seq
ON DUPLICATE KEY UPDATE event.academy = event.academy;

UPDATE event e JOIN fact_seq s ON s.academy = e.academy AND s.seq = e.seq JOIN fact f ON f.academy = s.academy AND f.id = s.id
JOIN fact_seq r ON r.academy = f.academy AND r.id = f.replaces SET e.replaces = r.seq;

INSERT INTO attendance (academy, seq, class, day, student, present)
SELECT f.academy, s.seq, LEFT(f.class, LENGTH(f.class) - 11), f.day, f.student, f.kind = 'attendance'
FROM fact f JOIN fact_seq s ON s.academy = f.academy AND s.id = f.id WHERE f.kind IN ('attendance', 'void')
ON DUPLICATE KEY UPDATE attendance.academy = attendance.academy;

INSERT INTO class_report (academy, seq, class, day, led_by, note)
SELECT f.academy, s.seq, LEFT(f.class, LENGTH(f.class) - 11), f.day, COALESCE(JSON_VALUE(f.body, '$.lead'), ''), COALESCE(JSON_VALUE(f.body, '$.note'), '')
FROM fact f JOIN fact_seq s ON s.academy = f.academy AND s.id = f.id WHERE f.kind = 'taught'
ON DUPLICATE KEY UPDATE class_report.academy = class_report.academy;

INSERT INTO class_report_item (academy, seq, n, technique, kind, reached, one_side)
SELECT f.academy, s.seq, j.n, j.technique, j.kind, j.reached, COALESCE(j.one_side, FALSE)
FROM fact f JOIN fact_seq s ON s.academy = f.academy AND s.id = f.id,
JSON_TABLE(f.body, '$.items[*]' COLUMNS (n FOR ORDINALITY, technique VARCHAR(100) PATH '$.technique', kind VARCHAR(16) PATH '$.kind', reached VARCHAR(16) PATH '$.reached', one_side BOOLEAN PATH '$.one_side')) j
WHERE f.kind = 'taught'
ON DUPLICATE KEY UPDATE class_report_item.academy = class_report_item.academy;

INSERT INTO class_report_fault (academy, seq, n, technique, fault, seen, tries)
SELECT f.academy, s.seq, j.n, j.technique, j.fault, LEAST(j.seen, 10000), LEAST(j.tries, 10000)
FROM fact f JOIN fact_seq s ON s.academy = f.academy AND s.id = f.id,
JSON_TABLE(f.body, '$.faults[*]' COLUMNS (n FOR ORDINALITY, technique VARCHAR(100) PATH '$.technique', fault VARCHAR(100) PATH '$.fault', seen BIGINT PATH '$.seen', tries BIGINT PATH '$.tries')) j
WHERE f.kind = 'taught'
ON DUPLICATE KEY UPDATE class_report_fault.academy = class_report_fault.academy;

INSERT INTO student_check (academy, seq, student, technique, side, day, class, coach, met, rung, observation, verdict, overruled)
SELECT f.academy, s.seq, f.student, JSON_VALUE(f.body, '$.technique'), COALESCE(JSON_VALUE(f.body, '$.side'), ''), f.day, f.class, COALESCE(JSON_VALUE(f.body, '$.by'), ''),
  COALESCE(JSON_VALUE(f.body, '$.overruled.met'), JSON_VALUE(f.body, '$.verdict.met'), '0') IN ('1', 'true'),
  CASE WHEN COALESCE(JSON_VALUE(f.body, '$.overruled.met'), '0') IN ('1', 'true') AND COALESCE(JSON_VALUE(f.body, '$.verdict.rung'), '') = '' THEN 'passed' ELSE COALESCE(JSON_VALUE(f.body, '$.verdict.rung'), '') END,
  JSON_EXTRACT(f.body, '$.observation'), JSON_EXTRACT(f.body, '$.verdict'), JSON_EXTRACT(f.body, '$.overruled')
FROM fact f JOIN fact_seq s ON s.academy = f.academy AND s.id = f.id WHERE f.kind = 'check'
ON DUPLICATE KEY UPDATE student_check.academy = student_check.academy;

INSERT INTO placement (academy, seq, student, day, from_curriculum, to_curriculum)
SELECT f.academy, s.seq, f.student, f.day, COALESCE(JSON_VALUE(f.body, '$.from'), ''), COALESCE(JSON_VALUE(f.body, '$.to'), '')
FROM fact f JOIN fact_seq s ON s.academy = f.academy AND s.id = f.id WHERE f.kind = 'moved'
ON DUPLICATE KEY UPDATE placement.academy = placement.academy;

DROP TABLE IF EXISTS fact_seq;
DROP TABLE IF EXISTS fact;
-- Standings follow from the events at the cost of what is new; they are held in memory and never kept.
DROP TABLE IF EXISTS standing;

-- A document's version is the academy's revision it was written at, so that one that was deleted and made again never
-- has a version somebody else's form still carries.
ALTER TABLE document MODIFY version BIGINT NOT NULL;
UPDATE document d JOIN academy a ON a.id = d.academy SET d.version = a.revision;
CREATE INDEX IF NOT EXISTS written ON document (academy, version);
ALTER TABLE edit MODIFY says VARCHAR(1000) NOT NULL;
ALTER TABLE edit MODIFY by_account VARCHAR(100) NOT NULL;
ALTER TABLE document MODIFY changed_by VARCHAR(100) NOT NULL;
