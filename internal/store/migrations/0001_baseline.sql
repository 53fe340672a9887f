-- The baseline. Frozen: what comes later is a file of its own.
-- Amounts are minor units with their currency in the row or its site; rates are
-- millionths, exchange rates billionths. Where something may be unknown it is
-- NULL; text that may be absent is ''.

-- Suppliers and what they send ------------------------------------------------

CREATE TABLE suppliers (
  id integer PRIMARY KEY,
  name text NOT NULL,
  created_at datetime NOT NULL
);
CREATE UNIQUE INDEX supplier_name ON suppliers(name);

-- What a supplier asks for delivering, by the currency it asks in.
CREATE TABLE supplier_terms (
  supplier_id integer NOT NULL REFERENCES suppliers(id) ON DELETE CASCADE,
  currency text NOT NULL,
  charge integer NOT NULL DEFAULT 0,
  free_from integer,
  duty integer NOT NULL DEFAULT 0,
  days integer NOT NULL DEFAULT 0,
  PRIMARY KEY (supplier_id, currency)
) WITHOUT ROWID;

CREATE TABLE sources (
  id integer PRIMARY KEY,
  supplier_id integer NOT NULL REFERENCES suppliers(id),
  name text NOT NULL,
  kind text NOT NULL DEFAULT 'file',
  mode text NOT NULL DEFAULT 'full',
  address text NOT NULL DEFAULT '',
  currency text NOT NULL,
  reading text NOT NULL DEFAULT '',
  needed text NOT NULL DEFAULT '[]',
  guards text NOT NULL DEFAULT '',
  every integer NOT NULL DEFAULT 0,
  look_up boolean NOT NULL DEFAULT 1,
  username text NOT NULL DEFAULT '',
  password text NOT NULL DEFAULT '',
  e_tag text NOT NULL DEFAULT '',
  modified text NOT NULL DEFAULT '',
  last_rows integer NOT NULL DEFAULT 0,
  last_feed_id integer REFERENCES feeds(id),
  marks text NOT NULL DEFAULT '',
  stale boolean NOT NULL DEFAULT 0,
  version integer NOT NULL DEFAULT 1,
  tried_at datetime,
  taken_at datetime,
  created_at datetime NOT NULL
);
CREATE UNIQUE INDEX source_name ON sources(name);
CREATE INDEX source_supplier ON sources(supplier_id);

CREATE TABLE feeds (
  id integer PRIMARY KEY,
  source_id integer REFERENCES sources(id),
  name text NOT NULL DEFAULT '',
  file text NOT NULL DEFAULT '',
  bytes integer NOT NULL DEFAULT 0,
  digest text NOT NULL DEFAULT '',
  state text NOT NULL,
  look text NOT NULL DEFAULT '',
  read_as text NOT NULL DEFAULT '',
  part_of integer REFERENCES feeds(id),
  mends_row integer NOT NULL DEFAULT 0,
  rows integer NOT NULL DEFAULT 0,
  new integer NOT NULL DEFAULT 0,
  changed integer NOT NULL DEFAULT 0,
  same integer NOT NULL DEFAULT 0,
  set_aside integer NOT NULL DEFAULT 0,
  gone integer NOT NULL DEFAULT 0,
  warnings integer NOT NULL DEFAULT 0,
  held_for text NOT NULL DEFAULT '',
  error text NOT NULL DEFAULT '',
  once boolean NOT NULL DEFAULT 0,
  received_at datetime NOT NULL,
  taken_at datetime
);
CREATE INDEX feed_source ON feeds(source_id);
CREATE INDEX feed_state ON feeds(state);

CREATE TABLE set_asides (
  id integer PRIMARY KEY,
  feed_id integer NOT NULL REFERENCES feeds(id) ON DELETE CASCADE,
  row integer NOT NULL,
  cells text NOT NULL DEFAULT '[]',
  problems text NOT NULL DEFAULT '[]',
  mended_by integer REFERENCES feeds(id)
);
CREATE INDEX set_aside_feed ON set_asides(feed_id);

