CREATE TABLE skippers (number INT PRIMARY KEY, handle VARCHAR(16) NOT NULL UNIQUE, boat VARCHAR(40) NOT NULL, sail CHAR(1) NOT NULL, last_login DATETIME(3), visits INT NOT NULL DEFAULT 0) CHARACTER SET utf8mb4;
CREATE TABLE sessions (skipper INT PRIMARY KEY, token CHAR(36) NOT NULL);
INSERT INTO skippers (number, handle, boat, sail) VALUES (1, 'mara', 'Tern', 'l'), (2, 'tove', 'Skua', 'g')
