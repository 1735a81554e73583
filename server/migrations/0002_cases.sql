CREATE TABLE `cases` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`revision` int NOT NULL DEFAULT 1,
	`specimens` longtext NOT NULL,
	`questions` longtext NOT NULL,
	`format_id` varchar(40),
	`created_by` varchar(120) NOT NULL,
	`created_at` datetime(3) NOT NULL,
	`changed_at` datetime(3) NOT NULL,
	CONSTRAINT `cases_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE INDEX `cases_by_site` ON `cases` (`site_id`,`changed_at`);