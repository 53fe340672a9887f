-- Some categories are sold in by leave of the place alone.
ALTER TABLE categories ADD COLUMN needs_leave boolean NOT NULL DEFAULT 0;

-- A marketplace's own sheet for a category, and what each of its columns is filled with.
CREATE TABLE blanks (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  category text NOT NULL, -- ref; '' is changes of price and stock
  name text NOT NULL,
  layout text NOT NULL, -- JSON of blank.Layout
  actor text NOT NULL,
  at datetime NOT NULL,
  content blob NOT NULL, -- the last: what is before it is read without it
  UNIQUE (site_id, category)
);

-- Filled sheets: what a send-out to a place came to that takes no lines.
CREATE TABLE sheet_files (
  id integer PRIMARY KEY,
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  batch text NOT NULL, -- key of the send-out
  category text NOT NULL,
  name text NOT NULL,
  rows integer NOT NULL,
  made_at datetime NOT NULL,
  fetched_at datetime, -- by a person who then may have taken it there
  uploaded_at datetime,
  uploaded_by text NOT NULL DEFAULT '',
  ref text NOT NULL DEFAULT '', -- the place's name for it, where its door took it
  content blob NOT NULL -- the last, as above
);
CREATE INDEX sheet_file_batch ON sheet_files(site_id, batch);

-- The lines of filled sheets, and what a place's report said of each.
CREATE TABLE sheet_lines (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  batch text NOT NULL,
  key text NOT NULL,
  file_id integer REFERENCES sheet_files(id) ON DELETE CASCADE, -- none: it was refused before a file was made
  sku text NOT NULL,
  row integer NOT NULL, -- in the file, from 1
  said text NOT NULL DEFAULT '', -- taken, confirmed, refused
  field text NOT NULL DEFAULT '',
  words text NOT NULL DEFAULT '',
  PRIMARY KEY (site_id, batch, key)
) WITHOUT ROWID;
CREATE INDEX sheet_line_file ON sheet_lines(file_id);
CREATE INDEX sheet_line_open ON sheet_lines(site_id, sku) WHERE said IN ('', 'taken');

-- What the columns of a place's report are, and what its words for states mean.
CREATE TABLE report_forms (
  site_id integer PRIMARY KEY REFERENCES sites(id) ON DELETE CASCADE,
  columns text NOT NULL, -- JSON: column → what it is read as
  states text NOT NULL -- JSON: its word → taken, confirmed, refused
);

-- Words of listings that are on sale: what was handed over of them, and what is there.
ALTER TABLE send_lines ADD COLUMN does text NOT NULL DEFAULT ''; -- change: of words and pictures alone
ALTER TABLE send_lines ADD COLUMN content text NOT NULL DEFAULT ''; -- JSON of place.Content, whole, as of the handing over
CREATE TABLE listing_contents (
  listing_id integer PRIMARY KEY REFERENCES listings(id) ON DELETE CASCADE,
  content text NOT NULL, -- JSON of place.Content, as confirmed last
  at datetime NOT NULL
);
ALTER TABLE preparations ADD COLUMN changed text NOT NULL DEFAULT '[]'; -- JSON: fields that differ from what is there
CREATE INDEX preparation_changed ON preparations(site_id, listing_id) WHERE changed <> '[]';

-- Places that are served by hand: a line of theirs is a task for a person.
ALTER TABLE sheet_lines ADD COLUMN task text NOT NULL DEFAULT ''; -- JSON of place.Line
ALTER TABLE sheet_lines ADD COLUMN at datetime; -- since when a task waits
CREATE INDEX sheet_line_task ON sheet_lines(site_id) WHERE task <> '' AND said = '';

-- Where a listing stands at its place, as a person said who put it there.
CREATE TABLE listing_pages (
  listing_id integer PRIMARY KEY REFERENCES listings(id) ON DELETE CASCADE,
  page text NOT NULL
);

-- What mended listings that a place refused with some words, to be offered the next time.
CREATE TABLE mends (
  site_id integer NOT NULL REFERENCES sites(id) ON DELETE CASCADE,
  field text NOT NULL,
  words text NOT NULL, -- the place's
  said text NOT NULL, -- JSON: the values that a person said
  actor text NOT NULL,
  at datetime NOT NULL,
  PRIMARY KEY (site_id, field, words)
) WITHOUT ROWID;
CREATE INDEX listing_refused ON listings(site_id) WHERE state = 'refused';
