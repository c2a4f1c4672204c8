CREATE TABLE IF NOT EXISTS academy (
  id VARCHAR(64) NOT NULL PRIMARY KEY,
  name VARCHAR(200) NOT NULL,
  revision BIGINT NOT NULL DEFAULT 0,
  created_at DATETIME(6) NOT NULL
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

-- What the academy writes and may rewrite: techniques, curricula, the timetable, people, seasons.
CREATE TABLE IF NOT EXISTS document (
  academy VARCHAR(64) NOT NULL,
  kind VARCHAR(32) NOT NULL,
  id VARCHAR(100) NOT NULL,
  version INT NOT NULL,
  body LONGTEXT NOT NULL CHECK (JSON_VALID(body)),
  changed_at DATETIME(6) NOT NULL,
  changed_by VARCHAR(64) NOT NULL,
  PRIMARY KEY (academy, kind, id),
  FOREIGN KEY (academy) REFERENCES academy (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

-- Who changed which documents when, with what they were before: history and undo.
CREATE TABLE IF NOT EXISTS edit (
  academy VARCHAR(64) NOT NULL,
  id CHAR(36) NOT NULL,
  at DATETIME(6) NOT NULL,
  by_account VARCHAR(64) NOT NULL,
  says VARCHAR(300) NOT NULL,
  body LONGTEXT NOT NULL CHECK (JSON_VALID(body)),
  undoes CHAR(36) NULL,
  undone TINYINT(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (academy, id),
  KEY newest (academy, at),
  FOREIGN KEY (academy) REFERENCES academy (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

-- What happened. Rows are only ever added; a correction names the row it replaces.
CREATE TABLE IF NOT EXISTS fact (
  academy VARCHAR(64) NOT NULL,
  id VARCHAR(64) NOT NULL,
  kind VARCHAR(32) NOT NULL,
  day DATE NOT NULL,
  student VARCHAR(100) NOT NULL DEFAULT '',
  class VARCHAR(120) NOT NULL DEFAULT '',
  replaces VARCHAR(64) NULL,
  body LONGTEXT NOT NULL CHECK (JSON_VALID(body)),
  recorded_at DATETIME(6) NOT NULL,
  recorded_by VARCHAR(64) NOT NULL,
  PRIMARY KEY (academy, id),
  UNIQUE KEY replaced_once (academy, replaces),
  FOREIGN KEY (academy) REFERENCES academy (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

-- What follows from the facts, kept for speed; `vereda rebuild` makes it anew.
CREATE TABLE IF NOT EXISTS standing (
  academy VARCHAR(64) NOT NULL,
  student VARCHAR(100) NOT NULL,
  body LONGTEXT NOT NULL CHECK (JSON_VALID(body)),
  PRIMARY KEY (academy, student),
  FOREIGN KEY (academy) REFERENCES academy (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS account (
  id VARCHAR(64) NOT NULL PRIMARY KEY,
  academy VARCHAR(64) NOT NULL,
  sign_in VARCHAR(100) NOT NULL,
  password VARCHAR(200) NOT NULL,
  role VARCHAR(32) NOT NULL,
  person VARCHAR(100) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  UNIQUE KEY one_sign_in (sign_in),
  FOREIGN KEY (academy) REFERENCES academy (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS sign_in_failure (
  id CHAR(36) NOT NULL PRIMARY KEY,
  sign_in VARCHAR(100) NOT NULL,
  address VARCHAR(64) NOT NULL,
  at DATETIME(6) NOT NULL,
  KEY recent (at)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

CREATE TABLE IF NOT EXISTS sessions (
  token CHAR(43) NOT NULL PRIMARY KEY,
  data BLOB NOT NULL,
  expiry TIMESTAMP(6) NOT NULL,
  KEY sessions_expiry (expiry)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;
