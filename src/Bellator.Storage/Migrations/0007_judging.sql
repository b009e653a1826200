-- The trade's words for what a reviewer says of a finding.
ALTER TABLE verdict DROP CONSTRAINT verdict_verdict_check;
ALTER TABLE verdict DISABLE TRIGGER note_verdict;
UPDATE verdict SET verdict = CASE verdict WHEN 'upheld' THEN 'confirmed' WHEN 'rejected' THEN 'false positive' ELSE 'fixed' END WHERE verdict IN ('upheld', 'rejected', 'mended');
UPDATE current_verdict SET verdict = CASE verdict WHEN 'upheld' THEN 'confirmed' WHEN 'rejected' THEN 'false positive' ELSE 'fixed' END WHERE verdict IN ('upheld', 'rejected', 'mended');
ALTER TABLE verdict ENABLE TRIGGER note_verdict;
ALTER TABLE verdict ADD CONSTRAINT verdict_known CHECK (verdict IN ('to judge', 'confirmed', 'false positive', 'risk accepted', 'fixed'));

-- Several findings may be judged at once, and taken back at once. A risk is accepted until a day. What Bellator itself opens again has no account.
ALTER TABLE verdict ADD COLUMN batch uuid, ADD COLUMN until date, ADD COLUMN undoes bigint REFERENCES verdict, ALTER COLUMN account_id DROP NOT NULL;
CREATE INDEX verdict_batch ON verdict (batch) WHERE batch IS NOT NULL;
ALTER TABLE current_verdict ADD COLUMN verdict_id bigint, ADD COLUMN until date;
UPDATE current_verdict c SET verdict_id = (SELECT v.id FROM verdict v WHERE v.review_id = c.review_id AND v.fingerprint = c.fingerprint ORDER BY v.id DESC LIMIT 1);
CREATE INDEX current_verdict_until ON current_verdict (until) WHERE until IS NOT NULL;

CREATE OR REPLACE FUNCTION note_verdict() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE
  before text;
  change integer;
BEGIN
  -- Verdicts of one review, and the end of its runs, take turns: each counts from what the one before left.
  PERFORM pg_advisory_xact_lock(hashtextextended(NEW.review_id::text, 0));
  SELECT c.verdict INTO before FROM current_verdict c WHERE c.review_id = NEW.review_id AND c.fingerprint = NEW.fingerprint;
  INSERT INTO current_verdict (review_id, fingerprint, verdict, verdict_id, until) VALUES (NEW.review_id, NEW.fingerprint, NEW.verdict, NEW.id, NEW.until)
    ON CONFLICT (review_id, fingerprint) DO UPDATE SET verdict = NEW.verdict, verdict_id = NEW.id, until = NEW.until;
  change := (NEW.verdict = 'to judge')::integer - (coalesce(before, 'to judge') = 'to judge')::integer;
  IF change <> 0 THEN
    UPDATE run_count c SET to_judge = c.to_judge + change * f.number
    FROM (SELECT run_id, check_id, count(*)::integer AS number FROM finding WHERE review_id = NEW.review_id AND fingerprint = NEW.fingerprint GROUP BY run_id, check_id) f
    WHERE c.run_id = f.run_id AND c.check_id = f.check_id;
  END IF;
  PERFORM pg_notify('bellator_change', NEW.review_id::text);
  RETURN NEW;
END $$;

-- Accepted risks are open again when their day is over.
CREATE FUNCTION reopen_accepted() RETURNS void LANGUAGE sql SECURITY DEFINER SET search_path = public AS $$
  INSERT INTO verdict (review_id, fingerprint, verdict, reason)
  SELECT review_id, fingerprint, 'to judge', 'the risk was accepted until ' || to_char(until, 'FMDD Mon YYYY') FROM current_verdict
  WHERE verdict = 'risk accepted' AND until < current_date ORDER BY review_id, fingerprint
$$;

-- What a run was compared with, and what became of each finding.
ALTER TABLE run ADD COLUMN baseline_run uuid REFERENCES run ON DELETE SET NULL, ADD COLUMN parts jsonb;
ALTER TABLE finding ADD COLUMN state text CHECK (state IN ('new', 'still there', 'moved', 'changed', 'back')), ADD COLUMN state_reason text,
  -- Endpoints, numbers of weaknesses and statements, to be found by the search.
  ADD COLUMN search text NOT NULL DEFAULT '', ADD COLUMN ways integer NOT NULL DEFAULT 0, ADD COLUMN open_ways integer NOT NULL DEFAULT 0;
