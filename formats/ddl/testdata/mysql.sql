-- MySQL dump 10.13
CREATE TABLE `harvests` (
  `id` bigint unsigned NOT NULL AUTO_INCREMENT,
  `crop` varchar(12) COLLATE utf8mb4_0900_ai_ci NOT NULL,
  `kilos` decimal(6,3) NOT NULL,
  `picked` date NOT NULL,
  `details` json DEFAULT NULL,
  `seen` timestamp NULL DEFAULT NULL,
  `flag` bit(1) NOT NULL DEFAULT b'0',
  `kilos_rounded` int GENERATED ALWAYS AS (round(`kilos`)) VIRTUAL,
  PRIMARY KEY (`id`),
  CONSTRAINT `harvests_chk_1` CHECK ((`kilos` > 0)) /*!80016 NOT ENFORCED */
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_0900_ai_ci;
ALTER TABLE `harvests` ADD UNIQUE KEY `once` (`crop`,`picked`), MODIFY COLUMN `crop` varchar(14) NOT NULL;