CREATE TABLE supplier_products (
  id integer PRIMARY KEY,
  source_id integer NOT NULL REFERENCES sources(id),
  ref text NOT NULL,
  ref_hash integer NOT NULL DEFAULT 0,
  gtin text NOT NULL DEFAULT '',
  gtin_status text NOT NULL DEFAULT '',
  brand text NOT NULL DEFAULT '',
  title text NOT NULL DEFAULT '',
  category text NOT NULL DEFAULT '',
  cost integer NOT NULL DEFAULT 0,
  currency text NOT NULL,
  stock integer NOT NULL DEFAULT 0,
  stock_state text NOT NULL DEFAULT '',
  units_per_item integer NOT NULL DEFAULT 0,
  details text NOT NULL DEFAULT '',
  fingerprint integer NOT NULL DEFAULT 0,
  gone boolean NOT NULL DEFAULT 0,
  missing integer NOT NULL DEFAULT 0,
  first_feed_id integer REFERENCES feeds(id),
  changed_feed_id integer REFERENCES feeds(id)
);
CREATE UNIQUE INDEX supplier_product_ref ON supplier_products(source_id, ref);
CREATE INDEX supplier_product_gtin ON supplier_products(gtin);

CREATE TABLE supplier_changes (
  id integer PRIMARY KEY,
  supplier_product_id integer NOT NULL REFERENCES supplier_products(id) ON DELETE CASCADE,
  feed_id integer NOT NULL REFERENCES feeds(id),
  field text NOT NULL,
  before text NOT NULL DEFAULT '',
  after text NOT NULL DEFAULT ''
);
CREATE INDEX supplier_change_product ON supplier_changes(supplier_product_id);
CREATE INDEX supplier_change_feed ON supplier_changes(feed_id);

CREATE TABLE finds (
  supplier_product_id integer PRIMARY KEY REFERENCES supplier_products(id) ON DELETE CASCADE,
  note text NOT NULL DEFAULT '',
  kept_at datetime NOT NULL
);

CREATE TABLE pictures (
  id integer PRIMARY KEY,
  url text NOT NULL,
  state text NOT NULL,
  digest text NOT NULL DEFAULT '',
  kind text NOT NULL DEFAULT '',
  width integer NOT NULL DEFAULT 0,
  height integer NOT NULL DEFAULT 0,
  bytes integer NOT NULL DEFAULT 0,
  why text NOT NULL DEFAULT '',
  tries integer NOT NULL DEFAULT 0,
  tried_at datetime
);
CREATE UNIQUE INDEX picture_url ON pictures(url);
CREATE INDEX picture_state ON pictures(state);
CREATE INDEX picture_digest ON pictures(digest);

CREATE TABLE picture_uses (
  supplier_product_id integer NOT NULL REFERENCES supplier_products(id) ON DELETE CASCADE,
  position integer NOT NULL,
  picture_id integer NOT NULL REFERENCES pictures(id),
  PRIMARY KEY (supplier_product_id, position)
) WITHOUT ROWID;
CREATE INDEX picture_use_picture ON picture_uses(picture_id);

-- What we sell ----------------------------------------------------------------

CREATE TABLE families (
  id integer PRIMARY KEY,
  title text NOT NULL DEFAULT ''
);

-- The suppliers' groups whose rows are variants of one family of ours.
CREATE TABLE family_groups (
  source_id integer NOT NULL REFERENCES sources(id),
  group_ref text NOT NULL,
  family_id integer NOT NULL REFERENCES families(id) ON DELETE CASCADE,
  PRIMARY KEY (source_id, group_ref)
) WITHOUT ROWID;
CREATE INDEX family_group_family ON family_groups(family_id);

