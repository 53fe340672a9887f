-- Who works here, and by what they are known. The first owner has no password of her own until she
-- sets one: while she is the only one, at her own machine, nobody asks.
CREATE TABLE people (
  id integer PRIMARY KEY AUTOINCREMENT,
  version integer NOT NULL DEFAULT 1,
  name text NOT NULL COLLATE NOCASE UNIQUE,
  role text NOT NULL, -- look, prepare, send, owner: each may what those before it may
  password text NOT NULL DEFAULT '', -- argon2id, as its reference implementation writes it
  code text NOT NULL DEFAULT '', -- the secret of one-time codes (RFC 6238), sealed
  code_on numeric NOT NULL DEFAULT false, -- asked for at the log-in
  code_step integer NOT NULL DEFAULT 0, -- the time step of the last code that was used: none counts twice
  active numeric NOT NULL DEFAULT true,
  seen_at datetime
);
INSERT INTO people (id, name, role) VALUES (1, 'owner', 'owner');

CREATE TABLE tokens (
  id integer PRIMARY KEY AUTOINCREMENT,
  person_id integer NOT NULL REFERENCES people (id),
  name text NOT NULL,
  scope text NOT NULL, -- a role: the most that its scripts may, and never more than its person
  digest text NOT NULL UNIQUE, -- SHA-256
  made_at datetime NOT NULL,
  seen_at datetime,
  ends_at datetime -- none: never
);
CREATE INDEX tokens_person ON tokens (person_id);

-- Who was logged in logs in again.
DROP TABLE sessions;
CREATE TABLE sessions (
  id integer PRIMARY KEY AUTOINCREMENT,
  digest text NOT NULL UNIQUE, -- SHA-256 of the cookie's token
  person_id integer NOT NULL REFERENCES people (id),
  browser text NOT NULL DEFAULT '', -- as it calls itself
  made_at datetime NOT NULL,
  seen_at datetime NOT NULL
);
CREATE INDEX sessions_person ON sessions (person_id);

CREATE INDEX audits_actor ON audits (actor, id);
