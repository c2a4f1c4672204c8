-- Letters that wait to be handed to the mail server, and those that were. A letter is written in one act with the change it
-- tells of, so that neither is lost without the other; whichever server claims it hands it over, and tries again.
CREATE TABLE IF NOT EXISTS letter (
  academy VARCHAR(64) NOT NULL,
  id CHAR(36) NOT NULL,
  recipient VARCHAR(200) NOT NULL,
  subject VARCHAR(300) NOT NULL,
  body MEDIUMTEXT NOT NULL,
  state VARCHAR(16) NOT NULL,
  tries INT NOT NULL DEFAULT 0,
  due_at DATETIME(6) NOT NULL,
  claimed_by CHAR(36) NULL,
  failure VARCHAR(500) NOT NULL DEFAULT '',
  made_at DATETIME(6) NOT NULL,
  sent_at DATETIME(6) NULL,
  PRIMARY KEY (academy, id),
  KEY waiting (state, due_at),
  FOREIGN KEY (academy) REFERENCES academy (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin;

-- Attempts to sign in, counted before the password is looked at, so that no two can pass a limit together.
ALTER TABLE sign_in_failure ADD COLUMN IF NOT EXISTS settled BOOLEAN NOT NULL DEFAULT TRUE;
ALTER TABLE sign_in_failure ADD KEY IF NOT EXISTS of_name (sign_in, at);
ALTER TABLE sign_in_failure ADD KEY IF NOT EXISTS of_address (address, at);
