CREATE TABLE `box_counts` (
	`box_id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`state` varchar(20) NOT NULL,
	`slot` int NOT NULL,
	`cards` int NOT NULL,
	CONSTRAINT `box_counts_box_id_state_slot_pk` PRIMARY KEY(`box_id`,`state`,`slot`)
);
--> statement-breakpoint
CREATE TABLE `boxes` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`format_id` varchar(40) NOT NULL,
	`facility` varchar(40) NOT NULL,
	`first` varchar(160) NOT NULL,
	`last` varchar(160) NOT NULL,
	`first_key` varchar(163) NOT NULL,
	`last_key` varchar(163) NOT NULL,
	`count` int NOT NULL,
	`print` longtext NOT NULL,
	`values` longtext NOT NULL,
	`notes` text NOT NULL,
	`entered_by` varchar(120) NOT NULL,
	`entered_at` datetime(3) NOT NULL,
	`revision` int NOT NULL DEFAULT 1,
	CONSTRAINT `boxes_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
DROP INDEX `cards_of_format` ON `cards`;--> statement-breakpoint
ALTER TABLE `cards` ADD `box_id` varchar(40);--> statement-breakpoint
CREATE INDEX `box_counts_by_site` ON `box_counts` (`site_id`);--> statement-breakpoint
CREATE INDEX `boxes_along` ON `boxes` (`site_id`,`format_id`,`facility`,`first_key`);--> statement-breakpoint
CREATE INDEX `boxes_by_time` ON `boxes` (`site_id`,`entered_at`,`id`);--> statement-breakpoint
CREATE INDEX `cards_by_box` ON `cards` (`box_id`,`number_key`);--> statement-breakpoint
CREATE INDEX `cards_of_format` ON `cards` (`site_id`,`format_id`,`facility`,`number_key`,`state`);