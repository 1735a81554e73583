CREATE TABLE `card_keys` (
	`card_id` varchar(40) NOT NULL,
	`key_id` varchar(40) NOT NULL,
	`version` smallint NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `card_keys_card_id_key_id_pk` PRIMARY KEY(`card_id`,`key_id`)
);
--> statement-breakpoint
CREATE TABLE `key_components` (
	`key_id` varchar(40) NOT NULL,
	`version` smallint NOT NULL,
	`part` smallint NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`custodian_id` varchar(40) NOT NULL,
	`custodian` varchar(120) NOT NULL,
	`check_value` varchar(6) NOT NULL,
	`envelope` varchar(200),
	`given_at` datetime(3) NOT NULL,
	CONSTRAINT `key_components_key_id_version_part_pk` PRIMARY KEY(`key_id`,`version`,`part`),
	CONSTRAINT `key_components_one_each` UNIQUE(`key_id`,`version`,`custodian_id`)
);
--> statement-breakpoint
CREATE TABLE `key_backups` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`jwe` longtext NOT NULL,
	`keys` int NOT NULL,
	`made_at` datetime(3) NOT NULL,
	`first_by` varchar(120) NOT NULL,
	`second_by` varchar(120) NOT NULL,
	`rehearsed_at` datetime(3),
	`rehearsed_by` varchar(120),
	CONSTRAINT `key_backups_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `key_holdings` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`key_id` varchar(40) NOT NULL,
	`version` smallint NOT NULL,
	`kind` varchar(10) NOT NULL,
	`holder_id` varchar(40) NOT NULL DEFAULT '',
	`holder` varchar(120) NOT NULL,
	`what` varchar(10) NOT NULL,
	`how` varchar(200) NOT NULL,
	`since` datetime(3) NOT NULL,
	`until` datetime(3),
	CONSTRAINT `key_holdings_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `key_requests` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`kind` varchar(10) NOT NULL,
	`key_id` varchar(40),
	`version` smallint,
	`what` varchar(400) NOT NULL,
	`reason` varchar(400) NOT NULL,
	`sealed` varchar(1000),
	`state` varchar(10) NOT NULL,
	`asked_by_id` varchar(40) NOT NULL,
	`asked_by` varchar(120) NOT NULL,
	`asked_at` datetime(3) NOT NULL,
	`agreed_by` varchar(120),
	`ends_at` datetime(3) NOT NULL,
	CONSTRAINT `key_requests_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `key_sets` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`notes` text NOT NULL,
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `key_sets_id` PRIMARY KEY(`id`),
	CONSTRAINT `key_sets_once` UNIQUE(`site_id`,`name`)
);
--> statement-breakpoint
CREATE TABLE `keys` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`set_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`kind` varchar(10) NOT NULL,
	`purpose` varchar(30) NOT NULL,
	`notes` text NOT NULL,
	`current` smallint,
	`guard` int NOT NULL DEFAULT 0,
	`created_at` datetime(3) NOT NULL,
	`retired_at` datetime(3),
	CONSTRAINT `keys_id` PRIMARY KEY(`id`),
	CONSTRAINT `keys_once` UNIQUE(`set_id`,`name`)
);
--> statement-breakpoint
CREATE TABLE `key_versions` (
	`key_id` varchar(40) NOT NULL,
	`version` smallint NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`envelope` varchar(200),
	`check_value` varchar(6),
	`check_of` varchar(10),
	`origin` varchar(12) NOT NULL,
	`warning` varchar(200) NOT NULL DEFAULT '',
	`parts` smallint NOT NULL DEFAULT 0,
	`cards` int NOT NULL DEFAULT 0,
	`wanted_check` varchar(6),
	`valid_from` datetime(3),
	`valid_to` datetime(3),
	`made_by` varchar(120) NOT NULL,
	`made_at` datetime(3) NOT NULL,
	`destroyed_at` datetime(3),
	CONSTRAINT `key_versions_key_id_version_pk` PRIMARY KEY(`key_id`,`version`)
);
--> statement-breakpoint
CREATE TABLE `system_identifiers` (
	`id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`bytes` varchar(60) NOT NULL,
	`notes` text NOT NULL,
	CONSTRAINT `system_identifiers_id` PRIMARY KEY(`id`),
	CONSTRAINT `system_identifiers_once` UNIQUE(`site_id`,`name`)
);
--> statement-breakpoint
CREATE TABLE `vault_handovers` (
	`server_id` varchar(40) NOT NULL,
	`site_id` varchar(40) NOT NULL,
	`open_id` varchar(40) NOT NULL,
	`sealed` text NOT NULL,
	`mac` varchar(64) NOT NULL,
	CONSTRAINT `vault_handovers_server_id_site_id_pk` PRIMARY KEY(`server_id`,`site_id`)
);
--> statement-breakpoint
CREATE TABLE `key_stores` (
	`site_id` varchar(40) NOT NULL,
	`salt` varchar(64) NOT NULL,
	`memory_kib` int NOT NULL,
	`passes` int NOT NULL,
	`lanes` int NOT NULL,
	`wrapped` varchar(200) NOT NULL,
	`revision` int NOT NULL DEFAULT 1,
	`set_by` varchar(120) NOT NULL,
	`set_at` datetime(3) NOT NULL,
	`open_id` varchar(40),
	`opened_by` varchar(120),
	`opened_at` datetime(3),
	`used_at` datetime(3),
	CONSTRAINT `key_stores_site_id` PRIMARY KEY(`site_id`)
);
--> statement-breakpoint
CREATE TABLE `vault_servers` (
	`id` varchar(40) NOT NULL,
	`name` varchar(120) NOT NULL,
	`public_key` text NOT NULL,
	`mac` varchar(64) NOT NULL,
	`heard_at` datetime(3) NOT NULL,
	CONSTRAINT `vault_servers_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE INDEX `card_keys_by_version` ON `card_keys` (`site_id`,`key_id`,`version`);--> statement-breakpoint
CREATE INDEX `key_components_by_site` ON `key_components` (`site_id`);--> statement-breakpoint
CREATE INDEX `key_backups_by_site` ON `key_backups` (`site_id`,`made_at`);--> statement-breakpoint
CREATE INDEX `key_holdings_by_key` ON `key_holdings` (`site_id`,`key_id`,`version`);--> statement-breakpoint
CREATE INDEX `key_requests_open` ON `key_requests` (`site_id`,`state`,`asked_at`);--> statement-breakpoint
CREATE INDEX `keys_by_site` ON `keys` (`site_id`);--> statement-breakpoint
CREATE INDEX `key_versions_by_site` ON `key_versions` (`site_id`);--> statement-breakpoint
CREATE INDEX `vault_handovers_by_site` ON `vault_handovers` (`site_id`);