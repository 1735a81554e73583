CREATE TABLE `encoded_cards` (
	`site_id` varchar(40) NOT NULL,
	`uid` varchar(20) NOT NULL,
	`plan_id` varchar(40) NOT NULL,
	`version` smallint NOT NULL,
	`card_id` varchar(40),
	`state` varchar(10) NOT NULL,
	`run_id` varchar(40) NOT NULL,
	`seq` int NOT NULL,
	`keys` longtext NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `encoded_cards_site_id_uid_pk` PRIMARY KEY(`site_id`,`uid`)
);
--> statement-breakpoint
CREATE TABLE `plan_levels` (
	`plan_id` varchar(40) NOT NULL,
	`version` smallint NOT NULL,
	`level` varchar(64) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`keys` longtext NOT NULL,
	`cards` int NOT NULL,
	CONSTRAINT `plan_levels_plan_id_version_level_pk` PRIMARY KEY(`plan_id`,`version`,`level`)
);
--> statement-breakpoint
CREATE TABLE `plans` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`kind` varchar(10) NOT NULL,
	`current` smallint NOT NULL,
	`guard` int NOT NULL DEFAULT 0,
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `plans_id` PRIMARY KEY(`id`),
	CONSTRAINT `plans_once` UNIQUE(`site_id`,`name`)
);
--> statement-breakpoint
CREATE TABLE `plan_versions` (
	`plan_id` varchar(40) NOT NULL,
	`version` smallint NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`definition` longtext NOT NULL,
	`notes` text NOT NULL,
	`held` longtext NOT NULL,
	`cards` int NOT NULL DEFAULT 0,
	`made_by` varchar(120) NOT NULL,
	`made_at` datetime(3) NOT NULL,
	CONSTRAINT `plan_versions_plan_id_version_pk` PRIMARY KEY(`plan_id`,`version`)
);
--> statement-breakpoint
CREATE TABLE `reader_plans` (
	`reader_id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`plan_id` varchar(40) NOT NULL,
	`version` smallint NOT NULL,
	`field` varchar(80) NOT NULL,
	`settings` longtext NOT NULL,
	`keys` longtext NOT NULL,
	`set_by` varchar(120) NOT NULL,
	`set_at` datetime(3) NOT NULL,
	CONSTRAINT `reader_plans_reader_id` PRIMARY KEY(`reader_id`)
);
--> statement-breakpoint
CREATE TABLE `run_cards` (
	`run_id` varchar(40) NOT NULL,
	`seq` int NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`card_id` varchar(40),
	`uid` varchar(20),
	`state` varchar(10) NOT NULL,
	`holds` varchar(40),
	`message` varchar(400) NOT NULL DEFAULT '',
	`tries` int NOT NULL DEFAULT 0,
	`begun_at` datetime(3),
	`ended_at` datetime(3),
	CONSTRAINT `run_cards_run_id_seq_pk` PRIMARY KEY(`run_id`,`seq`),
	CONSTRAINT `run_cards_by_uid` UNIQUE(`run_id`,`uid`),
	CONSTRAINT `run_cards_hold` UNIQUE(`holds`)
);
--> statement-breakpoint
CREATE TABLE `run_steps` (
	`run_id` varchar(40) NOT NULL,
	`seq` int NOT NULL,
	`n` int NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`step` longtext NOT NULL,
	`at` datetime(3) NOT NULL,
	`exchange` longtext,
	CONSTRAINT `run_steps_run_id_seq_n_pk` PRIMARY KEY(`run_id`,`seq`,`n`)
);
--> statement-breakpoint
CREATE TABLE `runs` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`kind` varchar(12) NOT NULL,
	`plan_id` varchar(40) NOT NULL,
	`version` smallint NOT NULL,
	`under` varchar(120),
	`takes_used` int NOT NULL DEFAULT 0,
	`state` varchar(10) NOT NULL,
	`wanted` int NOT NULL,
	`done` int NOT NULL DEFAULT 0,
	`amiss` int NOT NULL DEFAULT 0,
	`worked_ms` int NOT NULL DEFAULT 0,
	`guard` int NOT NULL DEFAULT 0,
	`started_by` varchar(120) NOT NULL,
	`started_at` datetime(3) NOT NULL,
	`ended_at` datetime(3),
	CONSTRAINT `runs_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `pad_claims` (
	`site_id` varchar(40) NOT NULL,
	`pad` varchar(90) NOT NULL,
	`claimed_by` varchar(40) NOT NULL,
	`tells` longtext NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `pad_claims_site_id_pad_pk` PRIMARY KEY(`site_id`,`pad`)
);
--> statement-breakpoint
ALTER TABLE `events` ADD `chip` longtext;--> statement-breakpoint
ALTER TABLE `key_requests` ADD `about` longtext;--> statement-breakpoint
CREATE INDEX `encoded_by_plan` ON `encoded_cards` (`site_id`,`plan_id`,`version`);--> statement-breakpoint
CREATE INDEX `encoded_by_card` ON `encoded_cards` (`card_id`);--> statement-breakpoint
CREATE INDEX `plan_levels_by_site` ON `plan_levels` (`site_id`);--> statement-breakpoint
CREATE INDEX `plan_versions_by_site` ON `plan_versions` (`site_id`);--> statement-breakpoint
CREATE INDEX `run_cards_by_state` ON `run_cards` (`run_id`,`state`,`seq`);--> statement-breakpoint
CREATE INDEX `runs_by_site` ON `runs` (`site_id`,`started_at`);--> statement-breakpoint
CREATE INDEX `runs_by_plan` ON `runs` (`plan_id`);--> statement-breakpoint
CREATE INDEX `pad_claims_by` ON `pad_claims` (`claimed_by`);