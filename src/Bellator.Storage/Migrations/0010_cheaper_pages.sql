-- The causes of one area are listed in their order.
CREATE INDEX cause_area ON cause (run_id, area, number);

-- Row security asks for the reviews of the one who reads once for each table of a statement. A function in SQL is planned anew every time
-- it is asked; one in PL/pgSQL keeps its plan with the connection.
CREATE OR REPLACE FUNCTION my_reviews() RETURNS uuid[] LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = public AS $$
BEGIN
  RETURN (SELECT coalesce(array_agg(m.review_id), '{}') FROM membership m WHERE m.account_id = current_account());
END $$;
