-- What the last scan found beside its rows (files, bytes, the last version), as JSON; null before the first scan.

ALTER TABLE workspace ADD COLUMN found text;

-- Indexes made before lack it: those workspaces are read again when they are opened.
UPDATE workspace SET scanned = NULL;
