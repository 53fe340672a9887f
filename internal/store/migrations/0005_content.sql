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

-- What holds for all listings of our own in a category, unless one says otherwise.
CREATE TABLE category_defaults (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  category text NOT NULL, -- ref; '' is every category
  defaults text NOT NULL, -- JSON of reckon.Defaults
  actor text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (site_id, category)
) WITHOUT ROWID;

-- Selling terms: the answers that many listings of a site share, by name.
CREATE TABLE selling_terms (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  name text NOT NULL,
  terms text NOT NULL, -- JSON of listing.Terms
  actor text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (site_id, name)
) WITHOUT ROWID;

-- Which of a site's categories a supplier's is, learnt from where people put things.
CREATE TABLE category_words (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  ours text NOT NULL, -- the supplier's words, folded
  category text NOT NULL,
  actor text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (site_id, ours)
) WITHOUT ROWID;

-- Brands that a place was asked to put on its register.
CREATE TABLE brand_requests (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  brand text NOT NULL,
  state text NOT NULL, -- asked, given, refused
  comment text NOT NULL DEFAULT '',
  picture text NOT NULL DEFAULT '', -- digest of its logo or of one on a thing
  actor text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (site_id, brand)
) WITHOUT ROWID;

-- How a listing is shown: hidden, or only from a day on and until a day.
ALTER TABLE listings ADD COLUMN hidden boolean NOT NULL DEFAULT 0;
ALTER TABLE listings ADD COLUMN shown_from text NOT NULL DEFAULT ''; -- YYYY-MM-DD
ALTER TABLE listings ADD COLUMN shown_until text NOT NULL DEFAULT ''; -- with this day
CREATE INDEX listing_window ON listings(site_id) WHERE shown_from <> '' OR shown_until <> '';
