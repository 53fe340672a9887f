-- What was sold. A buyer's name and address are forgotten after a number of days.
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
CREATE UNIQUE INDEX order_ref ON orders(site_id, ref);
CREATE INDEX order_placed ON orders(placed_at);
CREATE INDEX order_buyer ON orders(placed_at) WHERE buyer <> '';

-- Its lines. Amounts are minor units of the order's currency, for the whole line
-- but for price.
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
);
CREATE UNIQUE INDEX order_line_ref ON order_lines(order_id, ref);
CREATE INDEX order_line_state ON order_lines(state, id) WHERE state IN ('new', 'bought');
CREATE INDEX order_line_listing ON order_lines(listing_id);
CREATE INDEX order_line_promised ON order_lines(supplier_product_id) WHERE promised;
CREATE INDEX order_line_told ON order_lines(id) WHERE told <> '';
CREATE INDEX order_line_problem ON order_lines(id) WHERE problem <> '';

-- What was bought of a supplier in one go.
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
);
CREATE TABLE purchase_lines (
  purchase_id integer NOT NULL REFERENCES purchases(id) ON DELETE CASCADE,
  order_line_id integer NOT NULL REFERENCES order_lines(id) ON DELETE CASCADE,
  supplier_product_id integer NOT NULL REFERENCES supplier_products(id),
  items integer NOT NULL,
  goods integer NOT NULL,
  PRIMARY KEY (purchase_id, order_line_id)
) WITHOUT ROWID;
CREATE INDEX purchase_line_of ON purchase_lines(order_line_id);

ALTER TABLE sites ADD COLUMN orders_cursor text NOT NULL DEFAULT ''; -- where reading its orders goes on
ALTER TABLE sites ADD COLUMN orders_at datetime; -- when they were read last
