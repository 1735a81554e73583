CREATE TABLE `approvals` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`subject_id` varchar(40),
	`what` varchar(400) NOT NULL,
	`act` longtext,
	`state` varchar(10) NOT NULL,
	`asked_by_id` varchar(40) NOT NULL,
	`asked_by` varchar(120) NOT NULL,
	`asked_at` datetime(3) NOT NULL,
	`ends_at` datetime(3) NOT NULL,
	CONSTRAINT `approvals_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `api_tokens` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`operator_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`permissions` longtext NOT NULL,
	`hash` varchar(64) NOT NULL,
	`made_at` datetime(3) NOT NULL,
	`ends_at` datetime(3) NOT NULL,
	`revoked_at` datetime(3),
	`used_at` datetime(3),
	CONSTRAINT `api_tokens_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `operator_sites` DROP PRIMARY KEY, ADD PRIMARY KEY(`operator_id`,`site_id`,`role`);--> statement-breakpoint
INSERT IGNORE INTO `operator_sites` SELECT `operator_id`, `site_id`, 'technician' FROM `operator_sites` WHERE `role` = 'key custodian';--> statement-breakpoint
CREATE INDEX `approvals_open` ON `approvals` (`site_id`,`state`,`asked_at`);--> statement-breakpoint
CREATE INDEX `api_tokens_by_site` ON `api_tokens` (`site_id`,`made_at`);