-- The tables as all migrations leave them, for a new database. Made by
-- go test ./internal/store -run TestANewDatabase -keep

CREATE TABLE suppliers (
  id integer PRIMARY KEY,
  name text NOT NULL,
  created_at datetime NOT NULL
);
CREATE TABLE supplier_terms (
  supplier_id integer NOT NULL REFERENCES suppliers(id) ON DELETE CASCADE,
  currency text NOT NULL,
  charge integer NOT NULL DEFAULT 0,
  free_from integer,
  duty integer NOT NULL DEFAULT 0,
  days integer NOT NULL DEFAULT 0, least integer NOT NULL DEFAULT 0, mail text NOT NULL DEFAULT '',
  PRIMARY KEY (supplier_id, currency)
, CONSTRAINT supplier_terms_bounds CHECK (
  typeof(charge) IN ('integer', 'null') AND charge BETWEEN 0 AND 1000000000000000 AND
  typeof(free_from) IN ('integer', 'null') AND free_from BETWEEN 0 AND 1000000000000000 AND
  typeof(duty) IN ('integer', 'null') AND duty BETWEEN 0 AND 1000000000 AND
  typeof(days) IN ('integer', 'null') AND days BETWEEN 0 AND 1000000000 AND
  typeof(least) IN ('integer', 'null') AND least BETWEEN 0 AND 1000000000000000)) WITHOUT ROWID;
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
, rhythm integer NOT NULL DEFAULT 0
  CHECK (typeof(rhythm) = 'integer' AND rhythm BETWEEN 0 AND 1000000000), heard_at datetime, quiet numeric NOT NULL DEFAULT false, cost_tax integer NOT NULL DEFAULT 0
  CHECK (typeof(cost_tax) = 'integer' AND cost_tax BETWEEN 0 AND 1000000), cost_tax_back numeric NOT NULL DEFAULT false, costs_unsaid numeric NOT NULL DEFAULT false, CONSTRAINT sources_bounds CHECK (
  typeof(every) IN ('integer', 'null') AND every BETWEEN 0 AND 1000000000 AND
  typeof(last_rows) IN ('integer', 'null') AND last_rows BETWEEN 0 AND 1000000000));
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
, CONSTRAINT feeds_bounds CHECK (
  typeof(bytes) IN ('integer', 'null') AND bytes BETWEEN 0 AND 1000000000000 AND
  typeof(mends_row) IN ('integer', 'null') AND mends_row BETWEEN 0 AND 1000000000 AND
  typeof(rows) IN ('integer', 'null') AND rows BETWEEN 0 AND 1000000000 AND
  typeof(new) IN ('integer', 'null') AND new BETWEEN 0 AND 1000000000 AND
  typeof(changed) IN ('integer', 'null') AND changed BETWEEN 0 AND 1000000000 AND
  typeof(same) IN ('integer', 'null') AND same BETWEEN 0 AND 1000000000 AND
  typeof(set_aside) IN ('integer', 'null') AND set_aside BETWEEN 0 AND 1000000000 AND
  typeof(gone) IN ('integer', 'null') AND gone BETWEEN 0 AND 1000000000 AND
  typeof(warnings) IN ('integer', 'null') AND warnings BETWEEN 0 AND 1000000000));
CREATE TABLE set_asides (
  id integer PRIMARY KEY,
  feed_id integer NOT NULL REFERENCES feeds(id) ON DELETE CASCADE,
  row integer NOT NULL,
  cells text NOT NULL DEFAULT '[]',
  problems text NOT NULL DEFAULT '[]',
  mended_by integer REFERENCES feeds(id)
);
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
, CONSTRAINT supplier_products_bounds CHECK (
  typeof(cost) IN ('integer', 'null') AND cost BETWEEN 0 AND 1000000000000000 AND
  typeof(stock) IN ('integer', 'null') AND stock BETWEEN 0 AND 1000000000 AND
  typeof(units_per_item) IN ('integer', 'null') AND units_per_item BETWEEN 0 AND 1000000000 AND
  typeof(missing) IN ('integer', 'null') AND missing BETWEEN 0 AND 1000000000));
CREATE TABLE supplier_changes (
  id integer PRIMARY KEY,
  supplier_product_id integer NOT NULL REFERENCES supplier_products(id) ON DELETE CASCADE,
  feed_id integer NOT NULL REFERENCES feeds(id),
  field text NOT NULL,
  before text NOT NULL DEFAULT '',
  after text NOT NULL DEFAULT ''
);
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
, CONSTRAINT pictures_bounds CHECK (
  typeof(width) IN ('integer', 'null') AND width BETWEEN 0 AND 1000000000 AND
  typeof(height) IN ('integer', 'null') AND height BETWEEN 0 AND 1000000000 AND
  typeof(bytes) IN ('integer', 'null') AND bytes BETWEEN 0 AND 1000000000000 AND
  typeof(tries) IN ('integer', 'null') AND tries BETWEEN 0 AND 1000000000));
CREATE TABLE picture_uses (
  supplier_product_id integer NOT NULL REFERENCES supplier_products(id) ON DELETE CASCADE,
  position integer NOT NULL,
  picture_id integer NOT NULL REFERENCES pictures(id),
  PRIMARY KEY (supplier_product_id, position)
) WITHOUT ROWID;
CREATE TABLE families (
  id integer PRIMARY KEY,
  title text NOT NULL DEFAULT ''
);
CREATE TABLE family_groups (
  source_id integer NOT NULL REFERENCES sources(id),
  group_ref text NOT NULL,
  family_id integer NOT NULL REFERENCES families(id) ON DELETE CASCADE,
  PRIMARY KEY (source_id, group_ref)
) WITHOUT ROWID;
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
CREATE TABLE supply_links (
  id integer PRIMARY KEY,
  product_id integer NOT NULL REFERENCES products(id) ON DELETE CASCADE,
  supplier_product_id integer NOT NULL REFERENCES supplier_products(id),
  units_bought integer NOT NULL DEFAULT 1
, doubt text NOT NULL DEFAULT '', CONSTRAINT supply_links_bounds CHECK (
  typeof(units_bought) IN ('integer', 'null') AND units_bought BETWEEN 0 AND 1000000000));
