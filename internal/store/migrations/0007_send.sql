-- A send-out that a person holds back goes on when they say so.
ALTER TABLE send_outs ADD COLUMN paused boolean NOT NULL DEFAULT 0;
CREATE INDEX send_out_again ON send_outs(again_at) WHERE state = 'waiting' AND again_at IS NOT NULL;

-- Since when a listing was seen on its site: what a place took and never showed has none.
ALTER TABLE listings ADD COLUMN seen_at datetime;

-- What was handed over, byte for byte, each time it was tried.
CREATE TABLE send_bodies (
  id integer PRIMARY KEY,
  send_out_id integer NOT NULL REFERENCES send_outs(id) ON DELETE CASCADE,
  at datetime NOT NULL,
  body blob NOT NULL -- gzip
);
CREATE INDEX send_body_of ON send_bodies(send_out_id);

-- Listings that say something else at their place than was sent, and nobody has decided on it.
CREATE TABLE word_differences (
  listing_id integer PRIMARY KEY REFERENCES listings(id) ON DELETE CASCADE,
  ours text NOT NULL, -- JSON of place.Content, as it was confirmed last
  there text NOT NULL, -- as it was read back
  fields text NOT NULL, -- JSON: those that differ
  seen_at datetime NOT NULL
);
