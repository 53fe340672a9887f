-- Every amount and count is a whole number within bounds, whatever writes it: amounts
-- in minor units up to ten million million either way, counts up to a thousand million.
-- What was beyond them before is brought to the bound; the next feed, look or reading
-- of what is on sale writes it anew. What the shop offered beyond them is offered no more.

UPDATE differences SET
  our_price = min(max(CAST(our_price AS integer), 0), 1000000000000000),
  our_quantity = min(max(CAST(our_quantity AS integer), 0), 1000000000),
  their_price = min(max(CAST(their_price AS integer), 0), 1000000000000000),
  their_quantity = min(max(CAST(their_quantity AS integer), 0), 1000000000)
WHERE typeof(our_price) NOT IN ('integer', 'null') OR our_price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(our_quantity) NOT IN ('integer', 'null') OR our_quantity NOT BETWEEN 0 AND 1000000000 OR
  typeof(their_price) NOT IN ('integer', 'null') OR their_price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(their_quantity) NOT IN ('integer', 'null') OR their_quantity NOT BETWEEN 0 AND 1000000000;
ALTER TABLE differences ADD CONSTRAINT differences_bounds CHECK (
  typeof(our_price) IN ('integer', 'null') AND our_price BETWEEN 0 AND 1000000000000000 AND
  typeof(our_quantity) IN ('integer', 'null') AND our_quantity BETWEEN 0 AND 1000000000 AND
  typeof(their_price) IN ('integer', 'null') AND their_price BETWEEN 0 AND 1000000000000000 AND
  typeof(their_quantity) IN ('integer', 'null') AND their_quantity BETWEEN 0 AND 1000000000);
UPDATE entries SET
  units = min(max(CAST(units AS integer), 0), 1000000000),
  rating = min(max(CAST(rating AS integer), 0), 1000000000),
  ratings = min(max(CAST(ratings AS integer), 0), 1000000000),
  rank = min(max(CAST(rank AS integer), 0), 1000000000)
WHERE typeof(units) NOT IN ('integer', 'null') OR units NOT BETWEEN 0 AND 1000000000 OR
  typeof(rating) NOT IN ('integer', 'null') OR rating NOT BETWEEN 0 AND 1000000000 OR
  typeof(ratings) NOT IN ('integer', 'null') OR ratings NOT BETWEEN 0 AND 1000000000 OR
  typeof(rank) NOT IN ('integer', 'null') OR rank NOT BETWEEN 0 AND 1000000000;
ALTER TABLE entries ADD CONSTRAINT entries_bounds CHECK (
  typeof(units) IN ('integer', 'null') AND units BETWEEN 0 AND 1000000000 AND
  typeof(rating) IN ('integer', 'null') AND rating BETWEEN 0 AND 1000000000 AND
  typeof(ratings) IN ('integer', 'null') AND ratings BETWEEN 0 AND 1000000000 AND
  typeof(rank) IN ('integer', 'null') AND rank BETWEEN 0 AND 1000000000);
UPDATE exchange_rates SET
  rate = min(max(CAST(rate AS integer), 1), 1000000000000000000)
WHERE typeof(rate) NOT IN ('integer', 'null') OR rate NOT BETWEEN 1 AND 1000000000000000000;
ALTER TABLE exchange_rates ADD CONSTRAINT exchange_rates_bounds CHECK (
  typeof(rate) IN ('integer', 'null') AND rate BETWEEN 1 AND 1000000000000000000);
UPDATE fee_rows SET
  amount = min(max(CAST(amount AS integer), -1000000000000000), 1000000000000000)
WHERE typeof(amount) NOT IN ('integer', 'null') OR amount NOT BETWEEN -1000000000000000 AND 1000000000000000;
ALTER TABLE fee_rows ADD CONSTRAINT fee_rows_bounds CHECK (
  typeof(amount) IN ('integer', 'null') AND amount BETWEEN -1000000000000000 AND 1000000000000000);
UPDATE feeds SET
  bytes = min(max(CAST(bytes AS integer), 0), 1000000000000),
  mends_row = min(max(CAST(mends_row AS integer), 0), 1000000000),
  rows = min(max(CAST(rows AS integer), 0), 1000000000),
  new = min(max(CAST(new AS integer), 0), 1000000000),
  changed = min(max(CAST(changed AS integer), 0), 1000000000),
  same = min(max(CAST(same AS integer), 0), 1000000000),
  set_aside = min(max(CAST(set_aside AS integer), 0), 1000000000),
  gone = min(max(CAST(gone AS integer), 0), 1000000000),
  warnings = min(max(CAST(warnings AS integer), 0), 1000000000)
WHERE typeof(bytes) NOT IN ('integer', 'null') OR bytes NOT BETWEEN 0 AND 1000000000000 OR
  typeof(mends_row) NOT IN ('integer', 'null') OR mends_row NOT BETWEEN 0 AND 1000000000 OR
  typeof(rows) NOT IN ('integer', 'null') OR rows NOT BETWEEN 0 AND 1000000000 OR
  typeof(new) NOT IN ('integer', 'null') OR new NOT BETWEEN 0 AND 1000000000 OR
  typeof(changed) NOT IN ('integer', 'null') OR changed NOT BETWEEN 0 AND 1000000000 OR
  typeof(same) NOT IN ('integer', 'null') OR same NOT BETWEEN 0 AND 1000000000 OR
  typeof(set_aside) NOT IN ('integer', 'null') OR set_aside NOT BETWEEN 0 AND 1000000000 OR
  typeof(gone) NOT IN ('integer', 'null') OR gone NOT BETWEEN 0 AND 1000000000 OR
  typeof(warnings) NOT IN ('integer', 'null') OR warnings NOT BETWEEN 0 AND 1000000000;