CREATE TABLE marketplaces (
  id integer PRIMARY KEY,
  name text NOT NULL,
  address text NOT NULL
);
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
, accepts boolean NOT NULL DEFAULT 1, runs text NOT NULL DEFAULT 'by hand', acts_from datetime, quiet_from integer NOT NULL DEFAULT 0, quiet_to integer NOT NULL DEFAULT 0, most_at_once integer NOT NULL DEFAULT 0, most_a_day integer NOT NULL DEFAULT 0, no_marks boolean NOT NULL DEFAULT 0, orders_cursor text NOT NULL DEFAULT '', orders_at datetime, terms_unsaid boolean NOT NULL DEFAULT 0, postage text NOT NULL DEFAULT '', tax_rates text NOT NULL DEFAULT '', CONSTRAINT sites_bounds CHECK (
  typeof(tax_rate) IN ('integer', 'null') AND tax_rate BETWEEN 0 AND 1000000000 AND
  typeof(charged) IN ('integer', 'null') AND charged BETWEEN 0 AND 1000000000000000 AND
  typeof(outbound) IN ('integer', 'null') AND outbound BETWEEN 0 AND 1000000000000000 AND
  typeof(handling) IN ('integer', 'null') AND handling BETWEEN 0 AND 1000000000000000 AND
  typeof(cushion) IN ('integer', 'null') AND cushion BETWEEN 0 AND 1000000000 AND
  typeof(max_lines) IN ('integer', 'null') AND max_lines BETWEEN 0 AND 1000000000 AND
  typeof(least_picture) IN ('integer', 'null') AND least_picture BETWEEN 0 AND 1000000000 AND
  typeof(batch_hours) IN ('integer', 'null') AND batch_hours BETWEEN 0 AND 1000000000 AND
  typeof(quiet_from) IN ('integer', 'null') AND quiet_from BETWEEN 0 AND 1000000000 AND
  typeof(quiet_to) IN ('integer', 'null') AND quiet_to BETWEEN 0 AND 1000000000 AND
  typeof(most_at_once) IN ('integer', 'null') AND most_at_once BETWEEN 0 AND 1000000000 AND
  typeof(most_a_day) IN ('integer', 'null') AND most_a_day BETWEEN 0 AND 1000000000));
CREATE TABLE categories (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  ref text NOT NULL,
  parent text NOT NULL DEFAULT '',
  name text NOT NULL DEFAULT ''
, needs_leave boolean NOT NULL DEFAULT 0);
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
, gtins text NOT NULL DEFAULT '[]', mpn text NOT NULL DEFAULT '', colour text NOT NULL DEFAULT '', size text NOT NULL DEFAULT '', material text NOT NULL DEFAULT '', closed boolean NOT NULL DEFAULT 0, needs_leave boolean NOT NULL DEFAULT 0, rating integer, ratings integer, rank integer, CONSTRAINT entries_bounds CHECK (
  typeof(units) IN ('integer', 'null') AND units BETWEEN 0 AND 1000000000 AND
  typeof(rating) IN ('integer', 'null') AND rating BETWEEN 0 AND 1000000000 AND
  typeof(ratings) IN ('integer', 'null') AND ratings BETWEEN 0 AND 1000000000 AND
  typeof(rank) IN ('integer', 'null') AND rank BETWEEN 0 AND 1000000000));
CREATE TABLE matches (
  id integer PRIMARY KEY,
  supplier_product_id integer NOT NULL REFERENCES supplier_products(id) ON DELETE CASCADE,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  state text NOT NULL,
  entry_id integer REFERENCES entries(id),
  candidates text NOT NULL DEFAULT '',
  decided_by text NOT NULL DEFAULT '',
  decided_at datetime NOT NULL
, verdict text NOT NULL DEFAULT '', units_bought integer NOT NULL DEFAULT 0, units_listed integer NOT NULL DEFAULT 0, basis text NOT NULL DEFAULT '', note text NOT NULL DEFAULT '', recheck boolean NOT NULL DEFAULT 0, CONSTRAINT matches_bounds CHECK (
  typeof(units_bought) IN ('integer', 'null') AND units_bought BETWEEN 0 AND 1000000000 AND
  typeof(units_listed) IN ('integer', 'null') AND units_listed BETWEEN 0 AND 1000000000));
CREATE TABLE price_rules (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  position integer NOT NULL,
  name text NOT NULL,
  fits text NOT NULL DEFAULT '',
  wish text NOT NULL,
  version integer NOT NULL DEFAULT 1,
  updated_at datetime NOT NULL
, sieve_id integer REFERENCES sieves(id), follows text NOT NULL DEFAULT '', runs text NOT NULL DEFAULT '', acts_from datetime);
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
, back_price integer, back_quantity integer, differs boolean NOT NULL DEFAULT 0, hidden boolean NOT NULL DEFAULT 0, shown_from text NOT NULL DEFAULT '', shown_until text NOT NULL DEFAULT '', seen_at datetime, CONSTRAINT listings_bounds CHECK (
  typeof(units) IN ('integer', 'null') AND units BETWEEN 0 AND 1000000000 AND
  typeof(fixed_price) IN ('integer', 'null') AND fixed_price BETWEEN 0 AND 1000000000000000 AND
  typeof(former) IN ('integer', 'null') AND former BETWEEN 0 AND 1000000000000000 AND
  typeof(price) IN ('integer', 'null') AND price BETWEEN 0 AND 1000000000000000 AND
  typeof(quantity) IN ('integer', 'null') AND quantity BETWEEN 0 AND 1000000000 AND
  typeof(cost) IN ('integer', 'null') AND cost BETWEEN 0 AND 1000000000000000 AND
  typeof(landed) IN ('integer', 'null') AND landed BETWEEN 0 AND 1000000000000000 AND
  typeof(fees) IN ('integer', 'null') AND fees BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(tax) IN ('integer', 'null') AND tax BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(outbound) IN ('integer', 'null') AND outbound BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(profit) IN ('integer', 'null') AND profit BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(floor) IN ('integer', 'null') AND floor BETWEEN 0 AND 1000000000000000 AND
  typeof(break_even) IN ('integer', 'null') AND break_even BETWEEN 0 AND 1000000000000000 AND
  typeof(confirmed_price) IN ('integer', 'null') AND confirmed_price BETWEEN 0 AND 1000000000000000 AND
  typeof(confirmed_quantity) IN ('integer', 'null') AND confirmed_quantity BETWEEN 0 AND 1000000000 AND
  typeof(confirmed_cost) IN ('integer', 'null') AND confirmed_cost BETWEEN 0 AND 1000000000000000 AND
  typeof(confirmed_landed) IN ('integer', 'null') AND confirmed_landed BETWEEN 0 AND 1000000000000000 AND
  typeof(back_price) IN ('integer', 'null') AND back_price BETWEEN 0 AND 1000000000000000 AND
  typeof(back_quantity) IN ('integer', 'null') AND back_quantity BETWEEN 0 AND 1000000000));
CREATE TABLE dirties (
  listing_id integer PRIMARY KEY REFERENCES listings(id) ON DELETE CASCADE,
  site_id integer NOT NULL,
  urgent boolean NOT NULL DEFAULT 0
);
CREATE TABLE exchange_rates (
  id integer PRIMARY KEY,
  from_currency text NOT NULL,
  to_currency text NOT NULL,
  rate integer NOT NULL,
  day text NOT NULL,
  way text NOT NULL DEFAULT 'typed'
, CONSTRAINT exchange_rates_bounds CHECK (
  typeof(rate) IN ('integer', 'null') AND rate BETWEEN 1 AND 1000000000000000000));
