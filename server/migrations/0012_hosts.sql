CREATE TABLE `device_calls` (
	`id` varchar(40) NOT NULL,
	`host_id` varchar(40) NOT NULL,
	`method` varchar(20) NOT NULL,
	`params` longtext NOT NULL,
	`at` datetime(3) NOT NULL,
	`taken_by` varchar(40),
	`answer` longtext,
	CONSTRAINT `device_calls_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `device_hosts` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40),
	`name` varchar(120) NOT NULL,
	`kind` varchar(10) NOT NULL,
	`token_hash` varchar(64) NOT NULL,
	`made_by` varchar(120) NOT NULL,
	`made_at` datetime(3) NOT NULL,
	`revoked_at` datetime(3),
	`server` varchar(40),
	`fence` int NOT NULL DEFAULT 0,
	`heard_at` datetime(3),
	`offers` longtext NOT NULL,
	CONSTRAINT `device_hosts_id` PRIMARY KEY(`id`),
	CONSTRAINT `device_hosts_by_token` UNIQUE(`token_hash`)
);
--> statement-breakpoint
CREATE INDEX `device_calls_by_host` ON `device_calls` (`host_id`,`taken_by`,`at`);--> statement-breakpoint
CREATE INDEX `device_hosts_by_site` ON `device_hosts` (`site_id`);