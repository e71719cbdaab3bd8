CREATE DATABASE seedledger ENCODING 'UTF8';
\connect seedledger
-- Seedledger 5.0.1, for PostgreSQL 13 and newer
CREATE TABLE ledger_keeper (id SERIAL PRIMARY KEY, login VARCHAR(80) NOT NULL UNIQUE, email VARCHAR(200) NOT NULL, secret VARCHAR(255) NOT NULL);
CREATE TABLE ledger_seed (id SERIAL PRIMARY KEY, name VARCHAR(160) NOT NULL, kind VARCHAR(80) NOT NULL, packets INT NOT NULL DEFAULT 0);
CREATE TABLE ledger_lending (id SERIAL PRIMARY KEY, seed_id INT NOT NULL REFERENCES ledger_seed (id), who VARCHAR(160) NOT NULL, out_on DATE NOT NULL, back_on DATE NULL);
CREATE TABLE ledger_note (id SERIAL PRIMARY KEY, lending_id INT NOT NULL, words TEXT NOT NULL);
CREATE TABLE ledger_state (name VARCHAR(80) PRIMARY KEY, value TEXT NOT NULL);
INSERT INTO ledger_seed (name, kind, packets) VALUES ('Broad bean, Creek Giant', 'bean', 12), ('Sea kale', 'cabbage', 4), ('Marsh samphire', 'herb', 7);
INSERT INTO ledger_state (name, value) VALUES ('schema', '501');
