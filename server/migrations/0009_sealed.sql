ALTER TABLE `feed` ADD `name` varchar(40) DEFAULT '' NOT NULL;--> statement-breakpoint
UPDATE `feed` SET `name` = LPAD(`seq`, 20, '0') WHERE `name` = '';--> statement-breakpoint
ALTER TABLE `feed` DROP PRIMARY KEY, ADD PRIMARY KEY(`site_id`,`name`), MODIFY COLUMN `seq` bigint, MODIFY COLUMN `name` varchar(40) NOT NULL;--> statement-breakpoint
ALTER TABLE `feed` ADD CONSTRAINT `feed_by_number` UNIQUE(`site_id`,`seq`);--> statement-breakpoint
CREATE INDEX `feed_by_time` ON `feed` (`at`);--> statement-breakpoint
ALTER TABLE `trail` ADD `name` varchar(40) DEFAULT '' NOT NULL;--> statement-breakpoint
UPDATE `trail` SET `name` = LPAD(`seq`, 20, '0') WHERE `name` = '';--> statement-breakpoint
ALTER TABLE `trail` DROP PRIMARY KEY, ADD PRIMARY KEY(`chain`,`name`), MODIFY COLUMN `seq` bigint, MODIFY COLUMN `name` varchar(40) NOT NULL, MODIFY COLUMN `previous` varchar(64) NOT NULL DEFAULT '', MODIFY COLUMN `hash` varchar(64) NOT NULL DEFAULT '';--> statement-breakpoint
ALTER TABLE `trail` ADD `mac` varchar(64) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `trail` ADD CONSTRAINT `trail_by_number` UNIQUE(`chain`,`seq`);
