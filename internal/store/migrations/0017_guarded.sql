-- A run that was going on as the program ended by its own doing: how often. Twice, and
-- it is set aside until a person has it tried again.
ALTER TABLE runs ADD COLUMN falls integer NOT NULL DEFAULT 0 CHECK (typeof(falls) = 'integer' AND falls BETWEEN 0 AND 1000);

-- An order's page opens by a key of its own. Links that were given before still open.
ALTER TABLE shop_orders ADD COLUMN key text NOT NULL DEFAULT ''; -- SHA-256
UPDATE shop_orders SET key = basket;

-- Browsers that somebody logged in with before: they are counted by themselves where a
-- password is guessed wrong, so that strangers' guesses don't keep them waiting.
CREATE TABLE devices (
  digest text NOT NULL, -- SHA-256 of the cookie's token
  person_id integer NOT NULL REFERENCES people (id) ON DELETE CASCADE,
  seen_at datetime NOT NULL, -- when they logged in with it last
  PRIMARY KEY (digest, person_id)
) WITHOUT ROWID;

-- A letter that its recipient's server refuses ends, and is shown where it was asked for.
ALTER TABLE mails ADD COLUMN refused_at datetime;
ALTER TABLE mails ADD COLUMN about text NOT NULL DEFAULT ''; -- purchase N, shop order REF; empty: what is watched
CREATE INDEX mails_about ON mails (about) WHERE about <> '';
