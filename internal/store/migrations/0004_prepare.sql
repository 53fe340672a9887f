-- What a site asks for in a category: listing.Needs in JSON, the form of
-- design/listing.md, section 1.
CREATE TABLE demands (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  category text NOT NULL, -- ref
  needs text NOT NULL,
  origin text NOT NULL, -- gateway, person
  read_at datetime NOT NULL,
  changed_at datetime NOT NULL, -- when it last came out otherwise than before
  changes text NOT NULL DEFAULT '[]' -- in what, in words; JSON
);
CREATE UNIQUE INDEX demand_category ON demands(site_id, category);

-- What a person says of a listing. What is filled in from elsewhere never
-- stands here, so that nothing read later can be taken for it.
CREATE TABLE sayings (
  listing_id integer NOT NULL REFERENCES listings(id) ON DELETE CASCADE,
  field text NOT NULL, -- as listing.Values has it, such as attributes.capacity
  value text NOT NULL, -- JSON
  actor text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (listing_id, field)
) WITHOUT ROWID;

-- Our words for a place's allowed values, learnt from what people chose.
CREATE TABLE value_words (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  category text NOT NULL,
  attribute text NOT NULL,
  ours text NOT NULL,
  theirs text NOT NULL,
  actor text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (site_id, category, attribute, ours)
) WITHOUT ROWID;

-- How far a listing of our own is: worked out with its price.
CREATE TABLE preparations (
  listing_id integer PRIMARY KEY REFERENCES listings(id) ON DELETE CASCADE,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  title text NOT NULL,
  done integer NOT NULL,
  needed integer NOT NULL,
  helped integer NOT NULL,
  helps integer NOT NULL,
  stops integer NOT NULL, -- problems that stop it
  lacks text NOT NULL DEFAULT '[]' -- listing.Problem of each, JSON
);
CREATE INDEX preparation_left ON preparations(site_id, stops) WHERE stops > 0;
