-- Every file of a workspace as the last scan found it: how many references lead to it, and whether a scene would be expected to need it
-- and none does.

CREATE TABLE file_row (
  workspace text NOT NULL,
  generation int NOT NULL,
  path text NOT NULL,
  kind text NOT NULL,
  size double precision NOT NULL,
  modified double precision NOT NULL,
  uses int NOT NULL,
  unused boolean NOT NULL,
  PRIMARY KEY (workspace, generation, path)
);

-- Indexes made before lack the files: those workspaces are read again when they are opened.
UPDATE workspace SET scanned = NULL;
