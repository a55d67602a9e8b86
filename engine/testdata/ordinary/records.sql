CREATE TABLE keepers (id INT AUTO_INCREMENT PRIMARY KEY, login VARCHAR(20) NOT NULL) CHARACTER SET utf8mb4;
CREATE TABLE hives (id INT AUTO_INCREMENT PRIMARY KEY, keeper INT NOT NULL, name VARCHAR(20) NOT NULL, kind VARCHAR(10) NOT NULL, frames INT NOT NULL, closed BOOLEAN NOT NULL, version INT NOT NULL) CHARACTER SET utf8mb4;
INSERT INTO keepers (login) VALUES ('mara'), ('odo');
INSERT INTO hives (keeper, name, kind, frames, closed, version) VALUES (1, 'Lime tree', 'wood', 8, 0, 1), (2, 'Clover', 'wood', 8, 0, 1), (1, 'Old mill', 'straw', 4, 1, 1);