CREATE INDEX finding_state ON finding (run_id, state) WHERE state IN ('new', 'moved', 'changed', 'back');
CREATE TABLE gone (
  run_id uuid NOT NULL REFERENCES run ON DELETE CASCADE,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  fingerprint text NOT NULL,
  kind text NOT NULL CHECK (kind IN ('fixed', 'codeGone', 'notReached', 'cannotTell')),
  reason text NOT NULL,
  at_path text,
  at_line integer,
  check_id text NOT NULL,
  area text NOT NULL,
  score numeric NOT NULL,
  path text NOT NULL,
  line integer NOT NULL,
  message text NOT NULL,
  before_id bigint,
  detail jsonb NOT NULL,
  PRIMARY KEY (run_id, fingerprint)
);

-- A new finding that resembles several of before too much to choose: a person says which, or none.
CREATE TABLE match_question (
  run_id uuid NOT NULL REFERENCES run ON DELETE CASCADE,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  fingerprint text NOT NULL,
  candidate text NOT NULL,
  candidate_place text NOT NULL,
  PRIMARY KEY (run_id, fingerprint, candidate)
);

-- Causes are ranked by what a reviewer would open first, and say why.
ALTER TABLE cause ADD COLUMN kind text NOT NULL DEFAULT 'place', ADD COLUMN score numeric NOT NULL DEFAULT 0, ADD COLUMN certainty text NOT NULL DEFAULT 'matched',
  ADD COLUMN open_ways integer NOT NULL DEFAULT 0, ADD COLUMN entries text[] NOT NULL DEFAULT '{}', ADD COLUMN rank_reason text NOT NULL DEFAULT '';
UPDATE cause c SET (score, certainty) = (SELECT max(f.score), CASE WHEN bool_or(f.certainty = 'proved') THEN 'proved' WHEN bool_or(f.certainty = 'traced') THEN 'traced' ELSE 'matched' END FROM finding f WHERE f.run_id = c.run_id AND f.cause = c.number)
  WHERE EXISTS (SELECT 1 FROM finding f WHERE f.run_id = c.run_id AND f.cause = c.number);

CREATE TABLE finding_note (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  fingerprint text NOT NULL,
  text text NOT NULL CHECK (length(trim(text)) > 0 AND length(text) <= 8000),
  account_id uuid NOT NULL REFERENCES account,
  at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX finding_note_of ON finding_note (review_id, fingerprint, id);

CREATE TABLE assignment (
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  fingerprint text NOT NULL,
  account_id uuid NOT NULL REFERENCES account,
  by_account uuid NOT NULL REFERENCES account,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (review_id, fingerprint)
);

CREATE TABLE saved_filter (
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  name text NOT NULL CHECK (length(trim(name)) BETWEEN 1 AND 60),
  query text NOT NULL CHECK (length(query) <= 1000),
  account_id uuid NOT NULL REFERENCES account,
  PRIMARY KEY (review_id, name)
);

CREATE TABLE visit (
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  account_id uuid NOT NULL REFERENCES account ON DELETE CASCADE,
  since timestamptz NOT NULL,
  seen_at timestamptz NOT NULL,
  PRIMARY KEY (review_id, account_id)
);

CREATE TABLE requirement_judgement (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  standard text NOT NULL,
  number text NOT NULL,
  state text NOT NULL CHECK (state IN ('met', 'not met', 'not applicable', 'not judged', 'as found')),
  reason text NOT NULL CHECK (length(trim(reason)) BETWEEN 1 AND 2000),
  account_id uuid NOT NULL REFERENCES account,
  at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX requirement_judgement_of ON requirement_judgement (review_id, standard, number, id DESC);

-- A report is a draft until it is handed over; then it is kept as it was.
CREATE TABLE report_draft (
  review_id uuid PRIMARY KEY REFERENCES review ON DELETE CASCADE,
  settings jsonb NOT NULL,
  account_id uuid NOT NULL REFERENCES account,
  at timestamptz NOT NULL DEFAULT now()
);
CREATE TABLE report (
  id uuid PRIMARY KEY,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  number integer NOT NULL,
  snapshot_number integer NOT NULL,
  content jsonb NOT NULL,
  account_id uuid NOT NULL REFERENCES account,
  at timestamptz NOT NULL DEFAULT now(),
  UNIQUE (review_id, number)
);

DO $$
DECLARE
  name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['gone', 'match_question', 'finding_note', 'assignment', 'saved_filter', 'visit', 'requirement_judgement', 'report_draft', 'report'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY member_reads ON %I FOR SELECT TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]))', name);
    EXECUTE format('GRANT SELECT ON %I TO bellator_web', name);
  END LOOP;

  -- What a member writes bears the member's own name.
  FOREACH name IN ARRAY ARRAY['finding_note', 'saved_filter', 'visit', 'requirement_judgement', 'report_draft', 'report'] LOOP
    EXECUTE format('CREATE POLICY member_writes ON %I FOR INSERT TO bellator_web WITH CHECK (is_member(review_id) AND account_id = current_account())', name);
    EXECUTE format('GRANT INSERT ON %I TO bellator_web', name);
  END LOOP;
