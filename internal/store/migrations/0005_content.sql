-- Pictures made of an original are given to a place once, by their digest.
CREATE TABLE uploads (
  marketplace_id integer NOT NULL REFERENCES marketplaces(id) ON DELETE CASCADE,
  digest text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (marketplace_id, digest)
) WITHOUT ROWID;

-- Whether a site forbids captions and marks on pictures.
ALTER TABLE sites ADD COLUMN no_marks boolean NOT NULL DEFAULT 0;

-- What is to be done to the pictures of many listings, by a run.
CREATE TABLE picture_jobs (
  id integer PRIMARY KEY,
  recipe text NOT NULL, -- JSON of retouch.Recipe: what it has is put over that of each picture
  listings text NOT NULL, -- JSON of ids
  done integer NOT NULL DEFAULT 0 -- of them
);

-- What is to be done with the one row of a feed that a person typed in, once it is taken.
CREATE TABLE wishes (
  feed_id integer PRIMARY KEY REFERENCES feeds(id) ON DELETE CASCADE,
  wish text NOT NULL -- JSON: its pictures, sites and category
);
