CREATE TABLE `evidence_names` (
	`evidence_id` text NOT NULL,
	`name` text NOT NULL,
	PRIMARY KEY(`evidence_id`, `name`)
);
--> statement-breakpoint
CREATE TABLE `saved_scopes` (
	`id` integer PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`query` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `saved_scopes_name_unique` ON `saved_scopes` (`name`);