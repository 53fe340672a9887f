-- Some categories are sold in by leave of the place alone.
ALTER TABLE categories ADD COLUMN needs_leave boolean NOT NULL DEFAULT 0;
