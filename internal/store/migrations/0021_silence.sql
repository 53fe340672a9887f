-- How long a source may be silent follows how its feeds come: rhythm is the usual time
-- between two of them, in seconds (0: too few came to tell), and quiet says that its
-- silence was told and its stock still counts. It was last heard when a feed was taken, or
-- when its address said that nothing is new.

ALTER TABLE sources ADD COLUMN rhythm integer NOT NULL DEFAULT 0
  CHECK (typeof(rhythm) = 'integer' AND rhythm BETWEEN 0 AND 1000000000);
ALTER TABLE sources ADD COLUMN heard_at datetime;
ALTER TABLE sources ADD COLUMN quiet numeric NOT NULL DEFAULT false;
UPDATE sources SET heard_at = max(taken_at, coalesce((
  SELECT max(g.received_at) FROM feeds g WHERE g.source_id = sources.id AND g.state = 'same' AND 'taken' = (
    SELECT b.state FROM feeds b WHERE b.source_id = g.source_id AND b.id < g.id AND b.part_of IS NULL
    AND b.state NOT IN ('same', 'failed') ORDER BY b.id DESC LIMIT 1)), taken_at));
WITH last AS (
    SELECT source_id, id, unixepoch(taken_at) AS at, row_number() OVER (PARTITION BY source_id ORDER BY id DESC) AS n
    FROM feeds WHERE state = 'taken' AND part_of IS NULL AND source_id IS NOT NULL),
  gaps AS (SELECT source_id, at - lag(at) OVER (PARTITION BY source_id ORDER BY id) AS gap FROM last WHERE n <= 12),
  sorted AS (
    SELECT source_id, gap, row_number() OVER (PARTITION BY source_id ORDER BY gap) AS k, count(*) OVER (PARTITION BY source_id) AS gaps
    FROM gaps WHERE gap IS NOT NULL)
UPDATE sources SET rhythm = min(max(gap, 0), 1000000000) FROM sorted WHERE source_id = sources.id AND gaps > 1 AND k = gaps / 2 + 1;
