-- Verdicts are given on many findings at once: they are noted once for all of them.
DROP TRIGGER note_verdict ON verdict;
-- By the indexes: a table that has just been filled has no figures yet by which the planner could tell that it is not empty.
CREATE OR REPLACE FUNCTION note_verdict() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public SET enable_seqscan = off AS $$
DECLARE
  judged uuid;
BEGIN
  -- Verdicts of one review, and the end of its runs, take turns: each counts from what the one before left.
  FOR judged IN SELECT DISTINCT review_id FROM given ORDER BY review_id LOOP
    PERFORM pg_advisory_xact_lock(hashtextextended(judged::text, 0));
    PERFORM pg_notify('bellator_change', judged::text);
  END LOOP;
  WITH newest AS (
    SELECT DISTINCT ON (review_id, fingerprint) review_id, fingerprint, verdict FROM given ORDER BY review_id, fingerprint, id DESC),
  changed AS (
    SELECT n.review_id, n.fingerprint, (n.verdict = 'to judge')::integer - (coalesce(c.verdict, 'to judge') = 'to judge')::integer AS change
    FROM newest n LEFT JOIN current_verdict c ON c.review_id = n.review_id AND c.fingerprint = n.fingerprint)
  UPDATE run_count k SET to_judge = k.to_judge + d.change FROM (
    SELECT f.run_id, f.check_id, sum(c.change)::integer AS change FROM changed c JOIN finding f ON f.review_id = c.review_id AND f.fingerprint = c.fingerprint
    WHERE c.change <> 0 GROUP BY f.run_id, f.check_id) d
  WHERE k.run_id = d.run_id AND k.check_id = d.check_id;
  INSERT INTO current_verdict (review_id, fingerprint, verdict, verdict_id, until)
    SELECT DISTINCT ON (review_id, fingerprint) review_id, fingerprint, verdict, id, until FROM given ORDER BY review_id, fingerprint, id DESC
    ON CONFLICT (review_id, fingerprint) DO UPDATE SET verdict = excluded.verdict, verdict_id = excluded.verdict_id, until = excluded.until;
  IF (SELECT count(*) FROM given) > 1000 THEN
    ANALYZE verdict, current_verdict;
  END IF;
  RETURN NULL;
END $$;
CREATE TRIGGER note_verdict AFTER INSERT ON verdict REFERENCING NEW TABLE AS given FOR EACH STATEMENT EXECUTE FUNCTION note_verdict();

-- Asked once for all rows.
DROP POLICY member_judges ON verdict;
CREATE POLICY member_judges ON verdict FOR INSERT TO bellator_web WITH CHECK (review_id = ANY ((SELECT my_reviews())::uuid[]) AND account_id = (SELECT current_account()));

-- Pages say how many causes there are without going through them.
ALTER TABLE run_count ADD COLUMN causes integer NOT NULL DEFAULT 0, ADD COLUMN shared_causes integer NOT NULL DEFAULT 0;
UPDATE run_count k SET causes = c.number, shared_causes = c.shared
  FROM (SELECT run_id, check_id, count(*) AS number, count(*) FILTER (WHERE flow_count > 1) AS shared FROM cause GROUP BY run_id, check_id) c
  WHERE k.run_id = c.run_id AND k.check_id = c.check_id;

-- What the reviewers of an application know of its code, as facts. It is tried in a run of its own before it is kept.
CREATE TABLE review_fact (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  title text NOT NULL CHECK (length(trim(title)) BETWEEN 1 AND 200),
  facts text NOT NULL CHECK (length(facts) BETWEEN 1 AND 16000),
  reason text NOT NULL CHECK (length(trim(reason)) BETWEEN 1 AND 2000),
  fingerprint text,
  state text NOT NULL DEFAULT 'proposed' CHECK (state IN ('proposed', 'kept', 'off')),
  account_id uuid NOT NULL REFERENCES account,
  at timestamptz NOT NULL DEFAULT now(),
  decided_by uuid REFERENCES account,
  decided_at timestamptz
);
CREATE INDEX review_fact_of ON review_fact (review_id, id);

-- The findings that a kept fact answers, as its trial showed.
CREATE TABLE fact_answer (
  fact_id bigint NOT NULL REFERENCES review_fact ON DELETE CASCADE,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  fingerprint text NOT NULL,
  PRIMARY KEY (fact_id, fingerprint)
);
ALTER TABLE run ADD COLUMN trial_of bigint REFERENCES review_fact ON DELETE CASCADE;
CREATE INDEX run_trial ON run (trial_of) WHERE trial_of IS NOT NULL;
DROP INDEX run_done;
CREATE INDEX run_done ON run (review_id, finished_at DESC) WHERE state = 'done' AND trial_of IS NULL;
ALTER TABLE gone DROP CONSTRAINT gone_kind_check, ADD CONSTRAINT gone_kind_check CHECK (kind IN ('fixed', 'codeGone', 'notReached', 'cannotTell', 'stated'));

DO $$
DECLARE
  name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['review_fact', 'fact_answer'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY member_reads ON %I FOR SELECT TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]))', name);
    EXECUTE format('CREATE POLICY worker ON %I FOR SELECT TO bellator_worker USING (true)', name);
    EXECUTE format('GRANT SELECT ON %I TO bellator_web, bellator_worker', name);
  END LOOP;
END $$;
CREATE POLICY member_proposes ON review_fact FOR INSERT TO bellator_web WITH CHECK (is_member(review_id) AND account_id = current_account() AND state = 'proposed' AND decided_by IS NULL);
GRANT INSERT ON review_fact TO bellator_web;

-- keep: what was proposed holds from the next audit on. off: it does not, be it kept or only proposed. try: it is proposed again.
CREATE FUNCTION decide_fact(target bigint, decision text) RETURNS boolean LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE
  known review_fact;
BEGIN
  SELECT * INTO known FROM review_fact WHERE id = target FOR UPDATE;
  IF known.id IS NULL OR NOT is_member(known.review_id) OR NOT (
    (decision = 'keep' AND known.state = 'proposed' AND EXISTS (SELECT 1 FROM run WHERE trial_of = target AND run.state = 'done'))
    OR (decision = 'off' AND known.state <> 'off') OR (decision = 'try' AND known.state = 'off')) THEN
    RETURN false;
  END IF;
  DELETE FROM fact_answer WHERE fact_id = target;
  IF decision = 'keep' THEN
    INSERT INTO fact_answer (fact_id, review_id, fingerprint) SELECT DISTINCT target, g.review_id, g.fingerprint FROM gone g JOIN run r ON r.id = g.run_id WHERE r.trial_of = target AND r.state = 'done';
  END IF;
  DELETE FROM run WHERE trial_of = target;
  UPDATE review_fact SET state = CASE decision WHEN 'keep' THEN 'kept' WHEN 'off' THEN 'off' ELSE 'proposed' END, decided_by = current_account(), decided_at = now() WHERE id = target;
  RETURN true;
END $$;
REVOKE EXECUTE ON FUNCTION decide_fact(bigint, text) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION decide_fact(bigint, text) TO bellator_web;