CREATE TABLE settings (
  key text PRIMARY KEY,
  value text NOT NULL DEFAULT '',
  version integer NOT NULL DEFAULT 1
) WITHOUT ROWID;
CREATE TABLE plans (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  made_at datetime NOT NULL
);
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
, rule text NOT NULL DEFAULT '', place integer NOT NULL DEFAULT 5, on_sale integer NOT NULL DEFAULT 0, gain integer NOT NULL DEFAULT 0, rival boolean NOT NULL DEFAULT 0, CONSTRAINT plan_lines_bounds CHECK (
  typeof(from_price) IN ('integer', 'null') AND from_price BETWEEN 0 AND 1000000000000000 AND
  typeof(to_price) IN ('integer', 'null') AND to_price BETWEEN 0 AND 1000000000000000 AND
  typeof(from_qty) IN ('integer', 'null') AND from_qty BETWEEN 0 AND 1000000000 AND
  typeof(to_qty) IN ('integer', 'null') AND to_qty BETWEEN 0 AND 1000000000 AND
  typeof(profit_was) IN ('integer', 'null') AND profit_was BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(profit_new) IN ('integer', 'null') AND profit_new BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(cost) IN ('integer', 'null') AND cost BETWEEN 0 AND 1000000000000000 AND
  typeof(landed) IN ('integer', 'null') AND landed BETWEEN 0 AND 1000000000000000 AND
  typeof(on_sale) IN ('integer', 'null') AND on_sale BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(gain) IN ('integer', 'null') AND gain BETWEEN -1000000000000000 AND 1000000000000000));
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
, alone boolean NOT NULL DEFAULT 0, undoes integer REFERENCES send_outs(id) ON DELETE SET NULL, again_at datetime, paused boolean NOT NULL DEFAULT 0, CONSTRAINT send_outs_bounds CHECK (
  typeof(tries) IN ('integer', 'null') AND tries BETWEEN 0 AND 1000000000));
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
, does text NOT NULL DEFAULT '', content text NOT NULL DEFAULT '', CONSTRAINT send_lines_bounds CHECK (
  typeof(price) IN ('integer', 'null') AND price BETWEEN 0 AND 1000000000000000 AND
  typeof(quantity) IN ('integer', 'null') AND quantity BETWEEN 0 AND 1000000000 AND
  typeof(cost) IN ('integer', 'null') AND cost BETWEEN 0 AND 1000000000000000 AND
  typeof(landed) IN ('integer', 'null') AND landed BETWEEN 0 AND 1000000000000000));
CREATE TABLE readings (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  due_at datetime NOT NULL
);
CREATE TABLE untieds (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  sku text NOT NULL,
  entry_ref text NOT NULL DEFAULT '',
  price integer,
  quantity integer NOT NULL DEFAULT 0,
  seen_at datetime NOT NULL, title text NOT NULL DEFAULT '', gtin text NOT NULL DEFAULT '', brand text NOT NULL DEFAULT '', mpn text NOT NULL DEFAULT '',
  PRIMARY KEY (site_id, sku)
, CONSTRAINT untieds_bounds CHECK (
  typeof(price) IN ('integer', 'null') AND price BETWEEN 0 AND 1000000000000000 AND
  typeof(quantity) IN ('integer', 'null') AND quantity BETWEEN 0 AND 1000000000));
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
, falls integer NOT NULL DEFAULT 0 CHECK (typeof(falls) = 'integer' AND falls BETWEEN 0 AND 1000));
CREATE TABLE audits (
  id integer PRIMARY KEY,
  at datetime NOT NULL,
  actor text NOT NULL DEFAULT '',
  what text NOT NULL,
  subject text NOT NULL DEFAULT '',
  detail text NOT NULL DEFAULT ''
);
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
CREATE TABLE search_marks (
  id integer PRIMARY KEY,
  product_id integer NOT NULL DEFAULT 0,
  change_id integer NOT NULL DEFAULT 0
);
CREATE VIRTUAL TABLE supplier_search USING fts5(words, content='', contentless_delete=1, detail=none, tokenize="unicode61 remove_diacritics 2");
CREATE VIRTUAL TABLE product_search USING fts5(words, content='', contentless_delete=1, tokenize='trigram');
CREATE TABLE look_ups (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  asked text NOT NULL,
  refs text NOT NULL DEFAULT '[]',
  looked_at datetime NOT NULL,
  PRIMARY KEY (site_id, asked)
) WITHOUT ROWID;
CREATE TABLE leaves (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  category text NOT NULL,
  state text NOT NULL,
  noted_at datetime NOT NULL,
  noted_by text NOT NULL DEFAULT '',
  PRIMARY KEY (site_id, category)
) WITHOUT ROWID;
CREATE TABLE pool_numbers (
  gtin text PRIMARY KEY,
  added_at datetime NOT NULL,
  match_id integer REFERENCES matches(id) ON DELETE SET NULL,
  taken_at datetime
) WITHOUT ROWID;
CREATE TABLE given_skus (
  sku text PRIMARY KEY
) WITHOUT ROWID;
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
, CONSTRAINT place_files_bounds CHECK (
  typeof(rows) IN ('integer', 'null') AND rows BETWEEN 0 AND 1000000000 AND
  typeof(new) IN ('integer', 'null') AND new BETWEEN 0 AND 1000000000 AND
  typeof(changed) IN ('integer', 'null') AND changed BETWEEN 0 AND 1000000000 AND
  typeof(same) IN ('integer', 'null') AND same BETWEEN 0 AND 1000000000 AND
  typeof(aside) IN ('integer', 'null') AND aside BETWEEN 0 AND 1000000000 AND
  typeof(untied) IN ('integer', 'null') AND untied BETWEEN 0 AND 1000000000));
CREATE VIRTUAL TABLE entry_search USING fts5(words, content='', contentless_delete=1, detail=none, tokenize="unicode61 remove_diacritics 2");
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
, units_sold integer NOT NULL DEFAULT 0, ties_up integer
  CHECK (typeof(ties_up) IN ('integer', 'null') AND ties_up BETWEEN 0 AND 1000000000000000), CONSTRAINT weighings_bounds CHECK (
  typeof(landed) IN ('integer', 'null') AND landed BETWEEN 0 AND 1000000000000000 AND
  typeof(stock) IN ('integer', 'null') AND stock BETWEEN 0 AND 1000000000 AND
  typeof(lowest) IN ('integer', 'null') AND lowest BETWEEN 0 AND 1000000000000000 AND
  typeof(leading) IN ('integer', 'null') AND leading BETWEEN 0 AND 1000000000000000 AND
  typeof(sellers) IN ('integer', 'null') AND sellers BETWEEN 0 AND 1000000000 AND
  typeof(rating) IN ('integer', 'null') AND rating BETWEEN 0 AND 1000000000 AND
  typeof(rank) IN ('integer', 'null') AND rank BETWEEN 0 AND 1000000000 AND
  typeof(profit_lowest) IN ('integer', 'null') AND profit_lowest BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(margin_lowest) IN ('integer', 'null') AND margin_lowest BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(return_lowest) IN ('integer', 'null') AND return_lowest BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(profit_leading) IN ('integer', 'null') AND profit_leading BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(price_rule) IN ('integer', 'null') AND price_rule BETWEEN 0 AND 1000000000000000 AND
  typeof(profit_rule) IN ('integer', 'null') AND profit_rule BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(price_aim) IN ('integer', 'null') AND price_aim BETWEEN 0 AND 1000000000000000 AND
  typeof(above) IN ('integer', 'null') AND above BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(weight) IN ('integer', 'null') AND weight BETWEEN 0 AND 1000000000000 AND
  typeof(units_sold) IN ('integer', 'null') AND units_sold BETWEEN 0 AND 1000000000));
