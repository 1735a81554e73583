CREATE TABLE `cardholder_rules` (
	`site_id` varchar(40) NOT NULL,
	`pin_digits` int NOT NULL,
	`pins_differ` boolean NOT NULL,
	`brings` longtext NOT NULL,
	`revision` int NOT NULL DEFAULT 1,
	CONSTRAINT `cardholder_rules_site_id` PRIMARY KEY(`site_id`)
);
--> statement-breakpoint
CREATE TABLE `photographs` (
	`holder_id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`type` varchar(20) NOT NULL,
	`data` longtext NOT NULL,
	`set_at` datetime(3) NOT NULL,
	CONSTRAINT `photographs_holder_id` PRIMARY KEY(`holder_id`)
);
--> statement-breakpoint
CREATE TABLE `cardholder_pins` (
	`holder_id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`hash` varchar(64) NOT NULL,
	`set_at` datetime(3) NOT NULL,
	CONSTRAINT `cardholder_pins_holder_id` PRIMARY KEY(`holder_id`)
);
--> statement-breakpoint
ALTER TABLE `cardholders` ADD `organisation` varchar(120) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `cardholders` ADD `kind` varchar(40) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `cardholders` ADD `contact` varchar(200) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `cardholders` ADD `notes` varchar(2000) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `cardholders` ADD `revision` int DEFAULT 1 NOT NULL;--> statement-breakpoint
CREATE INDEX `photographs_by_site` ON `photographs` (`site_id`);--> statement-breakpoint
CREATE INDEX `cardholder_pins_by_hash` ON `cardholder_pins` (`site_id`,`hash`);--> statement-breakpoint
CREATE INDEX `cards_by_end` ON `cards` (`state`,`valid_to`);--> statement-breakpoint
CREATE INDEX `events_by_card` ON `events` (`card_id`,`at`);