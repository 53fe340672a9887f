-- A light file may be of a few listings alone.
ALTER TABLE light_files ADD COLUMN only text NOT NULL DEFAULT '[]'; -- JSON: SKUs; empty: of all