CREATE TABLE market_points (
  id integer PRIMARY KEY,
  entry_id integer NOT NULL REFERENCES entries(id) ON DELETE CASCADE,
  at datetime NOT NULL,
  lowest integer,
  leading integer,
  sellers integer NOT NULL
, CONSTRAINT market_points_bounds CHECK (
  typeof(lowest) IN ('integer', 'null') AND lowest BETWEEN 0 AND 1000000000000000 AND
  typeof(leading) IN ('integer', 'null') AND leading BETWEEN 0 AND 1000000000000000 AND
  typeof(sellers) IN ('integer', 'null') AND sellers BETWEEN 0 AND 1000000000));
CREATE TABLE drops (
  supplier_product_id integer PRIMARY KEY REFERENCES supplier_products(id) ON DELETE CASCADE,
  reason text NOT NULL DEFAULT '',
  dropped_at datetime NOT NULL,
  dropped_by text NOT NULL DEFAULT ''
);
CREATE TABLE sieves (
  id integer PRIMARY KEY,
  name text NOT NULL,
  text text NOT NULL, -- JSON, core/sieve
  sort text NOT NULL DEFAULT '',
  down boolean NOT NULL DEFAULT 1,
  columns text NOT NULL DEFAULT '[]',
  version integer NOT NULL DEFAULT 1
);
CREATE TABLE web_look_ups (
  id integer PRIMARY KEY,
  name text NOT NULL,
  address text NOT NULL
);
CREATE TABLE plan_sums (
  plan_id integer NOT NULL REFERENCES plans(id) ON DELETE CASCADE,
  kind text NOT NULL,
  verdict text NOT NULL,
  lines integer NOT NULL,
  on_sale integer NOT NULL,
  gain integer NOT NULL,
  rivals integer NOT NULL,
  PRIMARY KEY (plan_id, kind, verdict)
, CONSTRAINT plan_sums_bounds CHECK (
  typeof(lines) IN ('integer', 'null') AND lines BETWEEN 0 AND 1000000000 AND
  typeof(on_sale) = 'integer' AND
  typeof(gain) = 'integer' AND
  typeof(rivals) IN ('integer', 'null') AND rivals BETWEEN 0 AND 1000000000)) WITHOUT ROWID;
CREATE TABLE listing_sums (
  site_id integer NOT NULL,
  state text NOT NULL,
  listings integer NOT NULL,
  PRIMARY KEY (site_id, state)
, CONSTRAINT listing_sums_bounds CHECK (
  typeof(listings) IN ('integer', 'null') AND listings BETWEEN 0 AND 1000000000)) WITHOUT ROWID;
CREATE TABLE shadows (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  listing_id integer NOT NULL REFERENCES listings(id) ON DELETE CASCADE,
  rule text NOT NULL DEFAULT '',
  kind text NOT NULL,
  from_price integer,
  to_price integer,
  from_qty integer,
  to_qty integer,
  reasons text NOT NULL DEFAULT '[]',
  at datetime NOT NULL
, CONSTRAINT shadows_bounds CHECK (
  typeof(from_price) IN ('integer', 'null') AND from_price BETWEEN 0 AND 1000000000000000 AND
  typeof(to_price) IN ('integer', 'null') AND to_price BETWEEN 0 AND 1000000000000000 AND
  typeof(from_qty) IN ('integer', 'null') AND from_qty BETWEEN 0 AND 1000000000 AND
  typeof(to_qty) IN ('integer', 'null') AND to_qty BETWEEN 0 AND 1000000000));
CREATE TABLE differences (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  listing_id integer NOT NULL REFERENCES listings(id) ON DELETE CASCADE,
  kind text NOT NULL, -- changed, ended
  our_price integer,
  our_quantity integer NOT NULL DEFAULT 0,
  their_price integer,
  their_quantity integer NOT NULL DEFAULT 0,
  seen_at datetime NOT NULL,
  state text NOT NULL DEFAULT 'open', -- open, accepted, ours
  decided_at datetime,
  decided_by text NOT NULL DEFAULT ''
, CONSTRAINT differences_bounds CHECK (
  typeof(our_price) IN ('integer', 'null') AND our_price BETWEEN 0 AND 1000000000000000 AND
  typeof(our_quantity) IN ('integer', 'null') AND our_quantity BETWEEN 0 AND 1000000000 AND
  typeof(their_price) IN ('integer', 'null') AND their_price BETWEEN 0 AND 1000000000000000 AND
  typeof(their_quantity) IN ('integer', 'null') AND their_quantity BETWEEN 0 AND 1000000000));
CREATE TABLE watches (
  id integer PRIMARY KEY,
  name text NOT NULL,
  ready text NOT NULL DEFAULT '', -- which of the ready-made ones it is
  number text NOT NULL DEFAULT '',
  test text NOT NULL DEFAULT '',  -- below, above, moved
  value integer NOT NULL DEFAULT 0, -- minor units, millionths, counts or hours, as the number has it
  site_id integer REFERENCES sites(id) ON DELETE CASCADE,
  product_id integer REFERENCES products(id) ON DELETE CASCADE,
  sieve_id integer REFERENCES sieves(id),
  once boolean NOT NULL DEFAULT 0,
  mail boolean NOT NULL DEFAULT 0,
  active boolean NOT NULL DEFAULT 1,
  quiet_until datetime,
  looked_at datetime,
  fired_at datetime,
  version integer NOT NULL DEFAULT 1
);
CREATE TABLE watch_values (
  watch_id integer NOT NULL REFERENCES watches(id) ON DELETE CASCADE,
  key text NOT NULL,
  value integer,
  holds boolean NOT NULL,
  PRIMARY KEY (watch_id, key)
) WITHOUT ROWID;
CREATE TABLE watch_hits (
  id integer PRIMARY KEY,
  watch_id integer NOT NULL REFERENCES watches(id) ON DELETE CASCADE,
  listing_id integer REFERENCES listings(id) ON DELETE CASCADE,
  words text NOT NULL,
  link text NOT NULL DEFAULT '',
  currency text NOT NULL DEFAULT '',
  before integer,
  after integer,
  at datetime NOT NULL,
  mail_id integer, -- the mail that told it
  seen boolean NOT NULL DEFAULT 0
);
CREATE TABLE mails (
  id integer PRIMARY KEY,
  recipient text NOT NULL,
  subject text NOT NULL,
  body text NOT NULL,
  made_at datetime NOT NULL,
  sent_at datetime,
  tries integer NOT NULL DEFAULT 0,
  error text NOT NULL DEFAULT ''
, refused_at datetime, about text NOT NULL DEFAULT '', CONSTRAINT mails_bounds CHECK (
  typeof(tries) IN ('integer', 'null') AND tries BETWEEN 0 AND 1000000000));
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
CREATE TABLE sayings (
  listing_id integer NOT NULL REFERENCES listings(id) ON DELETE CASCADE,
  field text NOT NULL, -- as listing.Values has it, such as attributes.capacity
  value text NOT NULL, -- JSON
  actor text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (listing_id, field)
) WITHOUT ROWID;
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
, changed text NOT NULL DEFAULT '[]', CONSTRAINT preparations_bounds CHECK (
  typeof(done) IN ('integer', 'null') AND done BETWEEN 0 AND 1000000000 AND
  typeof(needed) IN ('integer', 'null') AND needed BETWEEN 0 AND 1000000000 AND
  typeof(helped) IN ('integer', 'null') AND helped BETWEEN 0 AND 1000000000 AND
  typeof(helps) IN ('integer', 'null') AND helps BETWEEN 0 AND 1000000000 AND
  typeof(stops) IN ('integer', 'null') AND stops BETWEEN 0 AND 1000000000));
