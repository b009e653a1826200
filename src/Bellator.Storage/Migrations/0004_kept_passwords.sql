-- A table of stored passwords that a reviewer asks to keep with the review; one at a time, and only for its members.
CREATE TABLE kept_passwords (
  review_id uuid PRIMARY KEY REFERENCES review (id) ON DELETE CASCADE,
  rows jsonb NOT NULL CHECK (jsonb_typeof(rows) = 'array'),
  account_id uuid NOT NULL REFERENCES account (id),
  at timestamptz NOT NULL DEFAULT now()
);

ALTER TABLE kept_passwords ENABLE ROW LEVEL SECURITY;
CREATE POLICY member ON kept_passwords TO bellator_web USING (is_member(review_id)) WITH CHECK (is_member(review_id) AND account_id = current_account());
GRANT SELECT, INSERT, UPDATE, DELETE ON kept_passwords TO bellator_web;
