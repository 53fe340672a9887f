-- Watch: prices follow, by hand or on their own; what was taken back, what
-- differs there, what is watched, and sums of plans that are read at once.

-- Whether what may go is sent by itself, from when on it acts rather than only
-- says, and how much at most. Minutes of the day; the two alike: no quiet hours.
ALTER TABLE sites ADD COLUMN runs text NOT NULL DEFAULT 'by hand';
ALTER TABLE sites ADD COLUMN acts_from datetime;
ALTER TABLE sites ADD COLUMN quiet_from integer NOT NULL DEFAULT 0;
ALTER TABLE sites ADD COLUMN quiet_to integer NOT NULL DEFAULT 0;
ALTER TABLE sites ADD COLUMN most_at_once integer NOT NULL DEFAULT 0;
ALTER TABLE sites ADD COLUMN most_a_day integer NOT NULL DEFAULT 0;

-- What a price rule sets of following.md's figures otherwise than its site.
ALTER TABLE price_rules ADD COLUMN follows text NOT NULL DEFAULT '';
ALTER TABLE price_rules ADD COLUMN runs text NOT NULL DEFAULT '';
ALTER TABLE price_rules ADD COLUMN acts_from datetime;

-- A move that a person took back is held while it would be the same again.
ALTER TABLE listings ADD COLUMN back_price integer;
ALTER TABLE listings ADD COLUMN back_quantity integer;
-- What was read back of it isn't what was confirmed, and nobody has decided on it.
ALTER TABLE listings ADD COLUMN differs boolean NOT NULL DEFAULT 0;

ALTER TABLE send_outs ADD COLUMN alone boolean NOT NULL DEFAULT 0; -- a rule let it go
ALTER TABLE send_outs ADD COLUMN undoes integer REFERENCES send_outs(id) ON DELETE SET NULL;
ALTER TABLE send_outs ADD COLUMN again_at datetime; -- from when on it is tried again by itself
CREATE INDEX send_out_alone ON send_outs(site_id, created_at) WHERE alone;
CREATE INDEX send_line_refused ON send_lines(answered_at) WHERE state = 'refused';
CREATE INDEX send_line_moved ON send_lines(answered_at) WHERE price IS NOT NULL AND state = 'confirmed';

-- Listings by what the supplier has, in that order.
CREATE INDEX supplier_product_stock ON supplier_products(stock);

-- What a line comes to, kept with it: what is on sale in its listing, what one
-- sale earns more, whether a rival is the reason; and where it stands in the order.
ALTER TABLE plan_lines ADD COLUMN rule text NOT NULL DEFAULT '';
ALTER TABLE plan_lines ADD COLUMN place integer NOT NULL DEFAULT 5;
ALTER TABLE plan_lines ADD COLUMN on_sale integer NOT NULL DEFAULT 0;
ALTER TABLE plan_lines ADD COLUMN gain integer NOT NULL DEFAULT 0;
ALTER TABLE plan_lines ADD COLUMN rival boolean NOT NULL DEFAULT 0;
UPDATE plan_lines SET
  place = CASE kind WHEN 'zero' THEN 0 WHEN 'rest' THEN 1 WHEN 'no price' THEN 2 WHEN 'up' THEN 3 WHEN 'down' THEN 4 ELSE 5 END,
  gain = coalesce(profit_new, 0) - coalesce(profit_was, 0),
  on_sale = coalesce((SELECT coalesce(l.confirmed_price, l.price, 0) * coalesce(plan_lines.from_qty, l.confirmed_quantity)
    FROM listings l WHERE l.id = plan_lines.listing_id), 0),
  rival = verdict = 'go' AND kind = 'down' AND EXISTS (SELECT 1 FROM listings l WHERE l.id = plan_lines.listing_id AND l.bound = 'market');
DROP INDEX plan_line_waiting;
CREATE INDEX plan_line_waiting ON plan_lines(plan_id, place, id) WHERE state = 'waiting';
CREATE INDEX plan_line_any ON plan_lines(place, id) WHERE state = 'waiting';

-- Sums of the lines that wait, by consequence. Triggers keep them, so that they
-- can't drift from the lines, and 800 000 lines are summed at once.
CREATE TABLE plan_sums (
  plan_id integer NOT NULL REFERENCES plans(id) ON DELETE CASCADE,
  kind text NOT NULL,
  verdict text NOT NULL,
  lines integer NOT NULL,
  on_sale integer NOT NULL,
  gain integer NOT NULL,
  rivals integer NOT NULL,
  PRIMARY KEY (plan_id, kind, verdict)
) WITHOUT ROWID;
INSERT INTO plan_sums SELECT plan_id, kind, verdict, count(*), sum(on_sale), sum(gain), sum(rival)
  FROM plan_lines WHERE state = 'waiting' GROUP BY 1, 2, 3;
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

-- How many listings there are in each state, kept in the same way.
CREATE TABLE listing_sums (
  site_id integer NOT NULL,
  state text NOT NULL,
  listings integer NOT NULL,
  PRIMARY KEY (site_id, state)
) WITHOUT ROWID;
INSERT INTO listing_sums SELECT site_id, state, count(*) FROM listings GROUP BY 1, 2;
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

-- What a rule in its first week would have sent.
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
);
CREATE INDEX shadow_listing ON shadows(listing_id, id);
CREATE INDEX shadow_site ON shadows(site_id, id);

-- What was read back and isn't what was confirmed: changed there, ended there.
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
);
CREATE INDEX difference_open ON differences(state, id);
CREATE INDEX difference_listing ON differences(listing_id, state);

-- Conditions on numbers that somebody wants to be told of.
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
CREATE UNIQUE INDEX watch_ready ON watches(ready) WHERE ready <> '';
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
CREATE INDEX watch_hit_of ON watch_hits(watch_id, id);
CREATE INDEX watch_hit_listing ON watch_hits(listing_id);
CREATE INDEX watch_hit_new ON watch_hits(id) WHERE NOT seen;

-- Mail to be sent, and sent.
CREATE TABLE mails (
  id integer PRIMARY KEY,
  recipient text NOT NULL,
  subject text NOT NULL,
  body text NOT NULL,
  made_at datetime NOT NULL,
  sent_at datetime,
  tries integer NOT NULL DEFAULT 0,
  error text NOT NULL DEFAULT ''
);
CREATE INDEX watch_hit_unmailed ON watch_hits(id) WHERE mail_id IS NULL;
CREATE INDEX mail_waiting ON mails(id) WHERE sent_at IS NULL;
