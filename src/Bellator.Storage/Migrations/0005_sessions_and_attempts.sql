-- A change of an account holds only if nobody else changed it since it was read. What counts tries no longer stands in the same row:
-- a wrong guess could write back what a change of password had just replaced.
ALTER TABLE account ADD COLUMN version integer NOT NULL DEFAULT 1;
ALTER TABLE account DROP COLUMN failed_count, DROP COLUMN lockout_end;

-- A session belongs to the stamp that the account had when it began: a new password gives a new stamp, and every older session is over,
-- whatever still writes to it. Everybody signs in once more.
DROP TABLE session;
CREATE TABLE session (
  key_hash bytea PRIMARY KEY,
  account_id uuid NOT NULL REFERENCES account ON DELETE CASCADE,
  stamp text NOT NULL,
  created_at timestamptz NOT NULL DEFAULT now(),
  seen_at timestamptz NOT NULL DEFAULT now(),
  ends_at timestamptz NOT NULL
);
CREATE INDEX session_account ON session (account_id);
CREATE INDEX session_end ON session (ends_at);
GRANT SELECT, INSERT, UPDATE, DELETE ON session TO bellator_web;

-- Tries to sign in, by account, device or source. The key is a digest: the table tells nobody's address.
CREATE TABLE attempt_count (
  key bytea PRIMARY KEY,
  failures double precision NOT NULL,
  next_at timestamptz NOT NULL,
  last_at timestamptz NOT NULL
);
CREATE INDEX attempt_age ON attempt_count (last_at);
GRANT SELECT, INSERT, UPDATE, DELETE ON attempt_count TO bellator_web;

-- Counts a try before its password is looked at, so that any number of tries at once count as many. False: it comes too early. Failures
-- are forgiven one after another; beyond the free ones, each doubles the wait until the next try, up to a bound.
CREATE FUNCTION begin_attempt(new_key bytea, free integer, forgiven interval, longest interval) RETURNS boolean LANGUAGE plpgsql AS $$
DECLARE
  present timestamptz := clock_timestamp();
  held boolean;
BEGIN
  INSERT INTO attempt_count AS c (key, failures, next_at, last_at) VALUES (new_key, 1, '-infinity', present)
  ON CONFLICT (key) DO UPDATE SET
    failures = greatest(0, c.failures - extract(epoch FROM present - c.last_at) / extract(epoch FROM forgiven)) + 1,
    last_at = present,
    next_at = CASE
      WHEN greatest(0, c.failures - extract(epoch FROM present - c.last_at) / extract(epoch FROM forgiven)) + 1 <= free THEN '-infinity'
      ELSE present + least(longest, interval '1 second' * power(2, least(30, c.failures + 1 - free))) END
  WHERE c.next_at <= present
  RETURNING true INTO held;
  RETURN coalesce(held, false);
END $$;
