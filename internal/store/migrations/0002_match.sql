-- Matching with units, decisions that last, what is asked of a place and when,
-- numbers and SKUs of the seller's own. Frozen once released.

-- What an entry says of itself beyond its title. What a place doesn't tell is
-- '' or NULL. gtins are its further numbers, a JSON list.
ALTER TABLE entries ADD COLUMN gtins text NOT NULL DEFAULT '[]';
ALTER TABLE entries ADD COLUMN mpn text NOT NULL DEFAULT '';
ALTER TABLE entries ADD COLUMN colour text NOT NULL DEFAULT '';
ALTER TABLE entries ADD COLUMN size text NOT NULL DEFAULT '';
ALTER TABLE entries ADD COLUMN material text NOT NULL DEFAULT '';
ALTER TABLE entries ADD COLUMN closed boolean NOT NULL DEFAULT 0;
ALTER TABLE entries ADD COLUMN needs_leave boolean NOT NULL DEFAULT 0;
ALTER TABLE entries ADD COLUMN rating integer; -- hundredths of a star
ALTER TABLE entries ADD COLUMN ratings integer;
ALTER TABLE entries ADD COLUMN rank integer; -- place among the best sold of its category

-- The verdict and the units it was decided with, what it was decided on, and
-- what has changed since. candidates are refs now, a JSON list.
ALTER TABLE matches ADD COLUMN verdict text NOT NULL DEFAULT '';
ALTER TABLE matches ADD COLUMN units_bought integer NOT NULL DEFAULT 0;
ALTER TABLE matches ADD COLUMN units_listed integer NOT NULL DEFAULT 0;
ALTER TABLE matches ADD COLUMN basis text NOT NULL DEFAULT '';
ALTER TABLE matches ADD COLUMN note text NOT NULL DEFAULT '';
ALTER TABLE matches ADD COLUMN recheck boolean NOT NULL DEFAULT 0;
CREATE INDEX match_entry ON matches(entry_id);
CREATE INDEX match_recheck ON matches(site_id, supplier_product_id) WHERE recheck;

-- Why nothing may be sold from a supplier just now: its row became another thing,
-- or the match was taken back. '' is no doubt.
ALTER TABLE supply_links ADD COLUMN doubt text NOT NULL DEFAULT '';

-- Whether certain matches are accepted by themselves.
ALTER TABLE sites ADD COLUMN accepts boolean NOT NULL DEFAULT 1;

-- What a place answered when it was asked for a number or for words.
CREATE TABLE look_ups (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  asked text NOT NULL,
  refs text NOT NULL DEFAULT '[]',
  looked_at datetime NOT NULL,
  PRIMARY KEY (site_id, asked)
) WITHOUT ROWID;

-- Leave to sell in a category: asked for, or given.
CREATE TABLE leaves (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  category text NOT NULL,
  state text NOT NULL,
  noted_at datetime NOT NULL,
  noted_by text NOT NULL DEFAULT '',
  PRIMARY KEY (site_id, category)
) WITHOUT ROWID;

-- Numbers that the seller bought, each handed out once.
CREATE TABLE pool_numbers (
  gtin text PRIMARY KEY,
  added_at datetime NOT NULL,
  match_id integer REFERENCES matches(id) ON DELETE SET NULL,
  taken_at datetime
) WITHOUT ROWID;
CREATE INDEX pool_number_free ON pool_numbers(taken_at, gtin);

-- Every SKU that was ever given, so that none is given twice.
CREATE TABLE given_skus (
  sku text PRIMARY KEY
) WITHOUT ROWID;
INSERT OR IGNORE INTO given_skus (sku) SELECT sku FROM products;
INSERT OR IGNORE INTO given_skus (sku) SELECT sku FROM listings;

-- Places without a gateway have no address. What is known of them comes from
-- files, each with the columns that were chosen for it.
CREATE TABLE place_files (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  kind text NOT NULL, -- catalogue, listings
  name text NOT NULL DEFAULT '',
  file text NOT NULL DEFAULT '', -- in the inbox; '' once it is tidied away
  digest text NOT NULL DEFAULT '',
  look text NOT NULL DEFAULT '',
  columns text NOT NULL DEFAULT '{}', -- column → what it is read as
  state text NOT NULL, -- looked, taken, failed
  rows integer NOT NULL DEFAULT 0,
  new integer NOT NULL DEFAULT 0,
  changed integer NOT NULL DEFAULT 0,
  same integer NOT NULL DEFAULT 0,
  aside integer NOT NULL DEFAULT 0,
  untied integer NOT NULL DEFAULT 0,
  error text NOT NULL DEFAULT '',
  received_at datetime NOT NULL,
  taken_at datetime
);
CREATE INDEX place_file_site ON place_files(site_id, kind, id);