ALTER TABLE feeds ADD CONSTRAINT feeds_bounds CHECK (
  typeof(bytes) IN ('integer', 'null') AND bytes BETWEEN 0 AND 1000000000000 AND
  typeof(mends_row) IN ('integer', 'null') AND mends_row BETWEEN 0 AND 1000000000 AND
  typeof(rows) IN ('integer', 'null') AND rows BETWEEN 0 AND 1000000000 AND
  typeof(new) IN ('integer', 'null') AND new BETWEEN 0 AND 1000000000 AND
  typeof(changed) IN ('integer', 'null') AND changed BETWEEN 0 AND 1000000000 AND
  typeof(same) IN ('integer', 'null') AND same BETWEEN 0 AND 1000000000 AND
  typeof(set_aside) IN ('integer', 'null') AND set_aside BETWEEN 0 AND 1000000000 AND
  typeof(gone) IN ('integer', 'null') AND gone BETWEEN 0 AND 1000000000 AND
  typeof(warnings) IN ('integer', 'null') AND warnings BETWEEN 0 AND 1000000000);
UPDATE light_files SET
  every = min(max(CAST(every AS integer), 0), 1000000000),
  rows = min(max(CAST(rows AS integer), 0), 1000000000)
WHERE typeof(every) NOT IN ('integer', 'null') OR every NOT BETWEEN 0 AND 1000000000 OR
  typeof(rows) NOT IN ('integer', 'null') OR rows NOT BETWEEN 0 AND 1000000000;
ALTER TABLE light_files ADD CONSTRAINT light_files_bounds CHECK (
  typeof(every) IN ('integer', 'null') AND every BETWEEN 0 AND 1000000000 AND
  typeof(rows) IN ('integer', 'null') AND rows BETWEEN 0 AND 1000000000);
UPDATE listing_sums SET
  listings = min(max(CAST(listings AS integer), 0), 1000000000)
WHERE typeof(listings) NOT IN ('integer', 'null') OR listings NOT BETWEEN 0 AND 1000000000;
ALTER TABLE listing_sums ADD CONSTRAINT listing_sums_bounds CHECK (
  typeof(listings) IN ('integer', 'null') AND listings BETWEEN 0 AND 1000000000);
UPDATE listings SET
  units = min(max(CAST(units AS integer), 0), 1000000000),
  fixed_price = min(max(CAST(fixed_price AS integer), 0), 1000000000000000),
  former = min(max(CAST(former AS integer), 0), 1000000000000000),
  price = min(max(CAST(price AS integer), 0), 1000000000000000),
  quantity = min(max(CAST(quantity AS integer), 0), 1000000000),
  cost = min(max(CAST(cost AS integer), 0), 1000000000000000),
  landed = min(max(CAST(landed AS integer), 0), 1000000000000000),
  fees = min(max(CAST(fees AS integer), -1000000000000000), 1000000000000000),
  tax = min(max(CAST(tax AS integer), -1000000000000000), 1000000000000000),
  outbound = min(max(CAST(outbound AS integer), -1000000000000000), 1000000000000000),
  profit = min(max(CAST(profit AS integer), -1000000000000000), 1000000000000000),
  floor = min(max(CAST(floor AS integer), 0), 1000000000000000),
  break_even = min(max(CAST(break_even AS integer), 0), 1000000000000000),
  confirmed_price = min(max(CAST(confirmed_price AS integer), 0), 1000000000000000),
  confirmed_quantity = min(max(CAST(confirmed_quantity AS integer), 0), 1000000000),
  confirmed_cost = min(max(CAST(confirmed_cost AS integer), 0), 1000000000000000),
  confirmed_landed = min(max(CAST(confirmed_landed AS integer), 0), 1000000000000000),
  back_price = min(max(CAST(back_price AS integer), 0), 1000000000000000),
  back_quantity = min(max(CAST(back_quantity AS integer), 0), 1000000000)
