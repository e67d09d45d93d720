-- Places the application may touch, workspaces it has opened, and the index of their references.
-- All of it can be made again from the folders themselves, but for the list of places and what was opened when.

CREATE TABLE place (
  path text PRIMARY KEY,
  added timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE workspace (
  id text PRIMARY KEY,
  root text NOT NULL UNIQUE,
  name text NOT NULL,
  opened timestamptz NOT NULL DEFAULT now(),
  scanned timestamptz,
  generation int NOT NULL DEFAULT 0
);

-- One row per reference. Rows of a new scan get the next generation and are shown once the scan is whole.
CREATE TABLE reference_row (
  workspace text NOT NULL,
  generation int NOT NULL,
  scene text NOT NULL,
  ord int NOT NULL,
  format text NOT NULL,
  at text NOT NULL,
  kind text NOT NULL,
  written text NOT NULL,
  state text NOT NULL,
  target text,
  inside boolean NOT NULL,
  ready boolean NOT NULL,
  oddities text NOT NULL,
  uses text NOT NULL,
  size double precision,
  PRIMARY KEY (workspace, generation, scene, ord)
);

CREATE TABLE scene_problem (
  workspace text NOT NULL,
  generation int NOT NULL,
  scene text NOT NULL,
  code text NOT NULL,
  message text NOT NULL
);

CREATE INDEX scene_problem_of ON scene_problem (workspace, generation);

CREATE TABLE setting (
  name text PRIMARY KEY,
  value text NOT NULL
);
