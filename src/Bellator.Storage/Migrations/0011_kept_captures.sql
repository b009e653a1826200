-- What was seen in captured traffic, as a reviewer asks to keep it with the review: without values, and sealed by the web application,
-- whose keys lie elsewhere. One at a time, and only for the review's members.
CREATE TABLE kept_capture (
  review_id uuid PRIMARY KEY REFERENCES review (id) ON DELETE CASCADE,
  sealed bytea NOT NULL CHECK (length(sealed) BETWEEN 1 AND 67108864),
  account_id uuid NOT NULL REFERENCES account (id),
  at timestamptz NOT NULL DEFAULT now()
);

ALTER TABLE kept_capture ENABLE ROW LEVEL SECURITY;
CREATE POLICY member ON kept_capture TO bellator_web USING (review_id = ANY ((SELECT my_reviews())::uuid[])) WITH CHECK (is_member(review_id) AND account_id = current_account());
GRANT SELECT, INSERT, UPDATE, DELETE ON kept_capture TO bellator_web;