WHERE typeof(units) NOT IN ('integer', 'null') OR units NOT BETWEEN 0 AND 1000000000 OR
  typeof(fixed_price) NOT IN ('integer', 'null') OR fixed_price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(former) NOT IN ('integer', 'null') OR former NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(price) NOT IN ('integer', 'null') OR price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(quantity) NOT IN ('integer', 'null') OR quantity NOT BETWEEN 0 AND 1000000000 OR
  typeof(cost) NOT IN ('integer', 'null') OR cost NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(landed) NOT IN ('integer', 'null') OR landed NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(fees) NOT IN ('integer', 'null') OR fees NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(tax) NOT IN ('integer', 'null') OR tax NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(outbound) NOT IN ('integer', 'null') OR outbound NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(profit) NOT IN ('integer', 'null') OR profit NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(floor) NOT IN ('integer', 'null') OR floor NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(break_even) NOT IN ('integer', 'null') OR break_even NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(confirmed_price) NOT IN ('integer', 'null') OR confirmed_price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(confirmed_quantity) NOT IN ('integer', 'null') OR confirmed_quantity NOT BETWEEN 0 AND 1000000000 OR
  typeof(confirmed_cost) NOT IN ('integer', 'null') OR confirmed_cost NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(confirmed_landed) NOT IN ('integer', 'null') OR confirmed_landed NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(back_price) NOT IN ('integer', 'null') OR back_price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(back_quantity) NOT IN ('integer', 'null') OR back_quantity NOT BETWEEN 0 AND 1000000000;
ALTER TABLE listings ADD CONSTRAINT listings_bounds CHECK (
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
  typeof(back_quantity) IN ('integer', 'null') AND back_quantity BETWEEN 0 AND 1000000000);
UPDATE mails SET
  tries = min(max(CAST(tries AS integer), 0), 1000000000)
WHERE typeof(tries) NOT IN ('integer', 'null') OR tries NOT BETWEEN 0 AND 1000000000;
ALTER TABLE mails ADD CONSTRAINT mails_bounds CHECK (
  typeof(tries) IN ('integer', 'null') AND tries BETWEEN 0 AND 1000000000);
UPDATE market_points SET
  lowest = min(max(CAST(lowest AS integer), 0), 1000000000000000),
  leading = min(max(CAST(leading AS integer), 0), 1000000000000000),
  sellers = min(max(CAST(sellers AS integer), 0), 1000000000)
WHERE typeof(lowest) NOT IN ('integer', 'null') OR lowest NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(leading) NOT IN ('integer', 'null') OR leading NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(sellers) NOT IN ('integer', 'null') OR sellers NOT BETWEEN 0 AND 1000000000;
ALTER TABLE market_points ADD CONSTRAINT market_points_bounds CHECK (
  typeof(lowest) IN ('integer', 'null') AND lowest BETWEEN 0 AND 1000000000000000 AND
  typeof(leading) IN ('integer', 'null') AND leading BETWEEN 0 AND 1000000000000000 AND
  typeof(sellers) IN ('integer', 'null') AND sellers BETWEEN 0 AND 1000000000);
UPDATE matches SET
  units_bought = min(max(CAST(units_bought AS integer), 0), 1000000000),
  units_listed = min(max(CAST(units_listed AS integer), 0), 1000000000)
WHERE typeof(units_bought) NOT IN ('integer', 'null') OR units_bought NOT BETWEEN 0 AND 1000000000 OR
  typeof(units_listed) NOT IN ('integer', 'null') OR units_listed NOT BETWEEN 0 AND 1000000000;
ALTER TABLE matches ADD CONSTRAINT matches_bounds CHECK (
  typeof(units_bought) IN ('integer', 'null') AND units_bought BETWEEN 0 AND 1000000000 AND
  typeof(units_listed) IN ('integer', 'null') AND units_listed BETWEEN 0 AND 1000000000);
UPDATE order_lines SET
  quantity = min(max(CAST(quantity AS integer), 0), 1000000000),
  price = min(max(CAST(price AS integer), 0), 1000000000000000),
  delivery = min(max(CAST(delivery AS integer), 0), 1000000000000000),
  tax = min(max(CAST(tax AS integer), -1000000000000000), 1000000000000000),
  fees = min(max(CAST(fees AS integer), -1000000000000000), 1000000000000000),
  refunded = min(max(CAST(refunded AS integer), 0), 1000000000000000),
  units = min(max(CAST(units AS integer), 0), 1000000000),
  units_bought = min(max(CAST(units_bought AS integer), 0), 1000000000),
  expected_cost = min(max(CAST(expected_cost AS integer), -1000000000000000), 1000000000000000),
  expected_profit = min(max(CAST(expected_profit AS integer), -1000000000000000), 1000000000000000),
  cost = min(max(CAST(cost AS integer), -1000000000000000), 1000000000000000),
  sending = min(max(CAST(sending AS integer), -1000000000000000), 1000000000000000)
WHERE typeof(quantity) NOT IN ('integer', 'null') OR quantity NOT BETWEEN 0 AND 1000000000 OR
  typeof(price) NOT IN ('integer', 'null') OR price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(delivery) NOT IN ('integer', 'null') OR delivery NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(tax) NOT IN ('integer', 'null') OR tax NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(fees) NOT IN ('integer', 'null') OR fees NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(refunded) NOT IN ('integer', 'null') OR refunded NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(units) NOT IN ('integer', 'null') OR units NOT BETWEEN 0 AND 1000000000 OR
  typeof(units_bought) NOT IN ('integer', 'null') OR units_bought NOT BETWEEN 0 AND 1000000000 OR
  typeof(expected_cost) NOT IN ('integer', 'null') OR expected_cost NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(expected_profit) NOT IN ('integer', 'null') OR expected_profit NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(cost) NOT IN ('integer', 'null') OR cost NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(sending) NOT IN ('integer', 'null') OR sending NOT BETWEEN -1000000000000000 AND 1000000000000000;
