CREATE TABLE skippers (number INT PRIMARY KEY, handle VARCHAR(16) NOT NULL UNIQUE, last_login DATETIME(3), visits INT NOT NULL DEFAULT 0) CHARACTER SET utf8mb4;
CREATE TABLE sessions (skipper INT PRIMARY KEY, token CHAR(36) NOT NULL);
CREATE TABLE crew (id INT PRIMARY KEY, tag VARCHAR(16) NOT NULL UNIQUE, berth VARCHAR(40) NOT NULL) CHARACTER SET utf8mb4;
INSERT INTO skippers (number, handle) VALUES (1, 'mara');
INSERT INTO crew VALUES (1, 'k7', 'port 4'), (2, 'j2', 'bow 1')
