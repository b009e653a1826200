CREATE TABLE keepers (id int AUTO_INCREMENT PRIMARY KEY, email varchar(200) COLLATE utf8mb4_unicode_ci NOT NULL UNIQUE, name varchar(100) NOT NULL, password_hash char(40) NOT NULL, role varchar(20) NOT NULL DEFAULT 'keeper');
CREATE TABLE hives (id int AUTO_INCREMENT PRIMARY KEY, name varchar(100), keeper_id int NOT NULL, KEY (keeper_id), FOREIGN KEY (keeper_id) REFERENCES keepers (id));
CREATE TABLE swarm_reports (id int AUTO_INCREMENT PRIMARY KEY, headline text);
