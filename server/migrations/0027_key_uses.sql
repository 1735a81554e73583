CREATE TABLE `key_use_requests` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`kind` varchar(10) NOT NULL,
	`what` varchar(400) NOT NULL,
	`about` longtext NOT NULL,
	`state` varchar(10) NOT NULL,
	`asked_by_id` varchar(40) NOT NULL,
	`asked_by` varchar(120) NOT NULL,
	`asked_at` datetime(3) NOT NULL,
	`settled_by` varchar(120),
	`settled_at` datetime(3),
	CONSTRAINT `key_use_requests_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `key_uses` (
	`key_id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`use` longtext NOT NULL,
	`sealed` varchar(200) NOT NULL,
	CONSTRAINT `key_uses_key_id` PRIMARY KEY(`key_id`)
);
--> statement-breakpoint
CREATE TABLE `row_marks` (
	`kind` varchar(20) NOT NULL,
	`row_id` varchar(60) NOT NULL,
	`site_id` varchar(40),
	`mac` varchar(64) NOT NULL,
	CONSTRAINT `row_marks_kind_row_id_pk` PRIMARY KEY(`kind`,`row_id`)
);
--> statement-breakpoint
ALTER TABLE `device_hosts` ADD `public_key` varchar(400);--> statement-breakpoint
ALTER TABLE `device_hosts` ADD `public_key_mac` varchar(64);--> statement-breakpoint
CREATE INDEX `key_use_requests_open` ON `key_use_requests` (`site_id`,`state`,`asked_at`);--> statement-breakpoint
CREATE INDEX `key_uses_by_site` ON `key_uses` (`site_id`);