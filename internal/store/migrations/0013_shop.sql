-- The own shop: what is on its shelves, as it was handed over; what lies in baskets; what was sold.
CREATE TABLE shop_listings (
  id integer PRIMARY KEY AUTOINCREMENT,
  site_id integer NOT NULL REFERENCES sites (id),
  sku text NOT NULL,
  title text NOT NULL,
  category text NOT NULL,
  price integer NOT NULL, -- minor units, as the buyer pays it
  quantity integer NOT NULL CHECK (quantity >= 0),
  family text NOT NULL, -- joins variants; empty: none
  picture text NOT NULL, -- digest of the leading one; empty: none
  content text NOT NULL, -- JSON: what was handed over
  words text NOT NULL, -- what it is found by
  changed_at datetime NOT NULL
);
CREATE UNIQUE INDEX shop_listings_sku ON shop_listings (site_id, sku);
CREATE INDEX shop_listings_category ON shop_listings (site_id, category, title);
CREATE INDEX shop_listings_newest ON shop_listings (site_id, id) WHERE quantity > 0;
CREATE INDEX shop_listings_family ON shop_listings (site_id, family) WHERE family <> '';
CREATE VIRTUAL TABLE shop_search USING fts5 (words, content = 'shop_listings', content_rowid = 'id', tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3');
CREATE TRIGGER shop_listings_in AFTER INSERT ON shop_listings BEGIN
  INSERT INTO shop_search (rowid, words) VALUES (new.id, new.words);
END;
CREATE TRIGGER shop_listings_out AFTER DELETE ON shop_listings BEGIN
  INSERT INTO shop_search (shop_search, rowid, words) VALUES ('delete', old.id, old.words);
END;
CREATE TRIGGER shop_listings_over AFTER UPDATE OF words ON shop_listings BEGIN
  INSERT INTO shop_search (shop_search, rowid, words) VALUES ('delete', old.id, old.words);
  INSERT INTO shop_search (rowid, words) VALUES (new.id, new.words);
END;

-- What was answered to each batch, by its key: none is done twice.
CREATE TABLE shop_batches (
  site_id integer NOT NULL REFERENCES sites (id),
  key text NOT NULL,
  outcomes text NOT NULL, -- JSON
  at datetime NOT NULL,
  PRIMARY KEY (site_id, key)
) WITHOUT ROWID;

CREATE TABLE shop_baskets (
  token text PRIMARY KEY, -- of the buyer's cookie, SHA-256
  site_id integer NOT NULL REFERENCES sites (id),
  content text NOT NULL, -- JSON
  seen_at datetime NOT NULL
) WITHOUT ROWID;

CREATE TABLE shop_orders (
  id integer PRIMARY KEY AUTOINCREMENT,
  site_id integer NOT NULL REFERENCES sites (id),
  ref text NOT NULL UNIQUE,
  basket text NOT NULL UNIQUE, -- that it was made of: one order a basket
  seq integer NOT NULL UNIQUE, -- grows with every change, for whoever reads on
  placed_at datetime NOT NULL,
  currency text NOT NULL,
  total integer NOT NULL, -- minor units
  buyer text NOT NULL, -- JSON; empty: forgotten
  lines text NOT NULL -- JSON
);
CREATE INDEX shop_orders_site ON shop_orders (site_id, seq);
