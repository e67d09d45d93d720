-- Who uses a file anywhere: each reference by the name, in small letters, of what it leads to, or would. Cut, since what stands in a scene may be longer than an
-- index takes. A server that has trigrams gets one more index, for parts of names (anywhereQueries.ts).

ALTER TABLE reference_row ADD COLUMN name text
  GENERATED ALWAYS AS (left(lower(split_part(translate(coalesce(target, written), '\', '/'), '/', -1)), 200)) STORED;

CREATE INDEX reference_name ON reference_row (name COLLATE "C", left(target, 200) COLLATE "C");
