CREATE TABLE `counter_batches` (
	`id` integer PRIMARY KEY NOT NULL,
	`points` integer NOT NULL,
	`data` blob NOT NULL
);
--> statement-breakpoint
CREATE TABLE `counter_blocks` (
	`id` integer PRIMARY KEY NOT NULL,
	`series_id` integer NOT NULL,
	`level` integer NOT NULL,
	`start_ms` integer NOT NULL,
	`end_ms` integer NOT NULL,
	`points` integer NOT NULL,
	`packed` integer NOT NULL,
	`rolled` integer NOT NULL,
	`times_id` integer,
	`data` blob NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `counter_blocks_series` ON `counter_blocks` (`series_id`,`level`,`start_ms`);--> statement-breakpoint
CREATE INDEX `counter_blocks_end` ON `counter_blocks` (`level`,`rolled`,`end_ms`);--> statement-breakpoint
CREATE TABLE `counter_refusals` (
	`id` integer PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`service` text NOT NULL,
	`host` text NOT NULL,
	`reason` text NOT NULL,
	`points` integer NOT NULL,
	`at_ms` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `counter_refusals_what` ON `counter_refusals` (`name`,`service`,`host`,`reason`);--> statement-breakpoint
CREATE TABLE `counter_series` (
	`id` integer PRIMARY KEY NOT NULL,
	`key` text NOT NULL,
	`source_id` integer NOT NULL,
	`name` text NOT NULL,
	`unit` text NOT NULL,
	`kind` text NOT NULL,
	`is_delta` integer NOT NULL,
	`is_monotonic` integer NOT NULL,
	`attributes` text NOT NULL,
	`last_ms` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `counter_series_key_unique` ON `counter_series` (`key`);--> statement-breakpoint
CREATE INDEX `counter_series_name` ON `counter_series` (`name`,`last_ms`);--> statement-breakpoint
CREATE INDEX `counter_series_source` ON `counter_series` (`source_id`);--> statement-breakpoint
CREATE INDEX `counter_series_last` ON `counter_series` (`last_ms`);--> statement-breakpoint
CREATE TABLE `counter_sources` (
	`id` integer PRIMARY KEY NOT NULL,
	`key` text NOT NULL,
	`service` text NOT NULL,
	`host` text NOT NULL,
	`release` text NOT NULL,
	`pid` integer NOT NULL,
	`attributes` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `counter_sources_key_unique` ON `counter_sources` (`key`);--> statement-breakpoint
CREATE TABLE `counter_times` (
	`id` integer PRIMARY KEY NOT NULL,
	`hash` text NOT NULL,
	`end_ms` integer NOT NULL,
	`data` blob NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `counter_times_hash_unique` ON `counter_times` (`hash`);--> statement-breakpoint
CREATE INDEX `counter_times_end` ON `counter_times` (`end_ms`);