-- Row security that the planner can use: the reviews of whoever asks are looked up once for a statement, not once for a row.
CREATE FUNCTION my_reviews() RETURNS uuid[] LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
  $$ SELECT coalesce(array_agg(m.review_id), '{}') FROM membership m WHERE m.account_id = current_account() $$;

DROP POLICY member ON review;
DROP POLICY member_reads ON membership;
DROP POLICY member ON snapshot;
DROP POLICY member ON snapshot_file;
DROP POLICY member ON blob;
DROP POLICY member ON run;
DROP POLICY member ON finding;
DROP POLICY member_reads ON verdict;
DROP POLICY member ON column_meaning;
DROP POLICY member ON kept_passwords;
CREATE POLICY member ON review TO bellator_web USING (id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY member_reads ON membership FOR SELECT TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY member ON snapshot TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY member ON snapshot_file TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY member ON blob FOR SELECT TO bellator_web
  USING (EXISTS (SELECT 1 FROM snapshot_file f WHERE f.hash = blob.hash AND f.review_id = ANY ((SELECT my_reviews())::uuid[])));
CREATE POLICY member ON run TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY member ON finding FOR SELECT TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY member_reads ON verdict FOR SELECT TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY member ON column_meaning TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[])) WITH CHECK (is_member(review_id) AND account_id = current_account());
CREATE POLICY member ON kept_passwords TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[])) WITH CHECK (is_member(review_id) AND account_id = current_account());

-- The newest verdict of each fingerprint, and how many findings of a run are still to judge: lists and counts need not go through the
-- history. A trigger keeps both, so that no writer can forget to.
CREATE TABLE current_verdict (
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  fingerprint text NOT NULL,
  verdict text NOT NULL,
  PRIMARY KEY (review_id, fingerprint)
);
INSERT INTO current_verdict SELECT DISTINCT ON (review_id, fingerprint) review_id, fingerprint, verdict FROM verdict ORDER BY review_id, fingerprint, id DESC;

CREATE TABLE run_count (
  run_id uuid NOT NULL REFERENCES run ON DELETE CASCADE,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  area text NOT NULL,
  check_id text NOT NULL,
  total integer NOT NULL,
  to_judge integer NOT NULL,
  PRIMARY KEY (run_id, check_id)
);
INSERT INTO run_count
  SELECT f.run_id, f.review_id, f.area, f.check_id, count(*), count(*) FILTER (WHERE coalesce(c.verdict, 'to judge') = 'to judge')
  FROM finding f LEFT JOIN current_verdict c ON c.review_id = f.review_id AND c.fingerprint = f.fingerprint
  GROUP BY f.run_id, f.review_id, f.area, f.check_id;

CREATE INDEX finding_fingerprint ON finding (review_id, fingerprint);
CREATE INDEX finding_check ON finding (run_id, check_id, position);
CREATE INDEX finding_area ON finding (run_id, area, position);

-- It only says what finding_fingerprint says too, and led the planner astray: every finding of a run is one of its review.
DROP INDEX finding_review;
CREATE INDEX run_done ON run (review_id, finished_at DESC) WHERE state = 'done';

