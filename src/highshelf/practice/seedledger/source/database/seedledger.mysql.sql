CREATE DATABASE IF NOT EXISTS `seedledger` DEFAULT CHARACTER SET utf8mb4;
USE `seedledger`;
-- Seedledger 5.0.1, for MariaDB 10.5 and newer
CREATE TABLE ledger_keeper (id INT AUTO_INCREMENT PRIMARY KEY, login VARCHAR(80) NOT NULL UNIQUE, email VARCHAR(200) NOT NULL, secret VARCHAR(255) NOT NULL) ENGINE=InnoDB;
CREATE TABLE ledger_seed (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(160) NOT NULL, kind VARCHAR(80) NOT NULL, packets INT NOT NULL DEFAULT 0) ENGINE=InnoDB;
CREATE TABLE ledger_lending (id INT AUTO_INCREMENT PRIMARY KEY, seed_id INT NOT NULL, who VARCHAR(160) NOT NULL, out_on DATE NOT NULL, back_on DATE NULL, FOREIGN KEY (seed_id) REFERENCES ledger_seed (id)) ENGINE=InnoDB;
CREATE TABLE ledger_note (id INT AUTO_INCREMENT PRIMARY KEY, lending_id INT NOT NULL, words TEXT NOT NULL) ENGINE=InnoDB;
CREATE TABLE ledger_state (name VARCHAR(80) PRIMARY KEY, value TEXT NOT NULL) ENGINE=InnoDB;
INSERT INTO ledger_seed (name, kind, packets) VALUES ('Broad bean, Creek Giant', 'bean', 12), ('Sea kale', 'cabbage', 4), ('Marsh samphire', 'herb', 7);
INSERT INTO ledger_state (name, value) VALUES ('schema', '501');
