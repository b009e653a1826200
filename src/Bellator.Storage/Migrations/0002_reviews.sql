-- Reviews and all that belongs to them. Every table has row security: the web role sees the rows of reviews whose member the
-- current account is, so that a forgotten condition in the program shows nothing.
CREATE TABLE review (
  id uuid PRIMARY KEY,
  name text NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
  created_by uuid NOT NULL REFERENCES account,
  created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE membership (
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  account_id uuid NOT NULL REFERENCES account ON DELETE CASCADE,
  is_owner boolean NOT NULL DEFAULT false,
  added_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (review_id, account_id)
);
CREATE INDEX membership_account ON membership (account_id);

CREATE TABLE snapshot (
  id uuid PRIMARY KEY,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  number integer NOT NULL,
  name text NOT NULL,
  created_at timestamptz NOT NULL DEFAULT now(),
  file_count integer NOT NULL,
  line_count bigint NOT NULL,
  UNIQUE (review_id, number)
);

-- Files are stored once, by the hash of their content.
CREATE TABLE blob (
  hash bytea PRIMARY KEY,
  content bytea NOT NULL
);

CREATE TABLE snapshot_file (
  snapshot_id uuid NOT NULL REFERENCES snapshot ON DELETE CASCADE,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  path text NOT NULL,
  hash bytea REFERENCES blob,
  line_count integer NOT NULL DEFAULT 0,
  skip_reason text,
  PRIMARY KEY (snapshot_id, path)
);
CREATE INDEX snapshot_file_hash ON snapshot_file (hash);
CREATE INDEX snapshot_file_review ON snapshot_file (review_id);

CREATE TABLE run (
  id uuid PRIMARY KEY,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  snapshot_id uuid NOT NULL REFERENCES snapshot ON DELETE CASCADE,
  state text NOT NULL CHECK (state IN ('queued', 'running', 'done', 'failed', 'cancelled', 'interrupted')),
  stage text NOT NULL DEFAULT 'queued',
  share real NOT NULL DEFAULT 0,
  files_done integer NOT NULL DEFAULT 0,
  files_total integer NOT NULL DEFAULT 0,
  finding_count integer NOT NULL DEFAULT 0,
  cancel_requested boolean NOT NULL DEFAULT false,
  attempts integer NOT NULL DEFAULT 0,
  error text,
  created_at timestamptz NOT NULL DEFAULT now(),
  started_at timestamptz,
  heartbeat_at timestamptz,
  finished_at timestamptz,
  figures jsonb
);
CREATE INDEX run_review ON run (review_id, created_at DESC);

CREATE TABLE finding (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  run_id uuid NOT NULL REFERENCES run ON DELETE CASCADE,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  position integer NOT NULL,
  fingerprint text NOT NULL,
  check_id text NOT NULL,
  area text NOT NULL,
  certainty text NOT NULL,
  score numeric(3, 1) NOT NULL,
  path text NOT NULL,
  line integer NOT NULL,
  message text NOT NULL,
  detail jsonb NOT NULL,
  UNIQUE (run_id, position)
);
CREATE INDEX finding_review ON finding (review_id);

-- Judgements follow the fingerprint, so they hold for later snapshots too. Nothing is overwritten: the newest counts.
CREATE TABLE verdict (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  fingerprint text NOT NULL,
  verdict text NOT NULL CHECK (verdict IN ('to judge', 'upheld', 'rejected', 'risk accepted', 'mended')),
  reason text NOT NULL CHECK (length(trim(reason)) > 0),
  account_id uuid NOT NULL REFERENCES account,
  at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX verdict_fingerprint ON verdict (review_id, fingerprint, id DESC);

-- Who is asking: set for each transaction by the program. Unset means nobody, and nobody sees nothing.
CREATE FUNCTION current_account() RETURNS uuid LANGUAGE sql STABLE AS
  $$ SELECT nullif(current_setting('bellator.account', true), '')::uuid $$;

-- Looks past the row security of membership, which would otherwise ask itself.
CREATE FUNCTION is_member(review uuid) RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
  $$ SELECT EXISTS (SELECT 1 FROM membership m WHERE m.review_id = review AND m.account_id = current_account()) $$;
CREATE FUNCTION is_owner(review uuid) RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
  $$ SELECT EXISTS (SELECT 1 FROM membership m WHERE m.review_id = review AND m.account_id = current_account() AND m.is_owner) $$;

-- Makes a review and its first member in one step: before it there is no membership that row security could see.
CREATE FUNCTION create_review(new_id uuid, new_name text) RETURNS void LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  IF current_account() IS NULL THEN
    RAISE EXCEPTION 'nobody is signed in';
  END IF;
  INSERT INTO review (id, name, created_by) VALUES (new_id, new_name, current_account());
  INSERT INTO membership (review_id, account_id, is_owner) VALUES (new_id, current_account(), true);
END $$;

-- Stores a file without telling whether somebody else had it already.
CREATE FUNCTION store_blob(new_hash bytea, new_content bytea) RETURNS void LANGUAGE sql SECURITY DEFINER SET search_path = public AS
  $$ INSERT INTO blob (hash, content) VALUES (new_hash, new_content) ON CONFLICT DO NOTHING $$;

ALTER TABLE review ENABLE ROW LEVEL SECURITY;
ALTER TABLE membership ENABLE ROW LEVEL SECURITY;
ALTER TABLE snapshot ENABLE ROW LEVEL SECURITY;
ALTER TABLE snapshot_file ENABLE ROW LEVEL SECURITY;
ALTER TABLE blob ENABLE ROW LEVEL SECURITY;
ALTER TABLE run ENABLE ROW LEVEL SECURITY;
ALTER TABLE finding ENABLE ROW LEVEL SECURITY;
ALTER TABLE verdict ENABLE ROW LEVEL SECURITY;

CREATE POLICY member ON review TO bellator_web USING (is_member(id));
CREATE POLICY member_reads ON membership FOR SELECT TO bellator_web USING (is_member(review_id));
CREATE POLICY owner_adds ON membership FOR INSERT TO bellator_web WITH CHECK (is_owner(review_id) AND NOT is_owner);
CREATE POLICY owner_removes ON membership FOR DELETE TO bellator_web USING (is_owner(review_id) AND NOT is_owner);
CREATE POLICY member ON snapshot TO bellator_web USING (is_member(review_id));
CREATE POLICY member ON snapshot_file TO bellator_web USING (is_member(review_id));
CREATE POLICY member ON blob FOR SELECT TO bellator_web
  USING (EXISTS (SELECT 1 FROM snapshot_file f WHERE f.hash = blob.hash AND is_member(f.review_id)));
CREATE POLICY member ON run TO bellator_web USING (is_member(review_id));
CREATE POLICY member ON finding FOR SELECT TO bellator_web USING (is_member(review_id));
CREATE POLICY member_reads ON verdict FOR SELECT TO bellator_web USING (is_member(review_id));
CREATE POLICY member_judges ON verdict FOR INSERT TO bellator_web WITH CHECK (is_member(review_id) AND account_id = current_account());

-- Audits run for everybody's reviews, but can only read material and write results.
CREATE POLICY worker ON snapshot FOR SELECT TO bellator_worker USING (true);
CREATE POLICY worker ON snapshot_file FOR SELECT TO bellator_worker USING (true);
CREATE POLICY worker ON blob FOR SELECT TO bellator_worker USING (true);
CREATE POLICY worker ON run TO bellator_worker USING (true);
CREATE POLICY worker ON finding TO bellator_worker USING (true);

GRANT SELECT, UPDATE, DELETE ON review TO bellator_web;
GRANT SELECT, INSERT, DELETE ON membership TO bellator_web;
GRANT SELECT, INSERT, UPDATE, DELETE ON snapshot TO bellator_web;
GRANT SELECT, INSERT ON snapshot_file TO bellator_web;
GRANT SELECT ON blob TO bellator_web;
GRANT SELECT, INSERT, UPDATE ON run TO bellator_web;
GRANT SELECT ON finding TO bellator_web;
GRANT SELECT, INSERT ON verdict TO bellator_web;
REVOKE EXECUTE ON FUNCTION create_review(uuid, text), store_blob(bytea, bytea) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION create_review(uuid, text), store_blob(bytea, bytea) TO bellator_web;
GRANT SELECT ON snapshot, snapshot_file, blob TO bellator_worker;
GRANT SELECT, UPDATE ON run TO bellator_worker;
GRANT SELECT, INSERT, DELETE ON finding TO bellator_worker;