END $$;
CREATE POLICY member_changes ON assignment TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]))
  WITH CHECK (is_member(review_id) AND by_account = current_account() AND EXISTS (SELECT 1 FROM membership m WHERE m.review_id = assignment.review_id AND m.account_id = assignment.account_id));
CREATE POLICY member_removes ON saved_filter FOR DELETE TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY member_changes ON visit FOR UPDATE TO bellator_web USING (account_id = current_account()) WITH CHECK (is_member(review_id) AND account_id = current_account());
CREATE POLICY member_changes ON report_draft FOR UPDATE TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[])) WITH CHECK (is_member(review_id) AND account_id = current_account());
CREATE POLICY member_answers ON match_question FOR DELETE TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
GRANT INSERT, UPDATE, DELETE ON assignment TO bellator_web;
GRANT DELETE ON saved_filter, match_question TO bellator_web;
GRANT UPDATE ON visit, report_draft TO bellator_web;

-- A person's answer to such a question: the finding, and all that was said of it, goes by the name it was known by before.
CREATE FUNCTION same_finding(target_run uuid, new_fingerprint text, old_fingerprint text) RETURNS boolean LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE
  owner uuid;
BEGIN
  SELECT q.review_id INTO owner FROM match_question q WHERE q.run_id = target_run AND q.fingerprint = new_fingerprint AND q.candidate = old_fingerprint;
  IF owner IS NULL OR NOT is_member(owner) OR EXISTS (SELECT 1 FROM finding f WHERE f.run_id = target_run AND f.fingerprint = old_fingerprint) THEN
    RETURN false;
  END IF;
  PERFORM pg_advisory_xact_lock(hashtextextended(owner::text, 0));
  UPDATE finding SET fingerprint = old_fingerprint, state = 'changed', state_reason = 'a reviewer said that it is the same' WHERE run_id = target_run AND fingerprint = new_fingerprint;
  DELETE FROM gone WHERE run_id = target_run AND fingerprint = old_fingerprint;
  DELETE FROM match_question WHERE run_id = target_run AND (fingerprint = new_fingerprint OR candidate = old_fingerprint);
  UPDATE run_count c SET to_judge = n.to_judge FROM (
    SELECT f.check_id, count(*) FILTER (WHERE coalesce(v.verdict, 'to judge') = 'to judge')::integer AS to_judge
    FROM finding f LEFT JOIN current_verdict v ON v.review_id = f.review_id AND v.fingerprint = f.fingerprint WHERE f.run_id = target_run GROUP BY f.check_id) n
  WHERE c.run_id = target_run AND c.check_id = n.check_id;
  RETURN true;
END $$;
REVOKE EXECUTE ON FUNCTION same_finding(uuid, text, text), reopen_accepted() FROM PUBLIC;
GRANT EXECUTE ON FUNCTION same_finding(uuid, text, text) TO bellator_web;
GRANT EXECUTE ON FUNCTION reopen_accepted() TO bellator_worker;

CREATE POLICY worker ON gone TO bellator_worker USING (true);
CREATE POLICY worker ON match_question TO bellator_worker USING (true);
CREATE POLICY worker ON verdict TO bellator_worker USING (true) WITH CHECK (account_id IS NULL);
GRANT SELECT, INSERT, DELETE ON gone, match_question TO bellator_worker;
GRANT SELECT, INSERT ON verdict TO bellator_worker;
CREATE POLICY worker ON left_out FOR SELECT TO bellator_worker USING (true);
GRANT SELECT ON left_out TO bellator_worker;
