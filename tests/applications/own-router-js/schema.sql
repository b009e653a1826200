CREATE TABLE members (id serial PRIMARY KEY, email varchar(200) NOT NULL UNIQUE, name varchar(100) NOT NULL, password_hash char(64) NOT NULL, role varchar(20) NOT NULL DEFAULT 'member');
CREATE TABLE sessions (token_hash char(64) PRIMARY KEY, member_id int NOT NULL REFERENCES members, ends_at timestamptz NOT NULL);
CREATE TABLE hives (id serial PRIMARY KEY, name varchar(100), apiary varchar(100), keeper_id int NOT NULL REFERENCES members);
CREATE INDEX ON hives (keeper_id);
CREATE TABLE swarm_reports (id serial PRIMARY KEY, headline text);