ALTER TABLE order_lines ADD CONSTRAINT order_lines_bounds CHECK (
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
  typeof(sending) IN ('integer', 'null') AND sending BETWEEN -1000000000000000 AND 1000000000000000);
UPDATE picture_jobs SET
  done = min(max(CAST(done AS integer), 0), 1000000000)
WHERE typeof(done) NOT IN ('integer', 'null') OR done NOT BETWEEN 0 AND 1000000000;
ALTER TABLE picture_jobs ADD CONSTRAINT picture_jobs_bounds CHECK (
  typeof(done) IN ('integer', 'null') AND done BETWEEN 0 AND 1000000000);
UPDATE pictures SET
  width = min(max(CAST(width AS integer), 0), 1000000000),
  height = min(max(CAST(height AS integer), 0), 1000000000),
  bytes = min(max(CAST(bytes AS integer), 0), 1000000000000),
  tries = min(max(CAST(tries AS integer), 0), 1000000000)
WHERE typeof(width) NOT IN ('integer', 'null') OR width NOT BETWEEN 0 AND 1000000000 OR
  typeof(height) NOT IN ('integer', 'null') OR height NOT BETWEEN 0 AND 1000000000 OR
  typeof(bytes) NOT IN ('integer', 'null') OR bytes NOT BETWEEN 0 AND 1000000000000 OR
  typeof(tries) NOT IN ('integer', 'null') OR tries NOT BETWEEN 0 AND 1000000000;
ALTER TABLE pictures ADD CONSTRAINT pictures_bounds CHECK (
  typeof(width) IN ('integer', 'null') AND width BETWEEN 0 AND 1000000000 AND
  typeof(height) IN ('integer', 'null') AND height BETWEEN 0 AND 1000000000 AND
  typeof(bytes) IN ('integer', 'null') AND bytes BETWEEN 0 AND 1000000000000 AND
  typeof(tries) IN ('integer', 'null') AND tries BETWEEN 0 AND 1000000000);
UPDATE place_files SET
  rows = min(max(CAST(rows AS integer), 0), 1000000000),
  new = min(max(CAST(new AS integer), 0), 1000000000),
  changed = min(max(CAST(changed AS integer), 0), 1000000000),
  same = min(max(CAST(same AS integer), 0), 1000000000),
  aside = min(max(CAST(aside AS integer), 0), 1000000000),
  untied = min(max(CAST(untied AS integer), 0), 1000000000)
WHERE typeof(rows) NOT IN ('integer', 'null') OR rows NOT BETWEEN 0 AND 1000000000 OR
  typeof(new) NOT IN ('integer', 'null') OR new NOT BETWEEN 0 AND 1000000000 OR
  typeof(changed) NOT IN ('integer', 'null') OR changed NOT BETWEEN 0 AND 1000000000 OR
  typeof(same) NOT IN ('integer', 'null') OR same NOT BETWEEN 0 AND 1000000000 OR
  typeof(aside) NOT IN ('integer', 'null') OR aside NOT BETWEEN 0 AND 1000000000 OR
  typeof(untied) NOT IN ('integer', 'null') OR untied NOT BETWEEN 0 AND 1000000000;
ALTER TABLE place_files ADD CONSTRAINT place_files_bounds CHECK (
  typeof(rows) IN ('integer', 'null') AND rows BETWEEN 0 AND 1000000000 AND
  typeof(new) IN ('integer', 'null') AND new BETWEEN 0 AND 1000000000 AND
  typeof(changed) IN ('integer', 'null') AND changed BETWEEN 0 AND 1000000000 AND
  typeof(same) IN ('integer', 'null') AND same BETWEEN 0 AND 1000000000 AND
  typeof(aside) IN ('integer', 'null') AND aside BETWEEN 0 AND 1000000000 AND
  typeof(untied) IN ('integer', 'null') AND untied BETWEEN 0 AND 1000000000);
UPDATE plan_lines SET
  from_price = min(max(CAST(from_price AS integer), 0), 1000000000000000),
  to_price = min(max(CAST(to_price AS integer), 0), 1000000000000000),
  from_qty = min(max(CAST(from_qty AS integer), 0), 1000000000),
  to_qty = min(max(CAST(to_qty AS integer), 0), 1000000000),
  profit_was = min(max(CAST(profit_was AS integer), -1000000000000000), 1000000000000000),
  profit_new = min(max(CAST(profit_new AS integer), -1000000000000000), 1000000000000000),
  cost = min(max(CAST(cost AS integer), 0), 1000000000000000),
  landed = min(max(CAST(landed AS integer), 0), 1000000000000000),
  on_sale = min(max(CAST(on_sale AS integer), -1000000000000000), 1000000000000000),
  gain = min(max(CAST(gain AS integer), -1000000000000000), 1000000000000000)
