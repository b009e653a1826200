-- The causes of one area are listed in their order.
CREATE INDEX cause_area ON cause (run_id, area, number);

-- Row security asks for the reviews of the one who reads once for each table of a statement. A function in SQL is planned anew every time
-- it is asked; one in PL/pgSQL keeps its plan with the connection. It names the schema of all that it uses, for it runs with its owner's
-- rights and takes no search path from the one who asks.
CREATE OR REPLACE FUNCTION my_reviews() RETURNS uuid[] LANGUAGE plpgsql STABLE SECURITY DEFINER AS $$
BEGIN
  RETURN (
    SELECT coalesce(pg_catalog.array_agg(m.review_id), '{}'::pg_catalog.uuid[])
    FROM public.membership m
    WHERE m.account_id OPERATOR(pg_catalog.=) public.current_account());
END $$;
