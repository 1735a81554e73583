CREATE TABLE `controller_wants` (
	`controller_id` varchar(40) NOT NULL,
	`item` varchar(60) NOT NULL,
	`text` longtext NOT NULL,
	`revision` int NOT NULL,
	CONSTRAINT `controller_wants_controller_id_item_pk` PRIMARY KEY(`controller_id`,`item`)
);
--> statement-breakpoint
CREATE TABLE `doors` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`controller_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`by_groups` boolean NOT NULL DEFAULT false,
	`revision` int NOT NULL DEFAULT 1,
	CONSTRAINT `doors_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `access_groups` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`rights` longtext NOT NULL,
	`revision` int NOT NULL DEFAULT 1,
	CONSTRAINT `access_groups_id` PRIMARY KEY(`id`),
	CONSTRAINT `access_groups_once` UNIQUE(`site_id`,`name`)
);
--> statement-breakpoint
CREATE TABLE `access_assertions` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`definition` longtext NOT NULL,
	`revision` int NOT NULL DEFAULT 1,
	CONSTRAINT `access_assertions_id` PRIMARY KEY(`id`),
	CONSTRAINT `access_assertions_once` UNIQUE(`site_id`,`name`)
);
--> statement-breakpoint
CREATE TABLE `calendars` (
	`site_id` varchar(40) NOT NULL,
	`holidays` longtext NOT NULL,
	`revision` int NOT NULL DEFAULT 1,
	`guard` int NOT NULL DEFAULT 1,
	CONSTRAINT `calendars_site_id` PRIMARY KEY(`site_id`)
);
--> statement-breakpoint
CREATE TABLE `group_sets` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`groups` longtext NOT NULL,
	CONSTRAINT `group_sets_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `schedules` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`periods` longtext NOT NULL,
	`on_holidays` longtext NOT NULL,
	`revision` int NOT NULL DEFAULT 1,
	CONSTRAINT `schedules_id` PRIMARY KEY(`id`),
	CONSTRAINT `schedules_once` UNIQUE(`site_id`,`name`)
);
--> statement-breakpoint
ALTER TABLE `cards` ADD `group_set_id` varchar(40);--> statement-breakpoint
ALTER TABLE `cardholders` ADD `group_set_id` varchar(40);--> statement-breakpoint
ALTER TABLE `readers` ADD `door_id` varchar(40);--> statement-breakpoint
ALTER TABLE `readers` ADD `way` varchar(3) DEFAULT 'in' NOT NULL;--> statement-breakpoint
CREATE INDEX `doors_by_controller` ON `doors` (`controller_id`);--> statement-breakpoint
CREATE INDEX `doors_by_site` ON `doors` (`site_id`);--> statement-breakpoint
CREATE INDEX `group_sets_by_site` ON `group_sets` (`site_id`);--> statement-breakpoint
CREATE INDEX `cards_by_groups` ON `cards` (`site_id`,`group_set_id`,`holder_id`);--> statement-breakpoint
CREATE INDEX `cardholders_by_groups` ON `cardholders` (`site_id`,`group_set_id`,`name`,`id`);--> statement-breakpoint
CREATE INDEX `readers_by_door` ON `readers` (`door_id`);--> statement-breakpoint
INSERT IGNORE INTO `doors` (`id`, `site_id`, `controller_id`, `name`) SELECT `id`, `site_id`, `controller_id`, `name` FROM `readers` WHERE `controller_id` IS NOT NULL;--> statement-breakpoint
UPDATE `readers` SET `door_id` = `id` WHERE `controller_id` IS NOT NULL;