CREATE TABLE uploads (
  marketplace_id integer NOT NULL REFERENCES marketplaces(id) ON DELETE CASCADE,
  digest text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (marketplace_id, digest)
) WITHOUT ROWID;
CREATE TABLE picture_jobs (
  id integer PRIMARY KEY,
  recipe text NOT NULL, -- JSON of retouch.Recipe: what it has is put over that of each picture
  listings text NOT NULL, -- JSON of ids
  done integer NOT NULL DEFAULT 0 -- of them
, CONSTRAINT picture_jobs_bounds CHECK (
  typeof(done) IN ('integer', 'null') AND done BETWEEN 0 AND 1000000000));
CREATE TABLE wishes (
  feed_id integer PRIMARY KEY REFERENCES feeds(id) ON DELETE CASCADE,
  wish text NOT NULL -- JSON: its pictures, sites and category
);
CREATE TABLE category_defaults (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  category text NOT NULL, -- ref; '' is every category
  defaults text NOT NULL, -- JSON of reckon.Defaults
  actor text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (site_id, category)
) WITHOUT ROWID;
CREATE TABLE selling_terms (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  name text NOT NULL,
  terms text NOT NULL, -- JSON of listing.Terms
  actor text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (site_id, name)
) WITHOUT ROWID;
CREATE TABLE category_words (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  ours text NOT NULL, -- the supplier's words, folded
  category text NOT NULL,
  actor text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (site_id, ours)
) WITHOUT ROWID;
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
CREATE TABLE blanks (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  category text NOT NULL, -- ref; '' is changes of price and stock
  name text NOT NULL,
  layout text NOT NULL, -- JSON of blank.Layout
  actor text NOT NULL,
  at datetime NOT NULL,
  content blob NOT NULL, -- the last: what is before it is read without it
  UNIQUE (site_id, category)
);
CREATE TABLE sheet_files (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  batch text NOT NULL, -- key of the send-out
  category text NOT NULL,
  name text NOT NULL,
  rows integer NOT NULL,
  made_at datetime NOT NULL,
  fetched_at datetime, -- by a person who then may have taken it there
  uploaded_at datetime,
  uploaded_by text NOT NULL DEFAULT '',
  ref text NOT NULL DEFAULT '', -- the place's name for it, where its door took it
  content blob NOT NULL -- the last, as above
);
CREATE TABLE sheet_lines (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  batch text NOT NULL,
  key text NOT NULL,
  file_id integer REFERENCES sheet_files(id) ON DELETE CASCADE, -- none: it was refused before a file was made
  sku text NOT NULL,
  row integer NOT NULL, -- in the file, from 1
  said text NOT NULL DEFAULT '', -- taken, confirmed, refused
  field text NOT NULL DEFAULT '',
  words text NOT NULL DEFAULT '', task text NOT NULL DEFAULT '', at datetime,
  PRIMARY KEY (site_id, batch, key)
) WITHOUT ROWID;
CREATE TABLE report_forms (
  site_id integer PRIMARY KEY REFERENCES sites(id) ON DELETE CASCADE,
  columns text NOT NULL, -- JSON: column → what it is read as
  states text NOT NULL -- JSON: its word → taken, confirmed, refused
);
CREATE TABLE listing_contents (
  listing_id integer PRIMARY KEY REFERENCES listings(id) ON DELETE CASCADE,
  content text NOT NULL, -- JSON of place.Content, as confirmed last
  at datetime NOT NULL
);
CREATE TABLE listing_pages (
  listing_id integer PRIMARY KEY REFERENCES listings(id) ON DELETE CASCADE,
  page text NOT NULL
);
CREATE TABLE mends (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  field text NOT NULL,
  words text NOT NULL, -- the place's
  said text NOT NULL, -- JSON: the values that a person said
  actor text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (site_id, field, words)
) WITHOUT ROWID;
CREATE TABLE send_bodies (
  id integer PRIMARY KEY,
  send_out_id integer NOT NULL REFERENCES send_outs(id) ON DELETE CASCADE,
  at datetime NOT NULL,
  body blob NOT NULL -- gzip
);
CREATE TABLE word_differences (
  listing_id integer PRIMARY KEY REFERENCES listings(id) ON DELETE CASCADE,
  ours text NOT NULL, -- JSON of place.Content, as it was confirmed last
  there text NOT NULL, -- as it was read back
  fields text NOT NULL, -- JSON: those that differ
  seen_at datetime NOT NULL
);
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
, only text NOT NULL DEFAULT '[]', CONSTRAINT light_files_bounds CHECK (
  typeof(every) IN ('integer', 'null') AND every BETWEEN 0 AND 1000000000 AND
  typeof(rows) IN ('integer', 'null') AND rows BETWEEN 0 AND 1000000000));
