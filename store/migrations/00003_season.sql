-- A season being planned: where the search stands, written by the server that runs it, read and stopped by any.
CREATE TABLE IF NOT EXISTS planning (
  academy VARCHAR(64) NOT NULL,
  season VARCHAR(100) NOT NULL,
  run CHAR(36) NOT NULL,
  state VARCHAR(16) NOT NULL,
  stop BOOLEAN NOT NULL DEFAULT FALSE,
  share DOUBLE NOT NULL,
  coverage DOUBLE NOT NULL,
  says VARCHAR(2000) NOT NULL,
  change_id VARCHAR(36) NOT NULL,
  seen_at DATETIME(6) NOT NULL,
  PRIMARY KEY (academy, season),
  FOREIGN KEY (academy) REFERENCES academy (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

-- Private addresses under which a calendar can be read without signing in, until they are revoked.
CREATE TABLE IF NOT EXISTS feed (
  token CHAR(43) NOT NULL,
  academy VARCHAR(64) NOT NULL,
  scope VARCHAR(16) NOT NULL,
  target VARCHAR(100) NOT NULL,
  made_at DATETIME(6) NOT NULL,
  PRIMARY KEY (token),
  UNIQUE KEY of_scope (academy, scope, target),
  FOREIGN KEY (academy) REFERENCES academy (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
