-- Months of the books that were closed: what was in them then, unchanged from then on.
CREATE TABLE closed_books (
  month text PRIMARY KEY, -- YYYY-MM
  content text NOT NULL, -- JSON
  actor text NOT NULL,
  at datetime NOT NULL
);
