DROP INDEX `cards_by_holder` ON `cards`;--> statement-breakpoint
CREATE INDEX `cards_by_holder` ON `cards` (`holder_id`,`state`,`group_set_id`,`valid_to`);