-- Words of the entries of places that can't be asked.
CREATE VIRTUAL TABLE entry_search USING fts5(words, content='', contentless_delete=1, detail=none, tokenize="unicode61 remove_diacritics 2");

-- What an offer that is tied to nothing says of itself.
ALTER TABLE untieds ADD COLUMN title text NOT NULL DEFAULT '';
ALTER TABLE untieds ADD COLUMN gtin text NOT NULL DEFAULT '';
ALTER TABLE untieds ADD COLUMN brand text NOT NULL DEFAULT '';
ALTER TABLE untieds ADD COLUMN mpn text NOT NULL DEFAULT '';

-- What a supplier product would make on a site, worked out for the list on
-- Weigh: a row is small, so that a million are counted and sifted in one look.
-- What isn't known is NULL. Shares are millionths.
CREATE TABLE weighings (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  supplier_product_id integer NOT NULL REFERENCES supplier_products(id) ON DELETE CASCADE,
  match_id integer NOT NULL REFERENCES matches(id) ON DELETE CASCADE,
  entry_id integer REFERENCES entries(id) ON DELETE SET NULL,
  landed integer,
  stock integer,
  lowest integer,
  leading integer,
  sellers integer,
  rating integer,
  rank integer,
  profit_lowest integer,
  margin_lowest integer,
  return_lowest integer,
  profit_leading integer,
  price_rule integer,
  profit_rule integer,
  price_aim integer,
  above integer, -- by how much the price that the aim needs is over the lowest
  weight integer,
  best_supplier boolean NOT NULL DEFAULT 0,
  best_site boolean NOT NULL DEFAULT 0,
  ours boolean NOT NULL DEFAULT 0,
  certain boolean NOT NULL DEFAULT 0, -- that it is the same thing as the entry
  dropped boolean NOT NULL DEFAULT 0,
  brand text NOT NULL DEFAULT '' COLLATE NOCASE,
  category text NOT NULL DEFAULT '' COLLATE NOCASE,
  supplier text NOT NULL DEFAULT '' COLLATE NOCASE,
  market_at datetime,
  weighed_at datetime NOT NULL
);
CREATE UNIQUE INDEX weighing_item ON weighings(supplier_product_id, site_id);
CREATE INDEX weighing_match ON weighings(match_id);
CREATE INDEX weighing_entry ON weighings(entry_id);
CREATE INDEX weighings_by_profit ON weighings(site_id, dropped, profit_lowest);
CREATE INDEX weighings_by_margin ON weighings(site_id, dropped, margin_lowest);
CREATE INDEX weighings_by_return ON weighings(site_id, dropped, return_lowest);
CREATE INDEX weighings_by_rule ON weighings(site_id, dropped, profit_rule);
CREATE INDEX weighings_by_landed ON weighings(site_id, dropped, landed);
CREATE INDEX weighings_by_lowest ON weighings(site_id, dropped, lowest);
CREATE INDEX weighings_by_sellers ON weighings(site_id, dropped, sellers);
CREATE INDEX weighings_by_above ON weighings(site_id, dropped, above);

-- How what others ask on an entry moved: a row for each time that it was read
-- and was another. Totals are minor units; NULL where nobody asks.
CREATE TABLE market_points (
  id integer PRIMARY KEY,
  entry_id integer NOT NULL REFERENCES entries(id) ON DELETE CASCADE,
  at datetime NOT NULL,
  lowest integer,
  leading integer,
  sellers integer NOT NULL
);
CREATE INDEX market_points_of_entry ON market_points(entry_id, at);

-- Why a supplier product is no candidate any more.
CREATE TABLE drops (
  supplier_product_id integer PRIMARY KEY REFERENCES supplier_products(id) ON DELETE CASCADE,
  reason text NOT NULL DEFAULT '',
  dropped_at datetime NOT NULL,
  dropped_by text NOT NULL DEFAULT ''
);

-- Conditions on facts, named and kept.
CREATE TABLE sieves (
  id integer PRIMARY KEY,
  name text NOT NULL,
  text text NOT NULL, -- JSON, core/sieve
  sort text NOT NULL DEFAULT '',
  down boolean NOT NULL DEFAULT 1,
  columns text NOT NULL DEFAULT '[]',
  version integer NOT NULL DEFAULT 1
);
CREATE UNIQUE INDEX sieve_name ON sieves(name);

ALTER TABLE price_rules ADD COLUMN sieve_id integer REFERENCES sieves(id);

-- Web addresses that a seller looks things up at, with a place for words or number.
CREATE TABLE web_look_ups (
  id integer PRIMARY KEY,
  name text NOT NULL,
  address text NOT NULL
);
CREATE UNIQUE INDEX web_look_up_name ON web_look_ups(name);
