CREATE TABLE keepers (
    id integer PRIMARY KEY,
    email text NOT NULL UNIQUE,
    name text NOT NULL,
    password text NOT NULL
);

CREATE TABLE hives (
    id integer PRIMARY KEY,
    keeper_id integer NOT NULL REFERENCES keepers (id),
    name text NOT NULL,
    frames integer NOT NULL DEFAULT 10
);
