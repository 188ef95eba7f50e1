CREATE TABLE `failure_merges` (
	`group_id` integer PRIMARY KEY NOT NULL,
	`into_id` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `failure_merges_into` ON `failure_merges` (`into_id`);