CREATE TABLE orders (
  id integer PRIMARY KEY,
  version integer NOT NULL DEFAULT 1,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  ref text NOT NULL, -- the place's
  origin text NOT NULL, -- gateway, file, shop, typed
  placed_at datetime NOT NULL,
  seen_at datetime NOT NULL, -- when it was read first
  currency text NOT NULL,
  buyer text NOT NULL DEFAULT '', -- JSON of name, address, country; '': forgotten, or never known
  country text NOT NULL DEFAULT '' -- ISO 3166-1, kept for the books
);
CREATE TABLE order_lines (
  id integer PRIMARY KEY,
  order_id integer NOT NULL REFERENCES orders(id) ON DELETE CASCADE,
  ref text NOT NULL, -- the place's
  sku text NOT NULL, -- as the place tells it
  title text NOT NULL DEFAULT '',
  listing_id integer REFERENCES listings(id) ON DELETE SET NULL, -- none: something we don't know
  quantity integer NOT NULL,
  price integer NOT NULL, -- of one
  delivery integer NOT NULL DEFAULT 0, -- that the buyer paid
  tax integer, -- as the place told; none: it didn't
  fees integer, -- as above
  refunded integer NOT NULL DEFAULT 0,
  state text NOT NULL, -- new, bought, sent, done, cancelled, returned
  problem text NOT NULL DEFAULT '', -- why a person must look at it
  units integer NOT NULL DEFAULT 1, -- single units in one that is listed
  supplier_product_id integer REFERENCES supplier_products(id) ON DELETE SET NULL, -- that it is, or is to be, had from
  units_bought integer NOT NULL DEFAULT 1, -- single units in an item of that
  promised boolean NOT NULL DEFAULT 0, -- its units aren't missing from a feed of its supplier yet
  expected text NOT NULL DEFAULT '', -- JSON: the lines of its price as they were when it came
  expected_cost integer, -- of the line's goods, landed
  expected_profit integer,
  cost integer, -- of the line's goods, as the supplier asked, in the order's currency
  sending integer, -- what sending it to the buyer cost
  carrier text NOT NULL DEFAULT '',
  tracking text NOT NULL DEFAULT '',
  bought_at datetime,
  sent_at datetime,
  ended_at datetime, -- done, cancelled or returned
  told text NOT NULL DEFAULT '' -- JSON: what the place is to be told and wasn't yet
, tax_included integer NOT NULL DEFAULT 0 CHECK (typeof(tax_included) = 'integer' AND tax_included IN (0, 1)), tax_rate integer NOT NULL DEFAULT 0 CHECK (typeof(tax_rate) = 'integer' AND tax_rate BETWEEN 0 AND 1000000000000000), refunded_delivery integer NOT NULL DEFAULT 0 CHECK (typeof(refunded_delivery) = 'integer' AND refunded_delivery BETWEEN 0 AND 1000000000000000), CONSTRAINT order_lines_bounds CHECK (
  typeof(quantity) IN ('integer', 'null') AND quantity BETWEEN 0 AND 1000000000 AND
  typeof(price) IN ('integer', 'null') AND price BETWEEN 0 AND 1000000000000000 AND
  typeof(delivery) IN ('integer', 'null') AND delivery BETWEEN 0 AND 1000000000000000 AND
  typeof(tax) IN ('integer', 'null') AND tax BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(fees) IN ('integer', 'null') AND fees BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(refunded) IN ('integer', 'null') AND refunded BETWEEN 0 AND 1000000000000000 AND
  typeof(units) IN ('integer', 'null') AND units BETWEEN 0 AND 1000000000 AND
  typeof(units_bought) IN ('integer', 'null') AND units_bought BETWEEN 0 AND 1000000000 AND
  typeof(expected_cost) IN ('integer', 'null') AND expected_cost BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(expected_profit) IN ('integer', 'null') AND expected_profit BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(cost) IN ('integer', 'null') AND cost BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(sending) IN ('integer', 'null') AND sending BETWEEN -1000000000000000 AND 1000000000000000));
CREATE TABLE purchases (
  id integer PRIMARY KEY,
  supplier_id integer NOT NULL REFERENCES suppliers(id),
  ref text NOT NULL UNIQUE, -- ours, that the supplier is given
  currency text NOT NULL, -- of the amounts
  goods integer NOT NULL,
  delivery integer NOT NULL,
  topped_up integer NOT NULL,
  actor text NOT NULL,
  made_at datetime NOT NULL,
  arrived_at datetime
, mailed_at datetime, CONSTRAINT purchases_bounds CHECK (
  typeof(goods) IN ('integer', 'null') AND goods BETWEEN 0 AND 1000000000000000 AND
  typeof(delivery) IN ('integer', 'null') AND delivery BETWEEN 0 AND 1000000000000000 AND
  typeof(topped_up) IN ('integer', 'null') AND topped_up BETWEEN 0 AND 1000000000000000));
CREATE TABLE purchase_lines (
  purchase_id integer NOT NULL REFERENCES purchases(id) ON DELETE CASCADE,
  order_line_id integer NOT NULL REFERENCES order_lines(id) ON DELETE CASCADE,
  supplier_product_id integer NOT NULL REFERENCES supplier_products(id),
  items integer NOT NULL,
  goods integer NOT NULL,
  PRIMARY KEY (purchase_id, order_line_id)
, CONSTRAINT purchase_lines_bounds CHECK (
  typeof(items) IN ('integer', 'null') AND items BETWEEN 0 AND 1000000000 AND
  typeof(goods) IN ('integer', 'null') AND goods BETWEEN 0 AND 1000000000000000)) WITHOUT ROWID;
CREATE TABLE closed_books (
  month text PRIMARY KEY, -- YYYY-MM
  content text NOT NULL, -- JSON
  actor text NOT NULL,
  at datetime NOT NULL
);
CREATE TABLE people (
  id integer PRIMARY KEY AUTOINCREMENT,
  version integer NOT NULL DEFAULT 1,
  name text NOT NULL COLLATE NOCASE UNIQUE,
  role text NOT NULL, -- look, prepare, send, owner: each may what those before it may
  password text NOT NULL DEFAULT '', -- argon2id, as its reference implementation writes it
  code text NOT NULL DEFAULT '', -- the secret of one-time codes (RFC 6238), sealed
  code_on numeric NOT NULL DEFAULT false, -- asked for at the log-in
  code_step integer NOT NULL DEFAULT 0, -- the time step of the last code that was used: none counts twice
  active numeric NOT NULL DEFAULT true,
  seen_at datetime
);
CREATE TABLE tokens (
  id integer PRIMARY KEY AUTOINCREMENT,
  person_id integer NOT NULL REFERENCES people (id),
  name text NOT NULL,
  scope text NOT NULL, -- a role: the most that its scripts may, and never more than its person
  digest text NOT NULL UNIQUE, -- SHA-256
  made_at datetime NOT NULL,
  seen_at datetime,
  ends_at datetime -- none: never
);
CREATE TABLE sessions (
  id integer PRIMARY KEY AUTOINCREMENT,
  digest text NOT NULL UNIQUE, -- SHA-256 of the cookie's token
  person_id integer NOT NULL REFERENCES people (id),
  browser text NOT NULL DEFAULT '', -- as it calls itself
  made_at datetime NOT NULL,
  seen_at datetime NOT NULL
);
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
, CONSTRAINT shop_listings_bounds CHECK (
  typeof(price) IN ('integer', 'null') AND price BETWEEN 0 AND 1000000000000000 AND
  typeof(quantity) IN ('integer', 'null') AND quantity BETWEEN 0 AND 1000000000));
CREATE VIRTUAL TABLE shop_search USING fts5 (words, content = 'shop_listings', content_rowid = 'id', tokenize = 'unicode61 remove_diacritics 2', prefix = '2 3');
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
, key text NOT NULL DEFAULT '', CONSTRAINT shop_orders_bounds CHECK (
  typeof(total) IN ('integer', 'null') AND total BETWEEN 0 AND 1000000000000000));
