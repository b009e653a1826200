-- The register's tables, as both parts use them.
CREATE TABLE districts (
  name varchar(60) PRIMARY KEY
);

CREATE TABLE members (
  id serial PRIMARY KEY,
  name varchar(120) NOT NULL,
  email varchar(160) NOT NULL,
  phone varchar(40),
  district varchar(60) REFERENCES districts (name),
  role varchar(20) NOT NULL DEFAULT 'member',
  password varchar(64) NOT NULL,
  CONSTRAINT members_email UNIQUE (email)
);

CREATE TABLE apiaries (
  id serial PRIMARY KEY,
  name varchar(80) NOT NULL,
  district varchar(60) NOT NULL,
  latitude numeric(9, 6),
  longitude numeric(9, 6)
);

CREATE TABLE hives (
  id serial PRIMARY KEY,
  name varchar(80) NOT NULL,
  apiary_id integer REFERENCES apiaries (id),
  queen_year integer,
  keeper_id integer REFERENCES members (id)
);

CREATE TABLE inspections (
  id serial PRIMARY KEY,
  hive_id integer NOT NULL REFERENCES hives (id),
  seen_on date NOT NULL DEFAULT CURRENT_DATE,
  state varchar(20),
  mites integer,
  note text
);

CREATE TABLE treatments (
  id serial PRIMARY KEY,
  hive_id integer NOT NULL REFERENCES hives (id),
  given_on date NOT NULL,
  season integer NOT NULL,
  product varchar(80) NOT NULL,
  lot varchar(40)
);

CREATE TABLE yields (
  id serial PRIMARY KEY,
  hive_id integer NOT NULL REFERENCES hives (id),
  keeper_id integer NOT NULL REFERENCES members (id),
  district varchar(60),
  season varchar(9) NOT NULL,
  kg numeric(7, 2) NOT NULL
);

CREATE TABLE swarm_reports (
  id serial PRIMARY KEY,
  place varchar(120) NOT NULL,
  seen_on date NOT NULL DEFAULT CURRENT_DATE,
  status varchar(20) NOT NULL DEFAULT 'open',
  note text
);

CREATE TABLE resets (
  id serial PRIMARY KEY,
  member_id integer NOT NULL REFERENCES members (id),
  token_hash char(64) NOT NULL,
  ends_at timestamp NOT NULL
);

CREATE TABLE devices (
  id serial PRIMARY KEY,
  member_id integer NOT NULL REFERENCES members (id),
  email varchar(160) NOT NULL,
  digest char(64) NOT NULL
);
