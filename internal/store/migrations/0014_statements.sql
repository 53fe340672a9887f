-- What places' statements say that they kept of what was sold, a row each; one that is read again is the same row.
CREATE TABLE fee_rows (
  id integer PRIMARY KEY AUTOINCREMENT,
  site_id integer NOT NULL REFERENCES sites (id),
  order_line_id integer NOT NULL REFERENCES order_lines (id) ON DELETE CASCADE,
  key text NOT NULL, -- what the row says, SHA-256, and which of its like it is
  kind text NOT NULL, -- as the place calls it
  amount integer NOT NULL, -- minor units of the order's currency that were kept; below 0: given back
  at datetime NOT NULL
);
CREATE UNIQUE INDEX fee_rows_key ON fee_rows (site_id, key, order_line_id);
CREATE INDEX fee_rows_line ON fee_rows (order_line_id);

-- What can be had stands first in a category of the shop, without sorting it each time; and is counted from an index alone.
DROP INDEX shop_listings_category;
CREATE INDEX shop_listings_category ON shop_listings (site_id, category, (quantity = 0), title);
CREATE INDEX shop_listings_counted ON shop_listings (site_id, category) WHERE quantity > 0;
