-- Readers at the door, each with a key of its own.
CREATE TABLE IF NOT EXISTS door (
  id VARCHAR(64) NOT NULL,
  academy VARCHAR(64) NOT NULL,
  name VARCHAR(200) NOT NULL,
  key_hash CHAR(64) NOT NULL,
  made_at DATETIME(6) NOT NULL,
  seen_at DATETIME(6) NULL,
  PRIMARY KEY (id),
  UNIQUE KEY by_key (key_hash),
  KEY of_academy (academy),
  FOREIGN KEY (academy) REFERENCES academy (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
