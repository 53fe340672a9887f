-- Roles that the owner made. Those that are always there are in the program (actor.Presets).
CREATE TABLE roles (
  id integer PRIMARY KEY,
  version integer NOT NULL DEFAULT 1 CHECK (typeof(version) = 'integer' AND version BETWEEN 1 AND 1000000000000000),
  name text NOT NULL COLLATE NOCASE UNIQUE,
  rights text NOT NULL -- their names, a JSON array
);
