CREATE TABLE `case_specimens` (
	`case_id` varchar(40) NOT NULL,
	`position` int NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`specimen` longtext NOT NULL,
	CONSTRAINT `case_specimens_case_id_position_pk` PRIMARY KEY(`case_id`,`position`)
);
--> statement-breakpoint
ALTER TABLE `cases` ADD `specimen_count` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `cases` ADD `settled_for` longtext;--> statement-breakpoint
CREATE INDEX `case_specimens_by_site` ON `case_specimens` (`site_id`);--> statement-breakpoint
INSERT IGNORE INTO `case_specimens` (`case_id`, `position`, `site_id`, `specimen`)
	SELECT `cases`.`id`, `rows`.`place` - 1, `cases`.`site_id`, `rows`.`specimen`
	FROM `cases`, JSON_TABLE(`cases`.`specimens`, '$[*]' COLUMNS (`place` FOR ORDINALITY, `specimen` JSON PATH '$')) AS `rows`;--> statement-breakpoint
UPDATE `cases` SET `specimen_count` = JSON_LENGTH(`specimens`);--> statement-breakpoint
ALTER TABLE `cases` DROP COLUMN `specimens`;