CREATE TABLE fee_rows (
  id integer PRIMARY KEY AUTOINCREMENT,
  site_id integer NOT NULL REFERENCES sites (id),
  order_line_id integer NOT NULL REFERENCES order_lines (id) ON DELETE CASCADE,
  key text NOT NULL, -- what the row says, SHA-256, and which of its like it is
  kind text NOT NULL, -- as the place calls it
  amount integer NOT NULL, -- minor units of the order's currency that were kept; below 0: given back
  at datetime NOT NULL
, CONSTRAINT fee_rows_bounds CHECK (
  typeof(amount) IN ('integer', 'null') AND amount BETWEEN -1000000000000000 AND 1000000000000000));
CREATE TABLE devices (
  digest text NOT NULL, -- SHA-256 of the cookie's token
  person_id integer NOT NULL REFERENCES people (id) ON DELETE CASCADE,
  seen_at datetime NOT NULL, -- when they logged in with it last
  PRIMARY KEY (digest, person_id)
) WITHOUT ROWID;
CREATE TABLE roles (
  id integer PRIMARY KEY,
  version integer NOT NULL DEFAULT 1 CHECK (typeof(version) = 'integer' AND version BETWEEN 1 AND 1000000000000000),
  name text NOT NULL COLLATE NOCASE UNIQUE,
  rights text NOT NULL -- their names, a JSON array
);
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
CREATE TABLE second_supplies (
  supplier_product_id integer PRIMARY KEY REFERENCES supplier_products (id) ON DELETE CASCADE,
  product_id integer NOT NULL REFERENCES products (id) ON DELETE CASCADE,
  listing_id integer NOT NULL REFERENCES listings (id) ON DELETE CASCADE, -- that the amounts are of
  units_bought integer NOT NULL -- single units in the supplier's item
    CHECK (typeof(units_bought) = 'integer' AND units_bought BETWEEN 1 AND 1000000000),
  landed integer -- what one of the listing would cost from it, minor units of the site's currency; none: it can't be told
    CHECK (typeof(landed) IN ('integer', 'null') AND landed BETWEEN -1000000000000000 AND 1000000000000000),
  saves integer NOT NULL -- what one sale would cost less; below 0: more
    CHECK (typeof(saves) = 'integer' AND saves BETWEEN -1000000000000000 AND 1000000000000000),
  sold integer NOT NULL -- sales in the last thirty days
    CHECK (typeof(sold) = 'integer' AND sold BETWEEN 0 AND 1000000000),
  month integer NOT NULL -- what these would have earned more
    CHECK (typeof(month) = 'integer' AND month BETWEEN 0 AND 1000000000000000),
  currency text NOT NULL,
  dismissed numeric NOT NULL DEFAULT false, -- a person has said that it is another thing
  why text NOT NULL DEFAULT '' -- why it would not be bought from all the same
);
CREATE VIEW product_words AS SELECT p.id, p.title || char(10) || p.sku || char(10) || p.gtin || char(10) || coalesce((SELECT group_concat(sp.ref, char(10))
  FROM supply_links k JOIN supplier_products sp ON sp.id = k.supplier_product_id WHERE k.product_id = p.id), '') AS words FROM products p;
