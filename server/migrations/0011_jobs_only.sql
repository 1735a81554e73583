DROP TABLE `dry_runs`;--> statement-breakpoint
DROP TABLE `loads`;