CREATE TABLE `old_traces` (
	`trace_id` text PRIMARY KEY NOT NULL,
	`received_at_us` integer NOT NULL,
	`source` text NOT NULL,
	`keep` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `old_traces_source` ON `old_traces` (`source`);--> statement-breakpoint
CREATE TABLE `removed_traces` (
	`id` integer PRIMARY KEY NOT NULL,
	`trace_id` blob NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `removed_traces_trace_id_unique` ON `removed_traces` (`trace_id`);--> statement-breakpoint
CREATE TABLE `sessions` (
	`id` text PRIMARY KEY NOT NULL,
	`created_at_us` integer NOT NULL,
	`used_at_us` integer NOT NULL,
	`expires_at_us` integer NOT NULL,
	`address` text NOT NULL,
	`agent` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `set_aside` (
	`kind` text NOT NULL,
	`id` text NOT NULL,
	`name` text NOT NULL,
	`reason` text NOT NULL,
	`tries` integer NOT NULL,
	`aside` integer NOT NULL,
	`at_us` integer NOT NULL,
	PRIMARY KEY(`kind`, `id`)
);
--> statement-breakpoint
ALTER TABLE `pending_traces` ADD `generation` integer DEFAULT 0 NOT NULL;