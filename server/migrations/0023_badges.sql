CREATE TABLE `organisation_marks` (
	`site_id` varchar(40) NOT NULL,
	`organisation` varchar(120) NOT NULL,
	`data` longtext NOT NULL,
	CONSTRAINT `organisation_marks_site_id_organisation_pk` PRIMARY KEY(`site_id`,`organisation`)
);
--> statement-breakpoint
CREATE TABLE `saved_filters` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`filter` longtext NOT NULL,
	`saved_by` varchar(120) NOT NULL,
	`saved_at` datetime(3) NOT NULL,
	CONSTRAINT `saved_filters_id` PRIMARY KEY(`id`),
	CONSTRAINT `saved_filters_once` UNIQUE(`site_id`,`name`)
);
