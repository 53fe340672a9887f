-- The least that a supplier lets one purchase be, and where its orders go.
ALTER TABLE supplier_terms ADD COLUMN least integer NOT NULL DEFAULT 0;
ALTER TABLE supplier_terms ADD COLUMN mail text NOT NULL DEFAULT ''; -- where orders are sent
ALTER TABLE purchases ADD COLUMN mailed_at datetime;
