-- A server for several: people, and who may do what where. On one's own machine these tables stay empty.
--
-- person, person_session, person_account, person_verification and person_rate are as the package better-auth writes them (its kysely adapter, version 1.7);
-- a test holds them against what it would make itself.

CREATE TABLE person (
  "id" text PRIMARY KEY,
  "name" text NOT NULL,
  "email" text NOT NULL UNIQUE,
  "emailVerified" boolean NOT NULL,
  "image" text,
  "createdAt" timestamptz NOT NULL DEFAULT CURRENT_TIMESTAMP,
  "updatedAt" timestamptz NOT NULL DEFAULT CURRENT_TIMESTAMP,
  "role" text NOT NULL,
  "gone" boolean NOT NULL DEFAULT false
);

CREATE TABLE person_session (
  "id" text PRIMARY KEY,
  "expiresAt" timestamptz NOT NULL,
  "token" text NOT NULL UNIQUE,
  "createdAt" timestamptz NOT NULL DEFAULT CURRENT_TIMESTAMP,
  "updatedAt" timestamptz NOT NULL,
  "ipAddress" text,
  "userAgent" text,
  "userId" text NOT NULL REFERENCES person ("id") ON DELETE CASCADE
);

CREATE INDEX person_session_of ON person_session ("userId");

CREATE TABLE person_account (
  "id" text PRIMARY KEY,
  "accountId" text NOT NULL,
  "providerId" text NOT NULL,
  "userId" text NOT NULL REFERENCES person ("id") ON DELETE CASCADE,
  "accessToken" text,
  "refreshToken" text,
  "idToken" text,
  "accessTokenExpiresAt" timestamptz,
  "refreshTokenExpiresAt" timestamptz,
  "scope" text,
  "password" text,
  "createdAt" timestamptz NOT NULL DEFAULT CURRENT_TIMESTAMP,
  "updatedAt" timestamptz NOT NULL
);

CREATE INDEX person_account_of ON person_account ("userId");

CREATE TABLE person_verification (
  "id" text PRIMARY KEY,
  "identifier" text NOT NULL,
  "value" text NOT NULL,
  "expiresAt" timestamptz NOT NULL,
  "createdAt" timestamptz NOT NULL DEFAULT CURRENT_TIMESTAMP,
  "updatedAt" timestamptz NOT NULL DEFAULT CURRENT_TIMESTAMP
);

CREATE INDEX person_verification_of ON person_verification ("identifier");

CREATE TABLE person_rate (
  "id" text PRIMARY KEY,
  "key" text NOT NULL UNIQUE,
  "count" integer NOT NULL,
  "lastRequest" bigint NOT NULL
);

-- Links by which somebody gets in: an invitation (role), or a new password (person). Only a digest of what stands in the link is kept; used once.
CREATE TABLE way_in (
  id text PRIMARY KEY,
  digest text NOT NULL UNIQUE,
  role text NOT NULL,
  person text REFERENCES person ("id") ON DELETE CASCADE,
  about text NOT NULL,
  made_by text NOT NULL,
  made timestamptz NOT NULL DEFAULT now(),
  expires timestamptz NOT NULL
);

-- The least role that may look into an allowed folder, and the least that may change what lies in it.
ALTER TABLE place ADD COLUMN seen_by text NOT NULL DEFAULT 'look';
ALTER TABLE place ADD COLUMN changed_by text NOT NULL DEFAULT 'change';
