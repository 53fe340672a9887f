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

-- Light files: price and stock of what a site has on sale, made on a schedule.
CREATE TABLE light_files (
  id integer PRIMARY KEY,
  version integer NOT NULL DEFAULT 1,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  name text NOT NULL, -- of the file
  part text NOT NULL, -- all, changed, end
  layout text NOT NULL, -- JSON of blank.Layout
  every integer NOT NULL DEFAULT 0, -- minutes; 0: only when somebody asks
  target text NOT NULL DEFAULT '', -- a folder of this machine, an address for PUT; '' to be downloaded
  username text NOT NULL DEFAULT '',
  password text NOT NULL DEFAULT '', -- sealed
  due_at datetime,
  made_at datetime, -- when it was given last
  rows integer NOT NULL DEFAULT 0, -- of the last
  error text NOT NULL DEFAULT '', -- why the last could not be given
  last blob -- gzip of what was given of each SKU
);
CREATE UNIQUE INDEX light_file_name ON light_files(name);
