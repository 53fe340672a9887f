-- What must be bought to sell one: a whole case, where a supplier sells nothing smaller.
ALTER TABLE weighings ADD COLUMN ties_up integer
  CHECK (typeof(ties_up) IN ('integer', 'null') AND ties_up BETWEEN 0 AND 1000000000000000);
