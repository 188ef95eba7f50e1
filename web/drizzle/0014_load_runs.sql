CREATE TABLE `load_runs` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`key` text NOT NULL,
	`name` text NOT NULL,
	`state` text NOT NULL,
	`message` text DEFAULT '' NOT NULL,
	`evidence_id` text DEFAULT '' NOT NULL,
	`started_at_us` integer NOT NULL,
	`end_us` integer DEFAULT 0 NOT NULL,
	`plan` text NOT NULL,
	`recordings` text DEFAULT '[]' NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `load_runs_key_unique` ON `load_runs` (`key`);--> statement-breakpoint
CREATE INDEX `load_runs_started` ON `load_runs` (`started_at_us`);--> statement-breakpoint
CREATE TABLE `__new_call_rollups` (
	`step` integer NOT NULL,
	`at` integer NOT NULL,
	`group_id` integer NOT NULL,
	`origin_id` integer NOT NULL,
	`endpoint_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
	`margin` integer DEFAULT 0 NOT NULL,
	`requests` integer NOT NULL,
	`calls` integer NOT NULL,
	`total_ns` integer NOT NULL,
	`booked_ns` integer NOT NULL,
	`failed` integer NOT NULL,
	`retried` integer NOT NULL,
	`on_round` integer NOT NULL,
	`rows` integer NOT NULL,
	`rows_known` integer NOT NULL,
	`bytes_read` integer NOT NULL,
	`bytes_written` integer NOT NULL,
	`slowest_ns` integer NOT NULL,
	`most_calls` integer NOT NULL,
	`sketch` text NOT NULL,
	PRIMARY KEY(`step`, `margin`, `at`, `group_id`, `origin_id`, `endpoint_id`, `host_id`, `release_id`)
) WITHOUT ROWID;
--> statement-breakpoint
INSERT INTO `__new_call_rollups`("step", "at", "group_id", "origin_id", "endpoint_id", "host_id", "release_id", "margin", "requests", "calls", "total_ns", "booked_ns", "failed", "retried", "on_round", "rows", "rows_known", "bytes_read", "bytes_written", "slowest_ns", "most_calls", "sketch") SELECT "step", "at", "group_id", "origin_id", "endpoint_id", "host_id", "release_id", 0, "requests", "calls", "total_ns", "booked_ns", "failed", "retried", "on_round", "rows", "rows_known", "bytes_read", "bytes_written", "slowest_ns", "most_calls", "sketch" FROM `call_rollups`;--> statement-breakpoint
DROP TABLE `call_rollups`;--> statement-breakpoint
ALTER TABLE `__new_call_rollups` RENAME TO `call_rollups`;--> statement-breakpoint
CREATE INDEX `call_rollups_group` ON `call_rollups` (`step`,`group_id`,`at`);--> statement-breakpoint
CREATE INDEX `call_rollups_endpoint` ON `call_rollups` (`step`,`endpoint_id`,`at`);--> statement-breakpoint
ALTER TABLE `requests` ADD `run` integer DEFAULT 0 NOT NULL;