WHERE typeof(from_price) NOT IN ('integer', 'null') OR from_price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(to_price) NOT IN ('integer', 'null') OR to_price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(from_qty) NOT IN ('integer', 'null') OR from_qty NOT BETWEEN 0 AND 1000000000 OR
  typeof(to_qty) NOT IN ('integer', 'null') OR to_qty NOT BETWEEN 0 AND 1000000000 OR
  typeof(profit_was) NOT IN ('integer', 'null') OR profit_was NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(profit_new) NOT IN ('integer', 'null') OR profit_new NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(cost) NOT IN ('integer', 'null') OR cost NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(landed) NOT IN ('integer', 'null') OR landed NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(on_sale) NOT IN ('integer', 'null') OR on_sale NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(gain) NOT IN ('integer', 'null') OR gain NOT BETWEEN -1000000000000000 AND 1000000000000000;
ALTER TABLE plan_lines ADD CONSTRAINT plan_lines_bounds CHECK (
  typeof(from_price) IN ('integer', 'null') AND from_price BETWEEN 0 AND 1000000000000000 AND
  typeof(to_price) IN ('integer', 'null') AND to_price BETWEEN 0 AND 1000000000000000 AND
  typeof(from_qty) IN ('integer', 'null') AND from_qty BETWEEN 0 AND 1000000000 AND
  typeof(to_qty) IN ('integer', 'null') AND to_qty BETWEEN 0 AND 1000000000 AND
  typeof(profit_was) IN ('integer', 'null') AND profit_was BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(profit_new) IN ('integer', 'null') AND profit_new BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(cost) IN ('integer', 'null') AND cost BETWEEN 0 AND 1000000000000000 AND
  typeof(landed) IN ('integer', 'null') AND landed BETWEEN 0 AND 1000000000000000 AND
  typeof(on_sale) IN ('integer', 'null') AND on_sale BETWEEN -1000000000000000 AND 1000000000000000 AND
  typeof(gain) IN ('integer', 'null') AND gain BETWEEN -1000000000000000 AND 1000000000000000);
UPDATE plan_sums SET
  lines = min(max(CAST(lines AS integer), 0), 1000000000),
  rivals = min(max(CAST(rivals AS integer), 0), 1000000000)
WHERE typeof(lines) NOT IN ('integer', 'null') OR lines NOT BETWEEN 0 AND 1000000000 OR
  typeof(rivals) NOT IN ('integer', 'null') OR rivals NOT BETWEEN 0 AND 1000000000;
ALTER TABLE plan_sums ADD CONSTRAINT plan_sums_bounds CHECK (
  typeof(lines) IN ('integer', 'null') AND lines BETWEEN 0 AND 1000000000 AND
  typeof(on_sale) = 'integer' AND
  typeof(gain) = 'integer' AND
  typeof(rivals) IN ('integer', 'null') AND rivals BETWEEN 0 AND 1000000000);
UPDATE preparations SET
  done = min(max(CAST(done AS integer), 0), 1000000000),
  needed = min(max(CAST(needed AS integer), 0), 1000000000),
  helped = min(max(CAST(helped AS integer), 0), 1000000000),
  helps = min(max(CAST(helps AS integer), 0), 1000000000),
  stops = min(max(CAST(stops AS integer), 0), 1000000000)
WHERE typeof(done) NOT IN ('integer', 'null') OR done NOT BETWEEN 0 AND 1000000000 OR
  typeof(needed) NOT IN ('integer', 'null') OR needed NOT BETWEEN 0 AND 1000000000 OR
  typeof(helped) NOT IN ('integer', 'null') OR helped NOT BETWEEN 0 AND 1000000000 OR
  typeof(helps) NOT IN ('integer', 'null') OR helps NOT BETWEEN 0 AND 1000000000 OR
  typeof(stops) NOT IN ('integer', 'null') OR stops NOT BETWEEN 0 AND 1000000000;
ALTER TABLE preparations ADD CONSTRAINT preparations_bounds CHECK (
  typeof(done) IN ('integer', 'null') AND done BETWEEN 0 AND 1000000000 AND
  typeof(needed) IN ('integer', 'null') AND needed BETWEEN 0 AND 1000000000 AND
  typeof(helped) IN ('integer', 'null') AND helped BETWEEN 0 AND 1000000000 AND
  typeof(helps) IN ('integer', 'null') AND helps BETWEEN 0 AND 1000000000 AND
  typeof(stops) IN ('integer', 'null') AND stops BETWEEN 0 AND 1000000000);
UPDATE purchase_lines SET
  items = min(max(CAST(items AS integer), 0), 1000000000),
  goods = min(max(CAST(goods AS integer), 0), 1000000000000000)
WHERE typeof(items) NOT IN ('integer', 'null') OR items NOT BETWEEN 0 AND 1000000000 OR
  typeof(goods) NOT IN ('integer', 'null') OR goods NOT BETWEEN 0 AND 1000000000000000;
ALTER TABLE purchase_lines ADD CONSTRAINT purchase_lines_bounds CHECK (
  typeof(items) IN ('integer', 'null') AND items BETWEEN 0 AND 1000000000 AND
  typeof(goods) IN ('integer', 'null') AND goods BETWEEN 0 AND 1000000000000000);
UPDATE purchases SET
  goods = min(max(CAST(goods AS integer), 0), 1000000000000000),
  delivery = min(max(CAST(delivery AS integer), 0), 1000000000000000),
  topped_up = min(max(CAST(topped_up AS integer), 0), 1000000000000000)
