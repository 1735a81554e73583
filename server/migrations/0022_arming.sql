CREATE TABLE `armed_readers` (
	`reader_id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`operator_id` varchar(40) NOT NULL,
	`operator` varchar(120) NOT NULL,
	`until` datetime(3) NOT NULL,
	`read_id` varchar(40),
	CONSTRAINT `armed_readers_reader_id` PRIMARY KEY(`reader_id`)
);
--> statement-breakpoint
CREATE INDEX `armed_readers_by_site` ON `armed_readers` (`site_id`);