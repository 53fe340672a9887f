-- What places' statements say that they kept for no order: a subscription, storage,
-- advertising. A row that is read again is the same row.
CREATE TABLE site_fees (
  id integer PRIMARY KEY AUTOINCREMENT,
  site_id integer NOT NULL REFERENCES sites (id),
  key text NOT NULL, -- what the row says, SHA-256, and which of its like it is
  kind text NOT NULL, -- as the place calls it
  day text NOT NULL, -- YYYY-MM-DD
  amount integer NOT NULL -- minor units of the site's currency that were kept; below 0: given back
    CHECK (typeof(amount) = 'integer' AND amount BETWEEN -1000000000000000 AND 1000000000000000),
  at datetime NOT NULL
);
CREATE UNIQUE INDEX site_fees_key ON site_fees (site_id, key);
CREATE INDEX site_fees_day ON site_fees (day);
