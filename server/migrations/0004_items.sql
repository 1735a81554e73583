CREATE TABLE `card_counts` (
	`site_id` varchar(40) NOT NULL,
	`format_id` varchar(40) NOT NULL,
	`state` varchar(20) NOT NULL,
	`slot` int NOT NULL,
	`cards` int NOT NULL,
	CONSTRAINT `card_counts_site_id_format_id_state_slot_pk` PRIMARY KEY(`site_id`,`format_id`,`state`,`slot`)
);
--> statement-breakpoint
CREATE TABLE `controller_items` (
	`controller_id` varchar(40) NOT NULL,
	`item` varchar(60) NOT NULL,
	`wanted` int,
	`loaded` int,
	`hash` varchar(64),
	`content` longtext,
	`sent_by` varchar(40),
	`sent_piece` int,
	`sent` int,
	`sent_hash` varchar(64),
	`sent_content` longtext,
	`waits` boolean GENERATED ALWAYS AS (not (wanted <=> loaded)) STORED,
	CONSTRAINT `controller_items_controller_id_item_pk` PRIMARY KEY(`controller_id`,`item`)
);
--> statement-breakpoint
DROP INDEX `cards_by_number` ON `cards`;--> statement-breakpoint
ALTER TABLE `cards` ADD `number_key` varchar(163) GENERATED ALWAYS AS (concat(lpad(char_length(`number`), 3, '0'), `number`)) STORED;--> statement-breakpoint
ALTER TABLE `controllers` ADD `loaded_cards` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `loads` ADD `carrier` varchar(40) DEFAULT '' NOT NULL;--> statement-breakpoint
CREATE INDEX `controller_items_waiting` ON `controller_items` (`controller_id`,`waits`,`item`);--> statement-breakpoint
CREATE INDEX `controller_items_sent` ON `controller_items` (`controller_id`,`sent_by`,`item`);--> statement-breakpoint
CREATE INDEX `cards_in_order` ON `cards` (`site_id`,`number_key`);--> statement-breakpoint
CREATE INDEX `cards_by_time` ON `cards` (`site_id`,`created_at`,`id`);--> statement-breakpoint
CREATE INDEX `cards_by_state` ON `cards` (`site_id`,`state`,`created_at`,`id`);--> statement-breakpoint
CREATE INDEX `cards_by_print` ON `cards` (`site_id`,`printed`,`id`);--> statement-breakpoint
CREATE INDEX `cards_by_holder` ON `cards` (`holder_id`,`id`);--> statement-breakpoint
CREATE INDEX `cards_by_bits` ON `cards` (`site_id`,`bits`);--> statement-breakpoint
CREATE INDEX `cards_by_number` ON `cards` (`site_id`,`number`,`id`);--> statement-breakpoint
CREATE FULLTEXT INDEX `cardholders_by_word` ON `cardholders` (`name`);
