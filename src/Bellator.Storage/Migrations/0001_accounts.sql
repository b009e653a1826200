-- Accounts and their sessions. Sign-in needs them before anybody is known, so row security does not apply here;
-- the web role has only the rights that sign-in needs.
CREATE TABLE account (
  id uuid PRIMARY KEY,
  email text NOT NULL,
  email_key text NOT NULL UNIQUE,
  name text NOT NULL,
  password_hash text NOT NULL,
  security_stamp text NOT NULL,
  failed_count integer NOT NULL DEFAULT 0,
  lockout_end timestamptz,
  created_at timestamptz NOT NULL DEFAULT now()
);

-- Only a hash of the session key is kept: who reads this table cannot take over a session.
CREATE TABLE session (
  key_hash bytea PRIMARY KEY,
  account_id uuid NOT NULL REFERENCES account ON DELETE CASCADE,
  ticket bytea NOT NULL,
  created_at timestamptz NOT NULL DEFAULT now(),
  expires_at timestamptz NOT NULL
);
CREATE INDEX session_account ON session (account_id);

CREATE TABLE audit_log (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  at timestamptz NOT NULL DEFAULT now(),
  account_id uuid,
  event text NOT NULL,
  detail text NOT NULL DEFAULT '',
  address text NOT NULL DEFAULT ''
);

GRANT SELECT, INSERT, UPDATE ON account TO bellator_web;
GRANT SELECT, INSERT, UPDATE, DELETE ON session TO bellator_web;
GRANT INSERT ON audit_log TO bellator_web;
GRANT SELECT (id, name, email) ON account TO bellator_worker;
