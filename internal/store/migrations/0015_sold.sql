-- What really sells, beside what each candidate would make.
ALTER TABLE weighings ADD COLUMN units_sold integer NOT NULL DEFAULT 0; -- on the site, in the thirty days before it was last counted
CREATE INDEX weighings_by_sold ON weighings(site_id, dropped, units_sold);