-- A cause: findings of one weakness that end at one place. Put together when the run ends, so that a page reads only those it shows.
ALTER TABLE finding ADD COLUMN cause integer, ADD COLUMN source_path text, ADD COLUMN source_line integer;
CREATE TABLE cause (
  run_id uuid NOT NULL REFERENCES run ON DELETE CASCADE,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  number integer NOT NULL,
  check_id text NOT NULL,
  area text NOT NULL,
  sink_path text NOT NULL,
  sink_line integer NOT NULL,
  cut_path text NOT NULL,
  cut_line integer NOT NULL,
  cut_count integer NOT NULL,
  flow_count integer NOT NULL,
  PRIMARY KEY (run_id, number)
);
-- Causes of runs that are over, as the next ones get them.
UPDATE finding SET
  source_path = coalesce(detail #>> '{Steps,0,Path}', path), source_line = coalesce((detail #>> '{Steps,0,Region,StartLine}')::integer, line);
CREATE TEMPORARY TABLE flow ON COMMIT DROP AS
  SELECT id, run_id, review_id, check_id, area, score, path, line,
    coalesce(detail #>> '{Steps,-1,Path}', path) AS sink_path, coalesce((detail #>> '{Steps,-1,Region,StartLine}')::integer, line) AS sink_line
  FROM finding;
INSERT INTO cause (run_id, review_id, number, check_id, area, sink_path, sink_line, cut_path, cut_line, cut_count, flow_count)
  SELECT run_id, review_id, (row_number() OVER (PARTITION BY run_id ORDER BY score DESC, flow_count DESC, sink_path COLLATE "C", sink_line, check_id))::integer,
    check_id, area, sink_path, sink_line, path, line, cut_count, flow_count
  FROM (
    SELECT run_id, review_id, check_id, area, sink_path, sink_line, path, line, count(*)::integer AS cut_count,
      (sum(count(*)) OVER w)::integer AS flow_count, max(max(score)) OVER w AS score,
      row_number() OVER (PARTITION BY run_id, check_id, sink_path, sink_line ORDER BY count(*) DESC, path COLLATE "C", line) AS rank
    FROM flow GROUP BY run_id, review_id, check_id, area, sink_path, sink_line, path, line
    WINDOW w AS (PARTITION BY run_id, check_id, sink_path, sink_line)) x
  WHERE rank = 1;
UPDATE finding f SET cause = c.number FROM flow w JOIN cause c ON c.run_id = w.run_id AND c.check_id = w.check_id AND c.sink_path = w.sink_path AND c.sink_line = w.sink_line WHERE f.id = w.id;
CREATE INDEX finding_cause ON finding (run_id, cause, position);

CREATE FUNCTION note_verdict() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE
  before text;
  change integer;
BEGIN
  -- Verdicts of one review, and the end of its runs, take turns: each counts from what the one before left.
  PERFORM pg_advisory_xact_lock(hashtextextended(NEW.review_id::text, 0));
  SELECT c.verdict INTO before FROM current_verdict c WHERE c.review_id = NEW.review_id AND c.fingerprint = NEW.fingerprint;
  INSERT INTO current_verdict (review_id, fingerprint, verdict) VALUES (NEW.review_id, NEW.fingerprint, NEW.verdict)
    ON CONFLICT (review_id, fingerprint) DO UPDATE SET verdict = NEW.verdict;
  change := (NEW.verdict = 'to judge')::integer - (coalesce(before, 'to judge') = 'to judge')::integer;
  IF change <> 0 THEN
    UPDATE run_count c SET to_judge = c.to_judge + change * f.number
    FROM (SELECT run_id, check_id, count(*)::integer AS number FROM finding WHERE review_id = NEW.review_id AND fingerprint = NEW.fingerprint GROUP BY run_id, check_id) f
    WHERE c.run_id = f.run_id AND c.check_id = f.check_id;
  END IF;
  RETURN NEW;
END $$;
CREATE TRIGGER note_verdict AFTER INSERT ON verdict FOR EACH ROW EXECUTE FUNCTION note_verdict();

-- A snapshot gets its number when all of it is there; how much was left out is counted, however much of it is listed.
ALTER TABLE snapshot ALTER COLUMN number DROP NOT NULL;
ALTER TABLE snapshot ADD COLUMN byte_count bigint NOT NULL DEFAULT 0, ADD COLUMN left_out_count integer NOT NULL DEFAULT 0;
CREATE TABLE left_out (
  snapshot_id uuid NOT NULL REFERENCES snapshot ON DELETE CASCADE,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  position integer NOT NULL,
  path text NOT NULL,
  reason text NOT NULL,
  PRIMARY KEY (snapshot_id, position)
);
INSERT INTO left_out SELECT snapshot_id, review_id, (row_number() OVER (PARTITION BY snapshot_id ORDER BY path COLLATE "C"))::integer, path, skip_reason FROM snapshot_file WHERE hash IS NULL;
UPDATE snapshot s SET left_out_count = (SELECT count(*) FROM left_out l WHERE l.snapshot_id = s.id),
  byte_count = (SELECT coalesce(sum(length(b.content)), 0) FROM snapshot_file f JOIN blob b ON b.hash = f.hash WHERE f.snapshot_id = s.id);
DELETE FROM snapshot_file WHERE hash IS NULL;
ALTER TABLE snapshot_file DROP COLUMN skip_reason, ALTER COLUMN hash SET NOT NULL;
ALTER TABLE snapshot_file ALTER COLUMN path TYPE text COLLATE "C";

-- Material on its way in: taken apart by the process that got it, watched and cancelled like a run.
CREATE TABLE intake (
  id uuid PRIMARY KEY,
  review_id uuid NOT NULL REFERENCES review ON DELETE CASCADE,
  snapshot_id uuid NOT NULL,
  account_id uuid NOT NULL REFERENCES account,
  name text NOT NULL,
  state text NOT NULL CHECK (state IN ('reading', 'done', 'refused', 'cancelled', 'interrupted')),
  files_done integer NOT NULL DEFAULT 0,
  bytes_done bigint NOT NULL DEFAULT 0,
  message text,
  cancel_requested boolean NOT NULL DEFAULT false,
  created_at timestamptz NOT NULL DEFAULT now(),
  heartbeat_at timestamptz NOT NULL DEFAULT now(),
  finished_at timestamptz
);
CREATE INDEX intake_review ON intake (review_id, created_at DESC);

-- Takes files in, many at a time, without telling whether somebody else had one already. The digest is computed here.
DROP FUNCTION store_blob(bytea, bytea);
CREATE FUNCTION store_files(target uuid, paths text[], contents bytea[], lines integer[]) RETURNS void LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE
  owner uuid;
BEGIN
  SELECT review_id INTO owner FROM snapshot WHERE id = target AND number IS NULL;
  IF owner IS NULL OR NOT is_member(owner) THEN
    RAISE EXCEPTION 'no such snapshot' USING ERRCODE = 'insufficient_privilege';
  END IF;
  INSERT INTO blob (hash, content) SELECT DISTINCT ON (h) h, c FROM (SELECT sha256(c) AS h, c FROM unnest(contents) AS u (c)) x ORDER BY h ON CONFLICT DO NOTHING;
  INSERT INTO snapshot_file (snapshot_id, review_id, path, hash, line_count) SELECT target, owner, p, sha256(c), l FROM unnest(paths, contents, lines) AS u (p, c, l);
END $$;

-- Takes back a snapshot that never became whole, and what only it had.
CREATE FUNCTION forget_snapshot(target uuid) RETURNS void LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE
  hashes bytea[];
BEGIN
  SELECT array_agg(DISTINCT hash) INTO hashes FROM snapshot_file WHERE snapshot_id = target;
  DELETE FROM snapshot WHERE id = target AND number IS NULL;
  IF FOUND THEN
    DELETE FROM blob b WHERE b.hash = ANY (hashes) AND NOT EXISTS (SELECT 1 FROM snapshot_file f WHERE f.hash = b.hash);
  END IF;
END $$;
REVOKE EXECUTE ON FUNCTION store_files(uuid, text[], bytea[], integer[]), forget_snapshot(uuid) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION store_files(uuid, text[], bytea[], integer[]) TO bellator_web;
GRANT EXECUTE ON FUNCTION forget_snapshot(uuid) TO bellator_web, bellator_worker;
REVOKE INSERT ON snapshot_file FROM bellator_web;

-- Who carries a run out: what a process writes that lost it to another one counts for nothing.
ALTER TABLE run ADD COLUMN claim uuid, ADD COLUMN queued_at timestamptz NOT NULL DEFAULT now(), ADD COLUMN left_out text[] NOT NULL DEFAULT '{}';
CREATE INDEX run_open ON run (state) WHERE state IN ('queued', 'running');
CREATE INDEX intake_open ON intake (state) WHERE state = 'reading';

-- Whoever watches a run or an intake is told, and need not ask.
CREATE FUNCTION tell_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM pg_notify('bellator_change', NEW.id::text);
  RETURN NULL;
END $$;
CREATE TRIGGER tell_change AFTER INSERT OR UPDATE ON run FOR EACH ROW EXECUTE FUNCTION tell_change();
CREATE TRIGGER tell_change AFTER INSERT OR UPDATE ON intake FOR EACH ROW EXECUTE FUNCTION tell_change();

ALTER TABLE current_verdict ENABLE ROW LEVEL SECURITY;
ALTER TABLE run_count ENABLE ROW LEVEL SECURITY;
ALTER TABLE cause ENABLE ROW LEVEL SECURITY;
ALTER TABLE left_out ENABLE ROW LEVEL SECURITY;
ALTER TABLE intake ENABLE ROW LEVEL SECURITY;
CREATE POLICY member ON current_verdict FOR SELECT TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY member ON run_count FOR SELECT TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY member ON cause FOR SELECT TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY member ON left_out TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY member ON intake TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[]));
CREATE POLICY worker ON current_verdict FOR SELECT TO bellator_worker USING (true);
CREATE POLICY worker ON run_count TO bellator_worker USING (true);
CREATE POLICY worker ON cause TO bellator_worker USING (true);
CREATE POLICY worker ON intake TO bellator_worker USING (true);
GRANT SELECT ON current_verdict, run_count, cause TO bellator_web;
GRANT SELECT, INSERT ON left_out TO bellator_web;
GRANT SELECT, INSERT, UPDATE ON intake TO bellator_web;
GRANT SELECT ON current_verdict TO bellator_worker;
GRANT SELECT, INSERT, DELETE ON run_count, cause TO bellator_worker;
GRANT SELECT, UPDATE ON intake TO bellator_worker;
