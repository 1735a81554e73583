CREATE TABLE `dry_runs` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`change` longtext NOT NULL,
	`state` varchar(10) NOT NULL,
	`done` int NOT NULL,
	`total` int NOT NULL,
	`message` varchar(400) NOT NULL,
	`result` longtext,
	`basis` varchar(64) NOT NULL,
	`started_by` varchar(120) NOT NULL,
	`started_at` datetime(3) NOT NULL,
	`heard_at` datetime(3) NOT NULL,
	CONSTRAINT `dry_runs_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `format_evidence` (
	`format_id` varchar(40) NOT NULL,
	`version` int NOT NULL,
	`card` varchar(64) NOT NULL,
	`source` varchar(20) NOT NULL,
	`source_id` varchar(40) NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `format_evidence_format_id_version_card_pk` PRIMARY KEY(`format_id`,`version`,`card`)
);
--> statement-breakpoint
CREATE TABLE `translations` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`notes` text NOT NULL,
	`definition` longtext NOT NULL,
	`created_by` varchar(120) NOT NULL,
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `translations_id` PRIMARY KEY(`id`),
	CONSTRAINT `translations_once` UNIQUE(`site_id`,`name`)
);
--> statement-breakpoint
ALTER TABLE `cards` ADD `bits` varchar(512);--> statement-breakpoint
ALTER TABLE `events` ADD `format_id` varchar(40);--> statement-breakpoint
ALTER TABLE `facility_codes` ADD `ordered_by` varchar(120) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `facility_codes` ADD `ordered_from` datetime(3);--> statement-breakpoint
ALTER TABLE `facility_codes` ADD `reserved` longtext;--> statement-breakpoint
ALTER TABLE `facility_codes` ADD `revision` int DEFAULT 1 NOT NULL;--> statement-breakpoint
CREATE INDEX `dry_runs_by_site` ON `dry_runs` (`site_id`,`started_at`);--> statement-breakpoint
CREATE INDEX `cards_by_number` ON `cards` (`site_id`,`number`);