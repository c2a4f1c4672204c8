-- What an edit changed, one row a document, so that the history of one document can be read without the others.
CREATE TABLE IF NOT EXISTS edit_part (
  academy VARCHAR(64) NOT NULL,
  edit CHAR(36) NOT NULL,
  n INT NOT NULL,
  kind VARCHAR(32) NOT NULL,
  id VARCHAR(100) NOT NULL,
  before_body LONGTEXT NULL CHECK (before_body IS NULL OR JSON_VALID(before_body)),
  after_body LONGTEXT NULL CHECK (after_body IS NULL OR JSON_VALID(after_body)),
  PRIMARY KEY (academy, edit, n),
  KEY of_document (academy, kind, id),
  FOREIGN KEY (academy, edit) REFERENCES edit (academy, id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

INSERT INTO edit_part (academy, edit, n, kind, id, before_body, after_body)
SELECT e.academy, e.id, s.seq, JSON_VALUE(e.body, CONCAT('$[', s.seq, '].kind')), JSON_VALUE(e.body, CONCAT('$[', s.seq, '].id')),
  JSON_EXTRACT(e.body, CONCAT('$[', s.seq, '].before')), JSON_EXTRACT(e.body, CONCAT('$[', s.seq, '].after'))
FROM edit e JOIN seq_0_to_99999 s ON s.seq < JSON_LENGTH(e.body)
ON DUPLICATE KEY UPDATE edit_part.academy = edit_part.academy;

ALTER TABLE edit DROP COLUMN IF EXISTS body;

-- In which box of the card file each row of a fork table lies, for each person who is quizzed.
CREATE TABLE IF NOT EXISTS quiz_box (
  academy VARCHAR(64) NOT NULL,
  person VARCHAR(100) NOT NULL,
  fork_table VARCHAR(100) NOT NULL,
  row_id VARCHAR(100) NOT NULL,
  box INT NOT NULL,
  asked INT NOT NULL,
  correct INT NOT NULL,
  total_ms BIGINT NOT NULL,
  last_at DATETIME(6) NOT NULL,
  PRIMARY KEY (academy, person, fork_table, row_id),
  FOREIGN KEY (academy) REFERENCES academy (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