WHERE typeof(goods) NOT IN ('integer', 'null') OR goods NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(delivery) NOT IN ('integer', 'null') OR delivery NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(topped_up) NOT IN ('integer', 'null') OR topped_up NOT BETWEEN 0 AND 1000000000000000;
ALTER TABLE purchases ADD CONSTRAINT purchases_bounds CHECK (
  typeof(goods) IN ('integer', 'null') AND goods BETWEEN 0 AND 1000000000000000 AND
  typeof(delivery) IN ('integer', 'null') AND delivery BETWEEN 0 AND 1000000000000000 AND
  typeof(topped_up) IN ('integer', 'null') AND topped_up BETWEEN 0 AND 1000000000000000);
UPDATE send_lines SET
  price = min(max(CAST(price AS integer), 0), 1000000000000000),
  quantity = min(max(CAST(quantity AS integer), 0), 1000000000),
  cost = min(max(CAST(cost AS integer), 0), 1000000000000000),
  landed = min(max(CAST(landed AS integer), 0), 1000000000000000)
WHERE typeof(price) NOT IN ('integer', 'null') OR price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(quantity) NOT IN ('integer', 'null') OR quantity NOT BETWEEN 0 AND 1000000000 OR
  typeof(cost) NOT IN ('integer', 'null') OR cost NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(landed) NOT IN ('integer', 'null') OR landed NOT BETWEEN 0 AND 1000000000000000;
ALTER TABLE send_lines ADD CONSTRAINT send_lines_bounds CHECK (
  typeof(price) IN ('integer', 'null') AND price BETWEEN 0 AND 1000000000000000 AND
  typeof(quantity) IN ('integer', 'null') AND quantity BETWEEN 0 AND 1000000000 AND
  typeof(cost) IN ('integer', 'null') AND cost BETWEEN 0 AND 1000000000000000 AND
  typeof(landed) IN ('integer', 'null') AND landed BETWEEN 0 AND 1000000000000000);
UPDATE send_outs SET
  tries = min(max(CAST(tries AS integer), 0), 1000000000)
WHERE typeof(tries) NOT IN ('integer', 'null') OR tries NOT BETWEEN 0 AND 1000000000;
ALTER TABLE send_outs ADD CONSTRAINT send_outs_bounds CHECK (
  typeof(tries) IN ('integer', 'null') AND tries BETWEEN 0 AND 1000000000);
UPDATE shadows SET
  from_price = min(max(CAST(from_price AS integer), 0), 1000000000000000),
  to_price = min(max(CAST(to_price AS integer), 0), 1000000000000000),
  from_qty = min(max(CAST(from_qty AS integer), 0), 1000000000),
  to_qty = min(max(CAST(to_qty AS integer), 0), 1000000000)
WHERE typeof(from_price) NOT IN ('integer', 'null') OR from_price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(to_price) NOT IN ('integer', 'null') OR to_price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(from_qty) NOT IN ('integer', 'null') OR from_qty NOT BETWEEN 0 AND 1000000000 OR
  typeof(to_qty) NOT IN ('integer', 'null') OR to_qty NOT BETWEEN 0 AND 1000000000;
ALTER TABLE shadows ADD CONSTRAINT shadows_bounds CHECK (
  typeof(from_price) IN ('integer', 'null') AND from_price BETWEEN 0 AND 1000000000000000 AND
  typeof(to_price) IN ('integer', 'null') AND to_price BETWEEN 0 AND 1000000000000000 AND
  typeof(from_qty) IN ('integer', 'null') AND from_qty BETWEEN 0 AND 1000000000 AND
  typeof(to_qty) IN ('integer', 'null') AND to_qty BETWEEN 0 AND 1000000000);
UPDATE shop_listings SET
  price = min(max(CAST(price AS integer), 0), 1000000000000000),
  quantity = iif(typeof(quantity) = 'integer' AND quantity BETWEEN 0 AND 1000000000, quantity, 0)
WHERE typeof(price) NOT IN ('integer', 'null') OR price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(quantity) NOT IN ('integer', 'null') OR quantity NOT BETWEEN 0 AND 1000000000;
ALTER TABLE shop_listings ADD CONSTRAINT shop_listings_bounds CHECK (
  typeof(price) IN ('integer', 'null') AND price BETWEEN 0 AND 1000000000000000 AND
  typeof(quantity) IN ('integer', 'null') AND quantity BETWEEN 0 AND 1000000000);
UPDATE shop_orders SET
  total = min(max(CAST(total AS integer), 0), 1000000000000000)
WHERE typeof(total) NOT IN ('integer', 'null') OR total NOT BETWEEN 0 AND 1000000000000000;
ALTER TABLE shop_orders ADD CONSTRAINT shop_orders_bounds CHECK (
  typeof(total) IN ('integer', 'null') AND total BETWEEN 0 AND 1000000000000000);
