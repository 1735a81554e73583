CREATE TABLE `former_devices` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`kind` varchar(10) NOT NULL,
	`name` varchar(120) NOT NULL,
	`removed_at` datetime(3) NOT NULL,
	CONSTRAINT `former_devices_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE INDEX `former_devices_by_site` ON `former_devices` (`site_id`);