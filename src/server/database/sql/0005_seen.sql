-- Files that references led to and that are not there any more: what was last seen of them tells them again elsewhere.

CREATE TABLE seen_file (
  workspace text NOT NULL,
  path text NOT NULL,
  size double precision NOT NULL,
  modified double precision NOT NULL,
  PRIMARY KEY (workspace, path)
);