UPDATE sites SET
  tax_rate = min(max(CAST(tax_rate AS integer), 0), 1000000000),
  charged = min(max(CAST(charged AS integer), 0), 1000000000000000),
  outbound = min(max(CAST(outbound AS integer), 0), 1000000000000000),
  handling = min(max(CAST(handling AS integer), 0), 1000000000000000),
  cushion = min(max(CAST(cushion AS integer), 0), 1000000000),
  max_lines = min(max(CAST(max_lines AS integer), 0), 1000000000),
  least_picture = min(max(CAST(least_picture AS integer), 0), 1000000000),
  batch_hours = min(max(CAST(batch_hours AS integer), 0), 1000000000),
  quiet_from = min(max(CAST(quiet_from AS integer), 0), 1000000000),
  quiet_to = min(max(CAST(quiet_to AS integer), 0), 1000000000),
  most_at_once = min(max(CAST(most_at_once AS integer), 0), 1000000000),
  most_a_day = min(max(CAST(most_a_day AS integer), 0), 1000000000)
WHERE typeof(tax_rate) NOT IN ('integer', 'null') OR tax_rate NOT BETWEEN 0 AND 1000000000 OR
  typeof(charged) NOT IN ('integer', 'null') OR charged NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(outbound) NOT IN ('integer', 'null') OR outbound NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(handling) NOT IN ('integer', 'null') OR handling NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(cushion) NOT IN ('integer', 'null') OR cushion NOT BETWEEN 0 AND 1000000000 OR
  typeof(max_lines) NOT IN ('integer', 'null') OR max_lines NOT BETWEEN 0 AND 1000000000 OR
  typeof(least_picture) NOT IN ('integer', 'null') OR least_picture NOT BETWEEN 0 AND 1000000000 OR
  typeof(batch_hours) NOT IN ('integer', 'null') OR batch_hours NOT BETWEEN 0 AND 1000000000 OR
  typeof(quiet_from) NOT IN ('integer', 'null') OR quiet_from NOT BETWEEN 0 AND 1000000000 OR
  typeof(quiet_to) NOT IN ('integer', 'null') OR quiet_to NOT BETWEEN 0 AND 1000000000 OR
  typeof(most_at_once) NOT IN ('integer', 'null') OR most_at_once NOT BETWEEN 0 AND 1000000000 OR
  typeof(most_a_day) NOT IN ('integer', 'null') OR most_a_day NOT BETWEEN 0 AND 1000000000;
ALTER TABLE sites ADD CONSTRAINT sites_bounds CHECK (
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
  typeof(most_a_day) IN ('integer', 'null') AND most_a_day BETWEEN 0 AND 1000000000);
UPDATE sources SET
  every = min(max(CAST(every AS integer), 0), 1000000000),
  last_rows = min(max(CAST(last_rows AS integer), 0), 1000000000)
WHERE typeof(every) NOT IN ('integer', 'null') OR every NOT BETWEEN 0 AND 1000000000 OR
  typeof(last_rows) NOT IN ('integer', 'null') OR last_rows NOT BETWEEN 0 AND 1000000000;
ALTER TABLE sources ADD CONSTRAINT sources_bounds CHECK (
  typeof(every) IN ('integer', 'null') AND every BETWEEN 0 AND 1000000000 AND
  typeof(last_rows) IN ('integer', 'null') AND last_rows BETWEEN 0 AND 1000000000);
UPDATE supplier_products SET
  cost = min(max(CAST(cost AS integer), 0), 1000000000000000),
  stock = min(max(CAST(stock AS integer), 0), 1000000000),
  units_per_item = min(max(CAST(units_per_item AS integer), 0), 1000000000),
  missing = min(max(CAST(missing AS integer), 0), 1000000000)
WHERE typeof(cost) NOT IN ('integer', 'null') OR cost NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(stock) NOT IN ('integer', 'null') OR stock NOT BETWEEN 0 AND 1000000000 OR
  typeof(units_per_item) NOT IN ('integer', 'null') OR units_per_item NOT BETWEEN 0 AND 1000000000 OR
  typeof(missing) NOT IN ('integer', 'null') OR missing NOT BETWEEN 0 AND 1000000000;
ALTER TABLE supplier_products ADD CONSTRAINT supplier_products_bounds CHECK (
  typeof(cost) IN ('integer', 'null') AND cost BETWEEN 0 AND 1000000000000000 AND
  typeof(stock) IN ('integer', 'null') AND stock BETWEEN 0 AND 1000000000 AND
  typeof(units_per_item) IN ('integer', 'null') AND units_per_item BETWEEN 0 AND 1000000000 AND
  typeof(missing) IN ('integer', 'null') AND missing BETWEEN 0 AND 1000000000);
UPDATE supplier_terms SET
  charge = min(max(CAST(charge AS integer), 0), 1000000000000000),
  free_from = min(max(CAST(free_from AS integer), 0), 1000000000000000),
  duty = min(max(CAST(duty AS integer), 0), 1000000000),
  days = min(max(CAST(days AS integer), 0), 1000000000),
  least = min(max(CAST(least AS integer), 0), 1000000000000000)
WHERE typeof(charge) NOT IN ('integer', 'null') OR charge NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(free_from) NOT IN ('integer', 'null') OR free_from NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(duty) NOT IN ('integer', 'null') OR duty NOT BETWEEN 0 AND 1000000000 OR
  typeof(days) NOT IN ('integer', 'null') OR days NOT BETWEEN 0 AND 1000000000 OR
  typeof(least) NOT IN ('integer', 'null') OR least NOT BETWEEN 0 AND 1000000000000000;