CREATE TABLE products (
  id integer PRIMARY KEY,
  sku text NOT NULL,
  gtin text NOT NULL DEFAULT '',
  title text NOT NULL DEFAULT '',
  brand text NOT NULL DEFAULT '',
  picture text NOT NULL DEFAULT '',
  family_id integer REFERENCES families(id),
  variant text NOT NULL DEFAULT '',
  created_at datetime NOT NULL
);
CREATE UNIQUE INDEX product_sku ON products(sku);
CREATE INDEX product_gtin ON products(gtin);
CREATE INDEX product_family ON products(family_id);
CREATE INDEX products_by_title ON products(title COLLATE NOCASE, id);

CREATE TABLE supply_links (
  id integer PRIMARY KEY,
  product_id integer NOT NULL REFERENCES products(id) ON DELETE CASCADE,
  supplier_product_id integer NOT NULL REFERENCES supplier_products(id),
  units_bought integer NOT NULL DEFAULT 1
);
CREATE UNIQUE INDEX supply_link_pair ON supply_links(product_id, supplier_product_id);
CREATE INDEX supply_link_supplier_product ON supply_links(supplier_product_id);

-- Where we sell ---------------------------------------------------------------

CREATE TABLE marketplaces (
  id integer PRIMARY KEY,
  name text NOT NULL,
  address text NOT NULL
);
CREATE UNIQUE INDEX marketplace_name ON marketplaces(name);

CREATE TABLE sites (
  id integer PRIMARY KEY,
  marketplace_id integer NOT NULL REFERENCES marketplaces(id),
  code text NOT NULL,
  name text NOT NULL,
  currency text NOT NULL,
  tax_way text NOT NULL DEFAULT '',
  tax_rate integer NOT NULL DEFAULT 0,
  charged integer NOT NULL DEFAULT 0,
  outbound integer NOT NULL DEFAULT 0,
  handling integer NOT NULL DEFAULT 0,
  cushion integer NOT NULL DEFAULT 0,
  allowances text NOT NULL DEFAULT '',
  kind text NOT NULL DEFAULT 'catalogue',
  lists boolean NOT NULL DEFAULT 0,
  max_lines integer NOT NULL DEFAULT 1,
  least_picture integer NOT NULL DEFAULT 0,
  batch_hours integer NOT NULL DEFAULT 6,
  guards text NOT NULL DEFAULT '',
  version integer NOT NULL DEFAULT 1,
  fees_at datetime
);
CREATE UNIQUE INDEX site_code ON sites(marketplace_id, code);

CREATE TABLE categories (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  ref text NOT NULL,
  parent text NOT NULL DEFAULT '',
  name text NOT NULL DEFAULT ''
);
CREATE UNIQUE INDEX category_ref ON categories(site_id, ref);

CREATE TABLE fee_schedules (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  category text NOT NULL DEFAULT '',
  starts_on text NOT NULL,
  fees text NOT NULL DEFAULT '[]',
  warehouse text NOT NULL DEFAULT '',
  by_hand boolean NOT NULL DEFAULT 0,
  version integer NOT NULL DEFAULT 1
);
CREATE UNIQUE INDEX fee_schedule_start ON fee_schedules(site_id, category, starts_on);

CREATE TABLE entries (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  ref text NOT NULL,
  gtin text NOT NULL DEFAULT '',
  title text NOT NULL DEFAULT '',
  brand text NOT NULL DEFAULT '',
  category text NOT NULL DEFAULT '',
  picture text NOT NULL DEFAULT '',
  page text NOT NULL DEFAULT '',
  units integer NOT NULL DEFAULT 0,
  offers text NOT NULL DEFAULT '',
  offers_at datetime,
  seen_at datetime NOT NULL
);
CREATE UNIQUE INDEX entry_ref ON entries(site_id, ref);
CREATE INDEX entry_gtin ON entries(gtin);

