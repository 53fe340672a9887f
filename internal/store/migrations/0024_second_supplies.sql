-- Suppliers' products that are, by the number and by all that is said of them, what is
-- sold already from another supplier, and that supply nothing yet. They are found anew
-- after each feed that is taken.
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
CREATE INDEX second_supply_month ON second_supplies (month);
CREATE INDEX second_supply_product ON second_supplies (product_id);
CREATE INDEX second_supply_listing ON second_supplies (listing_id);
