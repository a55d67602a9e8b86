CREATE TABLE skippers (club VARCHAR(10) NOT NULL, handle VARCHAR(16) NOT NULL, number INT NOT NULL UNIQUE, last_login DATETIME(3), visits INT NOT NULL DEFAULT 0, PRIMARY KEY (club, handle)) CHARACTER SET utf8mb4;
CREATE TABLE sessions (skipper INT PRIMARY KEY, token CHAR(36) NOT NULL);
INSERT INTO skippers (club, handle, number) VALUES ('north', 'mara', 1), ('north', 'tove', 2), ('south', 'ilse', 3)