CREATE TABLE matches (
  id integer PRIMARY KEY,
  supplier_product_id integer NOT NULL REFERENCES supplier_products(id) ON DELETE CASCADE,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  state text NOT NULL,
  entry_id integer REFERENCES entries(id),
  candidates text NOT NULL DEFAULT '',
  decided_by text NOT NULL DEFAULT '',
  decided_at datetime NOT NULL
);
CREATE UNIQUE INDEX match_pair ON matches(supplier_product_id, site_id);
CREATE INDEX match_state ON matches(site_id, state);

-- What others pay us for ------------------------------------------------------

CREATE TABLE price_rules (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  position integer NOT NULL,
  name text NOT NULL,
  fits text NOT NULL DEFAULT '',
  wish text NOT NULL,
  version integer NOT NULL DEFAULT 1,
  updated_at datetime NOT NULL
);
CREATE UNIQUE INDEX price_rule_place ON price_rules(site_id, position);

-- A listing is (site, our SKU there): what is wanted, what was worked out, and
-- what was confirmed.
CREATE TABLE listings (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id),
  sku text NOT NULL,
  product_id integer NOT NULL REFERENCES products(id),
  entry_id integer REFERENCES entries(id),
  category text NOT NULL DEFAULT '',
  units integer NOT NULL DEFAULT 1,
  supply_link_id integer REFERENCES supply_links(id) ON DELETE SET NULL,
  state text NOT NULL,
  currency text NOT NULL,
  version integer NOT NULL DEFAULT 1,
  -- wanted
  unwanted boolean NOT NULL DEFAULT 0,
  own_rule text NOT NULL DEFAULT '',
  fixed_price integer,
  former integer,
  warehouse boolean NOT NULL DEFAULT 0,
  -- worked out
  price integer,
  quantity integer NOT NULL DEFAULT 0,
  cost integer,
  cost_cur text NOT NULL DEFAULT '',
  landed integer,
  fees integer,
  tax integer,
  outbound integer,
  profit integer,
  floor integer,
  break_even integer,
  bound text NOT NULL DEFAULT '',
  rule_id integer REFERENCES price_rules(id) ON DELETE SET NULL,
  why text NOT NULL DEFAULT '',
  -- confirmed
  confirmed_price integer,
  confirmed_quantity integer NOT NULL DEFAULT 0,
  confirmed_cost integer,
  confirmed_cost_cur text NOT NULL DEFAULT '',
  confirmed_landed integer,
  confirmed_at datetime,
  words text NOT NULL DEFAULT '',
  words_field text NOT NULL DEFAULT ''
);
CREATE UNIQUE INDEX listing_sku ON listings(site_id, sku);
CREATE INDEX listing_product ON listings(product_id, site_id);
CREATE INDEX listing_site_state ON listings(site_id, state);
CREATE INDEX listing_rule ON listings(rule_id);
CREATE INDEX listing_supply_link ON listings(supply_link_id);
CREATE INDEX listing_entry ON listings(entry_id, site_id);
CREATE INDEX listings_by_price ON listings(coalesce(price, -1), id);
CREATE INDEX listings_by_profit ON listings(coalesce(profit, -9000000000), id);
CREATE INDEX listings_by_landed ON listings(coalesce(landed, -1), id);
CREATE INDEX listings_by_quantity ON listings(quantity, id);
CREATE INDEX listings_by_state ON listings(state, id);

-- Listings that something changed for since they were worked out: marked in the
-- transaction that changed it. Those whose supplier has none left are urgent.
CREATE TABLE dirties (
  listing_id integer PRIMARY KEY REFERENCES listings(id) ON DELETE CASCADE,
  site_id integer NOT NULL,
  urgent boolean NOT NULL DEFAULT 0
);
CREATE INDEX dirty_next ON dirties(site_id, urgent DESC, listing_id);

CREATE TABLE exchange_rates (
  id integer PRIMARY KEY,
  from_currency text NOT NULL,
  to_currency text NOT NULL,
  rate integer NOT NULL,
  day text NOT NULL,
  way text NOT NULL DEFAULT 'typed'
);
CREATE UNIQUE INDEX exchange_rate_pair ON exchange_rates(from_currency, to_currency);

