CREATE TABLE `cardholders` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`department` varchar(120) NOT NULL,
	CONSTRAINT `cardholders_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `cards` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`format_id` varchar(40) NOT NULL,
	`facility` varchar(40) NOT NULL,
	`number` varchar(160) NOT NULL,
	`printed` varchar(80) NOT NULL,
	`state` varchar(20) NOT NULL,
	`holder_id` varchar(40),
	`valid_from` datetime(3),
	`valid_to` datetime(3),
	`notes` text NOT NULL,
	`revision` int NOT NULL DEFAULT 1,
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `cards_id` PRIMARY KEY(`id`),
	CONSTRAINT `cards_once` UNIQUE(`site_id`,`format_id`,`facility`,`number`)
);
--> statement-breakpoint
CREATE TABLE `chains` (
	`id` varchar(40) NOT NULL,
	`trail_seq` bigint NOT NULL DEFAULT 0,
	`trail_head` varchar(64) NOT NULL DEFAULT '',
	`feed_seq` bigint NOT NULL DEFAULT 0,
	CONSTRAINT `chains_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `controller_formats` (
	`controller_id` varchar(40) NOT NULL,
	`format_id` varchar(40) NOT NULL,
	CONSTRAINT `controller_formats_controller_id_format_id_pk` PRIMARY KEY(`controller_id`,`format_id`)
);
--> statement-breakpoint
CREATE TABLE `controllers` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`device` varchar(60) NOT NULL,
	`compares_facility` boolean NOT NULL,
	`loaded_image` longtext,
	`loaded_digest` varchar(64),
	`loaded_at` datetime(3),
	CONSTRAINT `controllers_id` PRIMARY KEY(`id`),
	CONSTRAINT `controllers_device` UNIQUE(`device`)
);
--> statement-breakpoint
CREATE TABLE `events` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`at` datetime(3) NOT NULL,
	`kind` varchar(20) NOT NULL,
	`controller_id` varchar(40),
	`reader_id` varchar(40),
	`read_id` varchar(40),
	`bits` varchar(512),
	`outcome` varchar(10),
	`stopped_at` varchar(20),
	`reason` text NOT NULL,
	`advice` text,
	`card_id` varchar(40),
	`holder` varchar(120),
	CONSTRAINT `events_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `facility_codes` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`format_id` varchar(40) NOT NULL DEFAULT '',
	`code` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`notes` text NOT NULL,
	CONSTRAINT `facility_codes_id` PRIMARY KEY(`id`),
	CONSTRAINT `facility_codes_once` UNIQUE(`site_id`,`format_id`,`code`)
);
--> statement-breakpoint
CREATE TABLE `feed` (
	`site_id` varchar(40) NOT NULL,
	`seq` bigint NOT NULL,
	`at` datetime(3) NOT NULL,
	`kind` varchar(20) NOT NULL,
	`data` longtext NOT NULL,
	CONSTRAINT `feed_site_id_seq_pk` PRIMARY KEY(`site_id`,`seq`)
);
--> statement-breakpoint
CREATE TABLE `format_versions` (
	`format_id` varchar(40) NOT NULL,
	`version` int NOT NULL,
	`definition` longtext NOT NULL,
	`layout` text NOT NULL,
	`reason` varchar(400) NOT NULL,
	`created_by` varchar(120) NOT NULL,
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `format_versions_format_id_version_pk` PRIMARY KEY(`format_id`,`version`)
);
--> statement-breakpoint
CREATE TABLE `formats` (
	`id` varchar(40) NOT NULL,
	`current_version` int NOT NULL,
	`created_at` datetime(3) NOT NULL,
	`retired_at` datetime(3),
	CONSTRAINT `formats_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `loads` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`controller_id` varchar(40) NOT NULL,
	`state` varchar(10) NOT NULL,
	`done` int NOT NULL,
	`total` int NOT NULL,
	`message` varchar(400) NOT NULL,
	`started_by` varchar(120) NOT NULL,
	`started_at` datetime(3) NOT NULL,
	`heard_at` datetime(3) NOT NULL,
	CONSTRAINT `loads_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `operator_sites` (
	`operator_id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`role` varchar(20) NOT NULL,
	CONSTRAINT `operator_sites_operator_id_site_id_pk` PRIMARY KEY(`operator_id`,`site_id`)
);
--> statement-breakpoint
CREATE TABLE `operators` (
	`id` varchar(40) NOT NULL,
	`login` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`password_hash` varchar(255) NOT NULL,
	`must_change_password` boolean NOT NULL,
	`closed_at` datetime(3),
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `operators_id` PRIMARY KEY(`id`),
	CONSTRAINT `operators_login` UNIQUE(`login`)
);
--> statement-breakpoint
CREATE TABLE `readers` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`kind` varchar(20) NOT NULL,
	`device` varchar(60) NOT NULL,
	`controller_id` varchar(40),
	CONSTRAINT `readers_id` PRIMARY KEY(`id`),
	CONSTRAINT `readers_device` UNIQUE(`device`)
);
--> statement-breakpoint
CREATE TABLE `reads` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`at` datetime(3) NOT NULL,
	`bits` varchar(512) NOT NULL,
	`hex` varchar(128) NOT NULL,
	`length` int NOT NULL,
	`source` varchar(10) NOT NULL,
	`notation` varchar(60),
	`reader_id` varchar(40),
	CONSTRAINT `reads_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `rig_cursors` (
	`epoch` varchar(40) NOT NULL,
	`seq` bigint NOT NULL,
	CONSTRAINT `rig_cursors_epoch` PRIMARY KEY(`epoch`)
);
--> statement-breakpoint
CREATE TABLE `sessions` (
	`token_hash` varchar(64) NOT NULL,
	`operator_id` varchar(40) NOT NULL,
	`created_at` datetime(3) NOT NULL,
	`used_at` datetime(3) NOT NULL,
	`expires_at` datetime(3) NOT NULL,
	CONSTRAINT `sessions_token_hash` PRIMARY KEY(`token_hash`)
);
--> statement-breakpoint
CREATE TABLE `sign_in_failures` (
	`source` varchar(120) NOT NULL,
	`count` int NOT NULL,
	`last_at` datetime(3) NOT NULL,
	`blocked_until` datetime(3) NOT NULL,
	CONSTRAINT `sign_in_failures_source` PRIMARY KEY(`source`)
);
--> statement-breakpoint
CREATE TABLE `site_formats` (
	`site_id` varchar(40) NOT NULL,
	`format_id` varchar(40) NOT NULL,
	`version` int NOT NULL,
	CONSTRAINT `site_formats_site_id_format_id_pk` PRIMARY KEY(`site_id`,`format_id`)
);
--> statement-breakpoint
CREATE TABLE `sites` (
	`id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`short_name` varchar(24) NOT NULL,
	`has_rig` boolean NOT NULL DEFAULT false,
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `sites_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `trail` (
	`chain` varchar(40) NOT NULL,
	`seq` bigint NOT NULL,
	`at` datetime(3) NOT NULL,
	`operator_id` varchar(40) NOT NULL,
	`operator` varchar(120) NOT NULL,
	`action` varchar(80) NOT NULL,
	`subject` varchar(200) NOT NULL,
	`before` longtext NOT NULL,
	`after` longtext NOT NULL,
	`previous` varchar(64) NOT NULL,
	`hash` varchar(64) NOT NULL,
	CONSTRAINT `trail_chain_seq_pk` PRIMARY KEY(`chain`,`seq`)
);
--> statement-breakpoint
CREATE INDEX `cardholders_by_site` ON `cardholders` (`site_id`,`name`);--> statement-breakpoint
CREATE INDEX `controllers_by_site` ON `controllers` (`site_id`);--> statement-breakpoint
CREATE INDEX `events_by_time` ON `events` (`site_id`,`at`);--> statement-breakpoint
CREATE INDEX `events_by_controller` ON `events` (`controller_id`,`at`);--> statement-breakpoint
CREATE INDEX `loads_by_controller` ON `loads` (`controller_id`,`started_at`);--> statement-breakpoint
CREATE INDEX `readers_by_site` ON `readers` (`site_id`);--> statement-breakpoint
CREATE INDEX `reads_by_time` ON `reads` (`site_id`,`at`);