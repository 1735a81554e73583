CREATE TABLE `installation` (
	`name` varchar(60) NOT NULL,
	`value` varchar(400) NOT NULL,
	CONSTRAINT `installation_name` PRIMARY KEY(`name`)
);
--> statement-breakpoint
CREATE TABLE `requests` (
	`operator_id` varchar(40) NOT NULL,
	`request_key` varchar(80) NOT NULL,
	`fingerprint` varchar(64) NOT NULL,
	`answer` longtext,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `requests_operator_id_request_key_pk` PRIMARY KEY(`operator_id`,`request_key`)
);
--> statement-breakpoint
ALTER TABLE `controllers` DROP INDEX `controllers_device`;--> statement-breakpoint
ALTER TABLE `readers` DROP INDEX `readers_device`;--> statement-breakpoint
DROP INDEX `controllers_by_site` ON `controllers`;--> statement-breakpoint
DROP INDEX `readers_by_site` ON `readers`;--> statement-breakpoint
ALTER TABLE `loads` ADD `image` longtext;--> statement-breakpoint
ALTER TABLE `loads` ADD `digest` varchar(64) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `rig_cursors` ADD `entry` varchar(40) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `sites` ADD `guard` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `controllers` ADD CONSTRAINT `controllers_once` UNIQUE(`site_id`,`device`);--> statement-breakpoint
ALTER TABLE `readers` ADD CONSTRAINT `readers_once` UNIQUE(`site_id`,`device`);--> statement-breakpoint
CREATE INDEX `requests_by_time` ON `requests` (`at`);--> statement-breakpoint
CREATE INDEX `loads_by_state` ON `loads` (`state`,`heard_at`);