CREATE TABLE boathouses (id INT PRIMARY KEY AUTO_INCREMENT, code CHAR(2) NOT NULL UNIQUE, title VARCHAR(30) NOT NULL) CHARACTER SET utf8mb4;
CREATE TABLE boathouse_facts (id INT PRIMARY KEY AUTO_INCREMENT, code CHAR(2) NOT NULL, name VARCHAR(10) NOT NULL, value VARCHAR(40) NOT NULL) CHARACTER SET utf8mb4;
INSERT INTO boathouses (code, title) VALUES ('b1', 'Old shed'), ('b2', 'New shed'), ('b3', 'Far shed');
INSERT INTO boathouse_facts (code, name, value) VALUES ('b1', 'harbour', 'North'), ('b1', 'keeper', 'Ada'), ('b2', 'keeper', 'Ben'), ('b2', 'harbour', 'South'), ('b3', 'keeper', 'Cai')
