-- Work of a server for several: what is asked for, how far it is, and what became of it. What is next, and for which worker, is the queue's (the package
-- graphile-worker, in a schema of its own). On one's own machine these tables stay empty.

-- Servers and workers that are there. One that was not seen for a while is taken to be gone, and what it had in hand is somebody else's.
CREATE TABLE worker (
  id text PRIMARY KEY,
  name text NOT NULL,
  kind text NOT NULL,
  -- Names under which the queue knows it, with blanks between.
  queue_ids text NOT NULL DEFAULT '',
  -- Allowed folders that it reaches, as JSON.
  reaches text NOT NULL DEFAULT '[]',
  seen timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE work (
  id text PRIMARY KEY,
  -- The server that hears of its end.
  owner text NOT NULL,
  work text NOT NULL,
  title text NOT NULL,
  workspace text,
  -- Who asked for it, as JSON; null: the server itself.
  who text,
  quiet boolean NOT NULL,
  work_order text NOT NULL,
  state text NOT NULL DEFAULT 'waiting',
  -- Its end was asked for.
  ending boolean NOT NULL DEFAULT false,
  started double precision NOT NULL,
  ended double precision,
  progress text,
  -- What its worker says of its end, before its server has made of it what pages see.
  outcome text,
  error text,
  result text,
  worker text,
  tries int NOT NULL DEFAULT 0
);

CREATE INDEX work_open ON work (started) WHERE ended IS NULL;

-- The state that the index of a workspace is in: a thread that made it need send only what differs.
ALTER TABLE workspace ADD COLUMN token text;

-- What the servers and workers of one installation have in common and nobody else may know: the key by which what one of them began is known to all of them.
CREATE TABLE secret (
  name text PRIMARY KEY,
  value text NOT NULL
);