CREATE UNIQUE INDEX supplier_name ON suppliers(name);
CREATE UNIQUE INDEX source_name ON sources(name);
CREATE INDEX source_supplier ON sources(supplier_id);
CREATE INDEX feed_source ON feeds(source_id);
CREATE INDEX feed_state ON feeds(state);
CREATE INDEX set_aside_feed ON set_asides(feed_id);
CREATE UNIQUE INDEX supplier_product_ref ON supplier_products(source_id, ref);
CREATE INDEX supplier_product_gtin ON supplier_products(gtin);
CREATE INDEX supplier_change_product ON supplier_changes(supplier_product_id);
CREATE INDEX supplier_change_feed ON supplier_changes(feed_id);
CREATE UNIQUE INDEX picture_url ON pictures(url);
CREATE INDEX picture_state ON pictures(state);
CREATE INDEX picture_digest ON pictures(digest);
CREATE INDEX picture_use_picture ON picture_uses(picture_id);
CREATE INDEX family_group_family ON family_groups(family_id);
CREATE UNIQUE INDEX product_sku ON products(sku);
CREATE INDEX product_gtin ON products(gtin);
CREATE INDEX product_family ON products(family_id);
CREATE INDEX products_by_title ON products(title COLLATE NOCASE, id);
CREATE UNIQUE INDEX supply_link_pair ON supply_links(product_id, supplier_product_id);
CREATE INDEX supply_link_supplier_product ON supply_links(supplier_product_id);
CREATE UNIQUE INDEX marketplace_name ON marketplaces(name);
CREATE UNIQUE INDEX site_code ON sites(marketplace_id, code);
CREATE UNIQUE INDEX category_ref ON categories(site_id, ref);
CREATE UNIQUE INDEX fee_schedule_start ON fee_schedules(site_id, category, starts_on);
CREATE UNIQUE INDEX entry_ref ON entries(site_id, ref);
CREATE INDEX entry_gtin ON entries(gtin);
CREATE UNIQUE INDEX match_pair ON matches(supplier_product_id, site_id);
CREATE INDEX match_state ON matches(site_id, state);
CREATE UNIQUE INDEX price_rule_place ON price_rules(site_id, position);
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
CREATE INDEX dirty_next ON dirties(site_id, urgent DESC, listing_id);
CREATE UNIQUE INDEX exchange_rate_pair ON exchange_rates(from_currency, to_currency);
CREATE UNIQUE INDEX plan_site ON plans(site_id);
CREATE INDEX plan_line_listing ON plan_lines(listing_id, state);
CREATE UNIQUE INDEX send_out_key ON send_outs(key);
CREATE INDEX send_out_site ON send_outs(site_id, state);
CREATE INDEX send_out_state ON send_outs(state);
CREATE UNIQUE INDEX send_line_key ON send_lines(send_out_id, key);
CREATE INDEX send_line_listing ON send_lines(listing_id, answered_at);
CREATE INDEX send_line_open ON send_lines(listing_id, id) WHERE state IN ('waiting', 'sent', 'unknown');
CREATE INDEX send_line_plan ON send_lines(plan_line_id) WHERE plan_line_id IS NOT NULL;
CREATE INDEX reading_due ON readings(due_at);
CREATE INDEX run_next ON runs(state, urgent DESC, id);
CREATE UNIQUE INDEX run_once ON runs(kind, subject) WHERE once AND state = 'queued';
CREATE INDEX run_subject ON runs(kind, subject);
CREATE INDEX audit_at ON audits(at);
CREATE INDEX answer_at ON answers(at);
CREATE INDEX match_entry ON matches(entry_id);
CREATE INDEX match_recheck ON matches(site_id, supplier_product_id) WHERE recheck;
CREATE INDEX pool_number_free ON pool_numbers(taken_at, gtin);
CREATE INDEX place_file_site ON place_files(site_id, kind, id);
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
CREATE INDEX market_points_of_entry ON market_points(entry_id, at);
CREATE UNIQUE INDEX sieve_name ON sieves(name);
CREATE UNIQUE INDEX web_look_up_name ON web_look_ups(name);
CREATE INDEX send_out_alone ON send_outs(site_id, created_at) WHERE alone;
CREATE INDEX send_line_refused ON send_lines(answered_at) WHERE state = 'refused';
CREATE INDEX send_line_moved ON send_lines(answered_at) WHERE price IS NOT NULL AND state = 'confirmed';
CREATE INDEX supplier_product_stock ON supplier_products(stock);
CREATE INDEX plan_line_waiting ON plan_lines(plan_id, place, id) WHERE state = 'waiting';
CREATE INDEX plan_line_any ON plan_lines(place, id) WHERE state = 'waiting';
CREATE INDEX shadow_listing ON shadows(listing_id, id);
CREATE INDEX shadow_site ON shadows(site_id, id);
CREATE INDEX difference_open ON differences(state, id);
CREATE INDEX difference_listing ON differences(listing_id, state);
CREATE UNIQUE INDEX watch_ready ON watches(ready) WHERE ready <> '';
CREATE INDEX watch_hit_of ON watch_hits(watch_id, id);
CREATE INDEX watch_hit_listing ON watch_hits(listing_id);
CREATE INDEX watch_hit_new ON watch_hits(id) WHERE NOT seen;
CREATE INDEX watch_hit_unmailed ON watch_hits(id) WHERE mail_id IS NULL;
CREATE INDEX mail_waiting ON mails(id) WHERE sent_at IS NULL;
CREATE UNIQUE INDEX demand_category ON demands(site_id, category);
CREATE INDEX preparation_left ON preparations(site_id, stops) WHERE stops > 0;
CREATE INDEX listing_window ON listings(site_id) WHERE shown_from <> '' OR shown_until <> '';
CREATE INDEX sheet_file_batch ON sheet_files(site_id, batch);
CREATE INDEX sheet_line_file ON sheet_lines(file_id);
CREATE INDEX sheet_line_open ON sheet_lines(site_id, sku) WHERE said IN ('', 'taken');
CREATE INDEX preparation_changed ON preparations(site_id, listing_id) WHERE changed <> '[]';
CREATE INDEX sheet_line_task ON sheet_lines(site_id) WHERE task <> '' AND said = '';
CREATE INDEX listing_refused ON listings(site_id) WHERE state = 'refused';
CREATE INDEX send_out_again ON send_outs(again_at) WHERE state = 'waiting' AND again_at IS NOT NULL;
CREATE INDEX send_body_of ON send_bodies(send_out_id);
CREATE UNIQUE INDEX light_file_name ON light_files(name);
CREATE UNIQUE INDEX order_ref ON orders(site_id, ref);
CREATE INDEX order_placed ON orders(placed_at);
CREATE INDEX order_buyer ON orders(placed_at) WHERE buyer <> '';
CREATE UNIQUE INDEX order_line_ref ON order_lines(order_id, ref);
CREATE INDEX order_line_state ON order_lines(state, id) WHERE state IN ('new', 'bought');
CREATE INDEX order_line_listing ON order_lines(listing_id);
CREATE INDEX order_line_promised ON order_lines(supplier_product_id) WHERE promised;
CREATE INDEX order_line_told ON order_lines(id) WHERE told <> '';
CREATE INDEX order_line_problem ON order_lines(id) WHERE problem <> '';
CREATE INDEX purchase_line_of ON purchase_lines(order_line_id);
CREATE INDEX tokens_person ON tokens (person_id);
CREATE INDEX sessions_person ON sessions (person_id);
CREATE INDEX audits_actor ON audits (actor, id);
CREATE UNIQUE INDEX shop_listings_sku ON shop_listings (site_id, sku);
CREATE INDEX shop_listings_newest ON shop_listings (site_id, id) WHERE quantity > 0;
CREATE INDEX shop_listings_family ON shop_listings (site_id, family) WHERE family <> '';
CREATE INDEX shop_orders_site ON shop_orders (site_id, seq);
CREATE UNIQUE INDEX fee_rows_key ON fee_rows (site_id, key, order_line_id);
CREATE INDEX fee_rows_line ON fee_rows (order_line_id);
CREATE INDEX shop_listings_category ON shop_listings (site_id, category, (quantity = 0), title);
CREATE INDEX shop_listings_counted ON shop_listings (site_id, category) WHERE quantity > 0;
CREATE INDEX weighings_by_sold ON weighings(site_id, dropped, units_sold);
CREATE INDEX mails_about ON mails (about) WHERE about <> '';
CREATE UNIQUE INDEX site_fees_key ON site_fees (site_id, key);
CREATE INDEX site_fees_day ON site_fees (day);
CREATE INDEX second_supply_month ON second_supplies (month);
CREATE INDEX second_supply_product ON second_supplies (product_id);
CREATE INDEX second_supply_listing ON second_supplies (listing_id);
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
CREATE TRIGGER plan_line_added AFTER INSERT ON plan_lines WHEN new.state = 'waiting' BEGIN
  INSERT INTO plan_sums VALUES (new.plan_id, new.kind, new.verdict, 1, new.on_sale, new.gain, new.rival)
  ON CONFLICT DO UPDATE SET lines = lines + 1, on_sale = on_sale + new.on_sale, gain = gain + new.gain, rivals = rivals + new.rival;
END;
CREATE TRIGGER plan_line_gone AFTER DELETE ON plan_lines WHEN old.state = 'waiting' BEGIN
  UPDATE plan_sums SET lines = lines - 1, on_sale = on_sale - old.on_sale, gain = gain - old.gain, rivals = rivals - old.rival
  WHERE plan_id = old.plan_id AND kind = old.kind AND verdict = old.verdict;
END;
CREATE TRIGGER plan_line_let_go AFTER UPDATE OF state ON plan_lines WHEN old.state = 'waiting' AND new.state <> 'waiting' BEGIN
  UPDATE plan_sums SET lines = lines - 1, on_sale = on_sale - old.on_sale, gain = gain - old.gain, rivals = rivals - old.rival
  WHERE plan_id = old.plan_id AND kind = old.kind AND verdict = old.verdict;
END;
CREATE TRIGGER listing_added AFTER INSERT ON listings BEGIN
  INSERT INTO listing_sums VALUES (new.site_id, new.state, 1) ON CONFLICT DO UPDATE SET listings = listings + 1;
END;
CREATE TRIGGER listing_gone AFTER DELETE ON listings BEGIN
  UPDATE listing_sums SET listings = listings - 1 WHERE site_id = old.site_id AND state = old.state;
END;
CREATE TRIGGER listing_moved AFTER UPDATE OF state ON listings WHEN old.state <> new.state BEGIN
  UPDATE listing_sums SET listings = listings - 1 WHERE site_id = old.site_id AND state = old.state;
  INSERT INTO listing_sums VALUES (new.site_id, new.state, 1) ON CONFLICT DO UPDATE SET listings = listings + 1;
END;
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

INSERT INTO people (id, name, role) VALUES (1, 'owner', 'owner');