CREATE TABLE settings (
  key text PRIMARY KEY,
  value text NOT NULL DEFAULT '',
  version integer NOT NULL DEFAULT 1
) WITHOUT ROWID;

-- What should change, and what was sent ---------------------------------------

CREATE TABLE plans (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  made_at datetime NOT NULL
);
CREATE UNIQUE INDEX plan_site ON plans(site_id);

CREATE TABLE plan_lines (
  id integer PRIMARY KEY,
  plan_id integer NOT NULL REFERENCES plans(id) ON DELETE CASCADE,
  listing_id integer NOT NULL REFERENCES listings(id) ON DELETE CASCADE,
  kind text NOT NULL,
  from_price integer,
  to_price integer,
  from_qty integer,
  to_qty integer,
  profit_was integer,
  profit_new integer,
  cost integer,
  cost_cur text NOT NULL DEFAULT '',
  landed integer,
  currency text NOT NULL,
  reasons text NOT NULL DEFAULT '[]',
  verdict text NOT NULL,
  verdict_why text NOT NULL DEFAULT '',
  state text NOT NULL
);
CREATE INDEX plan_line_waiting ON plan_lines(plan_id, state, verdict);
CREATE INDEX plan_line_listing ON plan_lines(listing_id, state);

CREATE TABLE send_outs (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id),
  plan_id integer REFERENCES plans(id) ON DELETE SET NULL,
  key text NOT NULL,
  batch text NOT NULL DEFAULT '',
  state text NOT NULL,
  urgent boolean NOT NULL DEFAULT 0,
  perhaps boolean NOT NULL DEFAULT 0,
  tries integer NOT NULL DEFAULT 0,
  error text NOT NULL DEFAULT '',
  sender text NOT NULL DEFAULT '',
  created_at datetime NOT NULL,
  sent_at datetime,
  overdue_at datetime,
  done_at datetime
);
CREATE UNIQUE INDEX send_out_key ON send_outs(key);
CREATE INDEX send_out_site ON send_outs(site_id, state);
CREATE INDEX send_out_state ON send_outs(state);

CREATE TABLE send_lines (
  id integer PRIMARY KEY,
  send_out_id integer NOT NULL REFERENCES send_outs(id) ON DELETE CASCADE,
  listing_id integer NOT NULL REFERENCES listings(id),
  plan_line_id integer REFERENCES plan_lines(id) ON DELETE SET NULL,
  key text NOT NULL,
  was text NOT NULL DEFAULT '',
  price integer,
  quantity integer,
  cost integer,
  cost_cur text NOT NULL DEFAULT '',
  landed integer,
  quote text NOT NULL DEFAULT '',
  state text NOT NULL,
  words text NOT NULL DEFAULT '',
  field text NOT NULL DEFAULT '',
  later text NOT NULL DEFAULT '',
  handed_at datetime,
  answered_at datetime
);
CREATE UNIQUE INDEX send_line_key ON send_lines(send_out_id, key);
CREATE INDEX send_line_listing ON send_lines(listing_id, answered_at);
CREATE INDEX send_line_open ON send_lines(listing_id, id) WHERE state IN ('waiting', 'sent', 'unknown');
CREATE INDEX send_line_plan ON send_lines(plan_line_id) WHERE plan_line_id IS NOT NULL;

-- When the listings of a site are read back, and what was on sale there that is
-- tied to nothing of ours.
CREATE TABLE readings (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  due_at datetime NOT NULL
);
CREATE INDEX reading_due ON readings(due_at);

CREATE TABLE untieds (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  sku text NOT NULL,
  entry_ref text NOT NULL DEFAULT '',
  price integer,
  quantity integer NOT NULL DEFAULT 0,
  seen_at datetime NOT NULL,
  PRIMARY KEY (site_id, sku)
);

-- Work, and who did what ------------------------------------------------------

