-- For pipelines of a server for several: keys by which programs come in, and web hooks by which they hear of what was done. On one's own machine these tables
-- stay empty.

-- Only a digest of a key is kept.
CREATE TABLE api_key (
  id text PRIMARY KEY,
  digest text NOT NULL UNIQUE,
  about text NOT NULL,
  role text NOT NULL,
  made_by text NOT NULL REFERENCES person ("id") ON DELETE CASCADE,
  made timestamptz NOT NULL DEFAULT now(),
  expires timestamptz NOT NULL,
  used timestamptz
);

CREATE TABLE hook (
  id text PRIMARY KEY,
  about text NOT NULL,
  url text NOT NULL,
  -- Kinds of events, with blanks between.
  events text NOT NULL,
  -- What is sent is signed with it.
  secret text NOT NULL,
  made_by text NOT NULL,
  made timestamptz NOT NULL DEFAULT now(),
  paused boolean NOT NULL DEFAULT false
);

-- What was to be sent to whom, and what became of it.
CREATE TABLE hook_message (
  id text PRIMARY KEY,
  hook text NOT NULL REFERENCES hook (id) ON DELETE CASCADE,
  event text NOT NULL,
  body text NOT NULL,
  made timestamptz NOT NULL DEFAULT now(),
  state text NOT NULL DEFAULT 'waiting',
  tries int NOT NULL DEFAULT 0,
  tried timestamptz,
  answer text
);

CREATE INDEX hook_message_of ON hook_message (hook, made);

-- How many references of a workspace would not open elsewhere, as hooks were told last.
CREATE TABLE hook_told (
  workspace text PRIMARY KEY,
  lost int NOT NULL
);
