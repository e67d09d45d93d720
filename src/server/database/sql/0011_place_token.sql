-- What the file in an allowed folder says by which every machine of a studio knows it: a share that is not mounted leaves an empty folder of the same path,
-- which is on that machine's own disk. Null: nobody has marked it yet. On one's own machine it stays null.

ALTER TABLE place ADD COLUMN token text;
