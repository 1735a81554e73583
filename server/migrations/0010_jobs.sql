CREATE TABLE `jobs` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`kind` varchar(20) NOT NULL,
	`subject` varchar(40) NOT NULL DEFAULT '',
	`slot` varchar(80),
	`state` varchar(10) NOT NULL,
	`done` int NOT NULL DEFAULT 0,
	`total` int NOT NULL DEFAULT 0,
	`message` varchar(400) NOT NULL DEFAULT '',
	`input` longtext NOT NULL,
	`memo` longtext NOT NULL,
	`result` longtext,
	`started_by` varchar(120) NOT NULL,
	`started_at` datetime(3) NOT NULL,
	`heard_at` datetime(3) NOT NULL,
	`carrier` varchar(40) NOT NULL,
	CONSTRAINT `jobs_id` PRIMARY KEY(`id`),
	CONSTRAINT `jobs_by_slot` UNIQUE(`slot`)
);
--> statement-breakpoint
CREATE INDEX `jobs_by_subject` ON `jobs` (`kind`,`subject`,`started_at`);--> statement-breakpoint
CREATE INDEX `jobs_by_site` ON `jobs` (`site_id`,`kind`,`started_at`);--> statement-breakpoint
CREATE INDEX `jobs_by_state` ON `jobs` (`state`,`heard_at`);--> statement-breakpoint
INSERT IGNORE INTO `jobs` SELECT `id`, `site_id`, 'load', `controller_id`, IF(`state` = 'running', CONCAT('load ', `controller_id`), NULL), `state`, `done`, `total`, `message`, JSON_OBJECT('by', JSON_OBJECT('id', 'server', 'name', `started_by`)), JSON_OBJECT('digest', `digest`), NULL, `started_by`, `started_at`, `heard_at`, `carrier` FROM `loads`;--> statement-breakpoint
INSERT IGNORE INTO `jobs` SELECT `id`, `site_id`, 'dry run', '', NULL, `state`, `done`, `total`, `message`, `change`, JSON_OBJECT('basis', `basis`), `result`, `started_by`, `started_at`, `heard_at`, '' FROM `dry_runs`;
