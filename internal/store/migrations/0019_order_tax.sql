-- How the prices of a line's site had tax when it was ordered: what its site asks later changes nothing of it.
ALTER TABLE order_lines ADD COLUMN tax_included integer NOT NULL DEFAULT 0 CHECK (typeof(tax_included) = 'integer' AND tax_included IN (0, 1));
ALTER TABLE order_lines ADD COLUMN tax_rate integer NOT NULL DEFAULT 0 CHECK (typeof(tax_rate) = 'integer' AND tax_rate BETWEEN 0 AND 1000000000000000);
-- What was given back of what the buyer paid for delivery; it is in refunded too.
ALTER TABLE order_lines ADD COLUMN refunded_delivery integer NOT NULL DEFAULT 0 CHECK (typeof(refunded_delivery) = 'integer' AND refunded_delivery BETWEEN 0 AND 1000000000000000);

UPDATE order_lines SET (tax_included, tax_rate) =
  (SELECT s.tax_way = 'included', s.tax_rate FROM orders o JOIN sites s ON s.id = o.site_id WHERE o.id = order_lines.order_id)
WHERE EXISTS (SELECT 1 FROM orders o JOIN sites s ON s.id = o.site_id WHERE o.id = order_lines.order_id);
-- More was given back than was paid: what can be known of it is that all was.
UPDATE order_lines SET problem = 'its place says that more was given back than was paid; look there', refunded = price * quantity + delivery
WHERE refunded > price * quantity + delivery;
UPDATE order_lines SET refunded_delivery = refunded - price * quantity WHERE refunded > price * quantity;
