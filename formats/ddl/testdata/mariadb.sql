-- MariaDB dump 10.19  Distrib 10.11
/*!40101 SET NAMES utf8mb4 */;
/*M!999999\- enable the sandbox mode */;
DROP TABLE IF EXISTS `plot_holders`;
CREATE TABLE `plot_holders` (
  `id` int(10) unsigned NOT NULL AUTO_INCREMENT COMMENT 'never reused; (ever)',
  `login_name` varchar(20) NOT NULL,
  `mail` varchar(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  `token` uuid NOT NULL DEFAULT uuid(),
  `address` inet6 DEFAULT NULL,
  `share` enum('whole','half, shared') NOT NULL DEFAULT 'whole',
  `weight` decimal(6,3) DEFAULT NULL CHECK (`weight` > 0),
  `agreed` tinyint(1) NOT NULL DEFAULT 0,
  `note` text DEFAULT '' INVISIBLE,
  `made` datetime(3) NOT NULL DEFAULT current_timestamp(3) ON UPDATE current_timestamp(3),
  `label` varchar(60) GENERATED ALWAYS AS (concat(`login_name`,'@',`id`)) STORED,
  `area` char(4) DEFAULT 'bro''k',
  PRIMARY KEY (`id`),
  UNIQUE KEY `one_login` (`login_name`),
  UNIQUE KEY `one_area` (`area`,`mail`(50)),
  KEY `by_made` (`made`),
  CONSTRAINT `fk_area` FOREIGN KEY (`area`) REFERENCES `areas` (`code`) ON DELETE SET NULL ON UPDATE CASCADE,
  CONSTRAINT `some_weight` CHECK (`weight` between 0 and 500.000)
) ENGINE=InnoDB AUTO_INCREMENT=5 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_general_ci COMMENT='who holds a plot';
INSERT INTO `plot_holders` VALUES (1,'a;b','x\'y',NULL);
DELIMITER ;;
/*!50003 CREATE*/ /*!50017 DEFINER=`root`@`localhost`*/ /*!50003 TRIGGER `stamp` BEFORE INSERT ON `plot_holders` FOR EACH ROW BEGIN SET NEW.note = 'x'; IF NEW.id THEN SET NEW.note = 'y'; END IF; END */;;
DELIMITER ;
CREATE TABLE areas (code CHAR(4) PRIMARY KEY, name VARCHAR(60) NOT NULL) CHARACTER SET = latin1;
