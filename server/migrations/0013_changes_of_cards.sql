DROP INDEX `cardholders_by_site` ON `cardholders`;--> statement-breakpoint
ALTER TABLE `card_counts` ADD `changes` bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `jobs` ADD `guard` int DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE INDEX `cards_of_format` ON `cards` (`site_id`,`format_id`,`facility`,`number_key`);--> statement-breakpoint
CREATE INDEX `cardholders_by_site` ON `cardholders` (`site_id`,`name`,`id`);