CREATE TABLE runs (
  id integer PRIMARY KEY,
  kind text NOT NULL,
  lane text NOT NULL,
  title text NOT NULL DEFAULT '',
  subject integer NOT NULL DEFAULT 0,
  state text NOT NULL,
  urgent boolean NOT NULL DEFAULT 0,
  once boolean NOT NULL DEFAULT 0,
  actor text NOT NULL DEFAULT '',
  done integer NOT NULL DEFAULT 0,
  total integer NOT NULL DEFAULT 0,
  tries integer NOT NULL DEFAULT 0,
  note text NOT NULL DEFAULT '',
  error text NOT NULL DEFAULT '',
  due integer NOT NULL DEFAULT 0,
  created_at datetime NOT NULL,
  started_at datetime,
  ended_at datetime
);
CREATE INDEX run_next ON runs(state, urgent DESC, id);
CREATE UNIQUE INDEX run_once ON runs(kind, subject) WHERE once AND state = 'queued';
CREATE INDEX run_subject ON runs(kind, subject);

CREATE TABLE audits (
  id integer PRIMARY KEY,
  at datetime NOT NULL,
  actor text NOT NULL DEFAULT '',
  what text NOT NULL,
  subject text NOT NULL DEFAULT '',
  detail text NOT NULL DEFAULT ''
);
CREATE INDEX audit_at ON audits(at);

CREATE TABLE answers (
  actor text NOT NULL,
  key text NOT NULL,
  digest text NOT NULL,
  status integer NOT NULL,
  type text NOT NULL DEFAULT '',
  body blob,
  at datetime NOT NULL,
  PRIMARY KEY (actor, key)
) WITHOUT ROWID;
CREATE INDEX answer_at ON answers(at);

CREATE TABLE sessions (
  digest text PRIMARY KEY,
  actor text NOT NULL,
  made_at datetime NOT NULL,
  seen_at datetime NOT NULL
) WITHOUT ROWID;

-- Search ----------------------------------------------------------------------

CREATE TABLE search_marks (
  id integer PRIMARY KEY,
  product_id integer NOT NULL DEFAULT 0,
  change_id integer NOT NULL DEFAULT 0
);

-- The words of supplier products and nothing else: the rows themselves stand in
-- their table, and refs and numbers have indexes there.
CREATE VIRTUAL TABLE supplier_search USING fts5(words, content='', contentless_delete=1, detail=none, tokenize="unicode61 remove_diacritics 2");

-- What we sell, by any part of its title, SKU, number or suppliers' refs: an
-- index of every three letters that stand together, kept in step by triggers.
CREATE VIRTUAL TABLE product_search USING fts5(words, content='', contentless_delete=1, tokenize='trigram');
CREATE VIEW product_words AS SELECT p.id, p.title || char(10) || p.sku || char(10) || p.gtin || char(10) || coalesce((SELECT group_concat(sp.ref, char(10))
  FROM supply_links k JOIN supplier_products sp ON sp.id = k.supplier_product_id WHERE k.product_id = p.id), '') AS words FROM products p;
CREATE TRIGGER product_made AFTER INSERT ON products BEGIN
  INSERT INTO product_search(rowid, words) SELECT id, words FROM product_words WHERE id = new.id;
END;
CREATE TRIGGER product_renamed AFTER UPDATE OF title, sku, gtin ON products BEGIN
  DELETE FROM product_search WHERE rowid = new.id;
  INSERT INTO product_search(rowid, words) SELECT id, words FROM product_words WHERE id = new.id;
END;
CREATE TRIGGER product_dropped AFTER DELETE ON products BEGIN
  DELETE FROM product_search WHERE rowid = old.id;
END;
CREATE TRIGGER product_supplied AFTER INSERT ON supply_links BEGIN
  DELETE FROM product_search WHERE rowid = new.product_id;
  INSERT INTO product_search(rowid, words) SELECT id, words FROM product_words WHERE id = new.product_id;
END;