ALTER TABLE supplier_terms ADD CONSTRAINT supplier_terms_bounds CHECK (
  typeof(charge) IN ('integer', 'null') AND charge BETWEEN 0 AND 1000000000000000 AND
  typeof(free_from) IN ('integer', 'null') AND free_from BETWEEN 0 AND 1000000000000000 AND
  typeof(duty) IN ('integer', 'null') AND duty BETWEEN 0 AND 1000000000 AND
  typeof(days) IN ('integer', 'null') AND days BETWEEN 0 AND 1000000000 AND
  typeof(least) IN ('integer', 'null') AND least BETWEEN 0 AND 1000000000000000);
UPDATE supply_links SET
  units_bought = min(max(CAST(units_bought AS integer), 0), 1000000000)
WHERE typeof(units_bought) NOT IN ('integer', 'null') OR units_bought NOT BETWEEN 0 AND 1000000000;
ALTER TABLE supply_links ADD CONSTRAINT supply_links_bounds CHECK (
  typeof(units_bought) IN ('integer', 'null') AND units_bought BETWEEN 0 AND 1000000000);
UPDATE untieds SET
  price = min(max(CAST(price AS integer), 0), 1000000000000000),
  quantity = min(max(CAST(quantity AS integer), 0), 1000000000)
WHERE typeof(price) NOT IN ('integer', 'null') OR price NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(quantity) NOT IN ('integer', 'null') OR quantity NOT BETWEEN 0 AND 1000000000;
ALTER TABLE untieds ADD CONSTRAINT untieds_bounds CHECK (
  typeof(price) IN ('integer', 'null') AND price BETWEEN 0 AND 1000000000000000 AND
  typeof(quantity) IN ('integer', 'null') AND quantity BETWEEN 0 AND 1000000000);
UPDATE weighings SET
  landed = min(max(CAST(landed AS integer), 0), 1000000000000000),
  stock = min(max(CAST(stock AS integer), 0), 1000000000),
  lowest = min(max(CAST(lowest AS integer), 0), 1000000000000000),
  leading = min(max(CAST(leading AS integer), 0), 1000000000000000),
  sellers = min(max(CAST(sellers AS integer), 0), 1000000000),
  rating = min(max(CAST(rating AS integer), 0), 1000000000),
  rank = min(max(CAST(rank AS integer), 0), 1000000000),
  profit_lowest = min(max(CAST(profit_lowest AS integer), -1000000000000000), 1000000000000000),
  margin_lowest = min(max(CAST(margin_lowest AS integer), -1000000000000000), 1000000000000000),
  return_lowest = min(max(CAST(return_lowest AS integer), -1000000000000000), 1000000000000000),
  profit_leading = min(max(CAST(profit_leading AS integer), -1000000000000000), 1000000000000000),
  price_rule = min(max(CAST(price_rule AS integer), 0), 1000000000000000),
  profit_rule = min(max(CAST(profit_rule AS integer), -1000000000000000), 1000000000000000),
  price_aim = min(max(CAST(price_aim AS integer), 0), 1000000000000000),
  above = min(max(CAST(above AS integer), -1000000000000000), 1000000000000000),
  weight = min(max(CAST(weight AS integer), 0), 1000000000000),
  units_sold = min(max(CAST(units_sold AS integer), 0), 1000000000)
WHERE typeof(landed) NOT IN ('integer', 'null') OR landed NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(stock) NOT IN ('integer', 'null') OR stock NOT BETWEEN 0 AND 1000000000 OR
  typeof(lowest) NOT IN ('integer', 'null') OR lowest NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(leading) NOT IN ('integer', 'null') OR leading NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(sellers) NOT IN ('integer', 'null') OR sellers NOT BETWEEN 0 AND 1000000000 OR
  typeof(rating) NOT IN ('integer', 'null') OR rating NOT BETWEEN 0 AND 1000000000 OR
  typeof(rank) NOT IN ('integer', 'null') OR rank NOT BETWEEN 0 AND 1000000000 OR
  typeof(profit_lowest) NOT IN ('integer', 'null') OR profit_lowest NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(margin_lowest) NOT IN ('integer', 'null') OR margin_lowest NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(return_lowest) NOT IN ('integer', 'null') OR return_lowest NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(profit_leading) NOT IN ('integer', 'null') OR profit_leading NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(price_rule) NOT IN ('integer', 'null') OR price_rule NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(profit_rule) NOT IN ('integer', 'null') OR profit_rule NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(price_aim) NOT IN ('integer', 'null') OR price_aim NOT BETWEEN 0 AND 1000000000000000 OR
  typeof(above) NOT IN ('integer', 'null') OR above NOT BETWEEN -1000000000000000 AND 1000000000000000 OR
  typeof(weight) NOT IN ('integer', 'null') OR weight NOT BETWEEN 0 AND 1000000000000 OR
  typeof(units_sold) NOT IN ('integer', 'null') OR units_sold NOT BETWEEN 0 AND 1000000000;
ALTER TABLE weighings ADD CONSTRAINT weighings_bounds CHECK (
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
  typeof(units_sold) IN ('integer', 'null') AND units_sold BETWEEN 0 AND 1000000000);
