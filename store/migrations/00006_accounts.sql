-- Somebody can have several roles, a second factor, and be let out everywhere at once.
ALTER TABLE account
  ADD COLUMN IF NOT EXISTS roles VARCHAR(200) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS email VARCHAR(200) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS wards VARCHAR(2000) NOT NULL DEFAULT '' COMMENT 'whose pages a guardian sees, between commas',
  ADD COLUMN IF NOT EXISTS closed_at DATETIME(6) NULL,
  ADD COLUMN IF NOT EXISTS totp_secret VARCHAR(64) NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS totp_since DATETIME(6) NULL,
  ADD COLUMN IF NOT EXISTS totp_step BIGINT NOT NULL DEFAULT 0 COMMENT 'the last code that was used: none counts twice';
UPDATE account SET roles = role;
ALTER TABLE account DROP COLUMN IF EXISTS role;

CREATE TABLE IF NOT EXISTS recovery_code (
  account VARCHAR(64) NOT NULL,
  hash CHAR(64) NOT NULL,
  PRIMARY KEY (account, hash),
  FOREIGN KEY (account) REFERENCES account (id) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

-- Addresses that open something once: the first page of a new installation, an invitation, a forgotten password. Only
-- what they hash to is kept.
CREATE TABLE IF NOT EXISTS account_link (
  hash CHAR(64) NOT NULL PRIMARY KEY,
  kind VARCHAR(16) NOT NULL,
  account VARCHAR(64) NULL,
  expires_at DATETIME(6) NOT NULL,
  KEY old (expires_at),
  FOREIGN KEY (account) REFERENCES account (id) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

-- Who is signed in where. A session of the browser names its row; without the row it is over.
CREATE TABLE IF NOT EXISTS signed_in (
  id CHAR(36) NOT NULL PRIMARY KEY,
  account VARCHAR(64) NOT NULL,
  begun_at DATETIME(6) NOT NULL,
  seen_at DATETIME(6) NOT NULL,
  address VARCHAR(64) NOT NULL,
  agent VARCHAR(200) NOT NULL,
  KEY of_account (account, seen_at),
  FOREIGN KEY (account) REFERENCES account (id) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

-- Browsers somebody signed in with before: they are let in although others guess at the name from elsewhere.
CREATE TABLE IF NOT EXISTS known_device (
  account VARCHAR(64) NOT NULL,
  hash CHAR(64) NOT NULL,
  seen_at DATETIME(6) NOT NULL,
  PRIMARY KEY (account, hash),
  FOREIGN KEY (account) REFERENCES account (id) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

-- What opened or closed a door, or looked at what is private.
CREATE TABLE IF NOT EXISTS access_log (
  academy VARCHAR(64) NOT NULL,
  id CHAR(36) NOT NULL,
  at DATETIME(6) NOT NULL,
  account VARCHAR(64) NOT NULL,
  who VARCHAR(200) NOT NULL,
  what VARCHAR(300) NOT NULL,
  address VARCHAR(64) NOT NULL,
  PRIMARY KEY (academy, id),
  KEY newest (academy, at),
  FOREIGN KEY (academy) REFERENCES academy (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

ALTER TABLE sign_in_failure ADD COLUMN IF NOT EXISTS device CHAR(64) NOT NULL DEFAULT '';
