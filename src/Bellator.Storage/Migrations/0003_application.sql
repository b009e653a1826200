-- What an audit found the application to be, and where a reviewer knows better what a column holds.
ALTER TABLE run ADD COLUMN application jsonb;

CREATE TABLE column_meaning (
  review_id uuid NOT NULL REFERENCES review (id) ON DELETE CASCADE,
  table_name text NOT NULL CHECK (length(table_name) BETWEEN 1 AND 200),
  column_name text NOT NULL CHECK (length(column_name) BETWEEN 1 AND 200),
  meaning text NOT NULL CHECK (length(meaning) <= 40),
  account_id uuid NOT NULL REFERENCES account (id),
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (review_id, table_name, column_name)
);

ALTER TABLE column_meaning ENABLE ROW LEVEL SECURITY;
CREATE POLICY member ON column_meaning TO bellator_web USING (is_member(review_id)) WITH CHECK (is_member(review_id) AND account_id = current_account());
CREATE POLICY worker ON column_meaning FOR SELECT TO bellator_worker USING (true);
GRANT SELECT, INSERT, UPDATE, DELETE ON column_meaning TO bellator_web;
GRANT SELECT ON column_meaning TO bellator_worker;
