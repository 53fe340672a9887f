-- A run that was going on as the program ended by its own doing: how often. Twice, and
-- it is set aside until a person has it tried again.
ALTER TABLE runs ADD COLUMN falls integer NOT NULL DEFAULT 0 CHECK (typeof(falls) = 'integer' AND falls BETWEEN 0 AND 1000);
