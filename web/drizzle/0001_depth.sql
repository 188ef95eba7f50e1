-- Every stored trace is booked again with the new columns, from its spans, which are all still there.
INSERT OR IGNORE INTO `pending_traces` SELECT DISTINCT `trace_id` FROM `requests`;--> statement-breakpoint
DELETE FROM `requests`;--> statement-breakpoint
DELETE FROM `findings`;--> statement-breakpoint
CREATE TABLE `attribute_values` (
	`id` integer PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`value` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `attribute_values_name` ON `attribute_values` (`name`,`value`);--> statement-breakpoint
CREATE TABLE `call_rollups` (
	`step` integer NOT NULL,
	`at` integer NOT NULL,
	`group_id` integer NOT NULL,
	`origin_id` integer NOT NULL,
	`endpoint_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
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
	PRIMARY KEY(`step`, `at`, `group_id`, `origin_id`, `endpoint_id`, `host_id`, `release_id`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE INDEX `call_rollups_group` ON `call_rollups` (`step`,`group_id`,`at`);--> statement-breakpoint
CREATE INDEX `call_rollups_endpoint` ON `call_rollups` (`step`,`endpoint_id`,`at`);--> statement-breakpoint
CREATE TABLE `finding_marks` (
	`id` integer PRIMARY KEY NOT NULL,
	`service` text NOT NULL,
	`endpoint` text NOT NULL,
	`rule` text NOT NULL,
	`subject` text NOT NULL,
	`reason` text NOT NULL,
	`at_us` integer NOT NULL,
	`cost_ns` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `finding_marks_what` ON `finding_marks` (`service`,`endpoint`,`rule`,`subject`);--> statement-breakpoint
CREATE TABLE `keep_rules` (
	`id` integer PRIMARY KEY NOT NULL,
	`body` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `logs` (
	`id` integer PRIMARY KEY NOT NULL,
	`trace_id` text NOT NULL,
	`span_id` text NOT NULL,
	`at_us` integer NOT NULL,
	`at_ns` integer NOT NULL,
	`severity` integer NOT NULL,
	`body` text NOT NULL,
	`attributes` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `logs_trace` ON `logs` (`trace_id`,`span_id`,`at_us`,`at_ns`,`body`);--> statement-breakpoint
CREATE TABLE `origins` (
	`id` integer PRIMARY KEY NOT NULL,
	`name` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `origins_name_unique` ON `origins` (`name`);--> statement-breakpoint
CREATE TABLE `request_parts` (
	`trace_id` text NOT NULL,
	`span_id` text NOT NULL,
	`parts` text NOT NULL,
	PRIMARY KEY(`trace_id`, `span_id`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE TABLE `rollups` (
	`step` integer NOT NULL,
	`at` integer NOT NULL,
	`margin` integer NOT NULL,
	`endpoint_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
	`count` integer NOT NULL,
	`failed` integer NOT NULL,
	`total_ns` integer NOT NULL,
	`exclusive_ns` integer NOT NULL,
	`call_count` integer NOT NULL,
	`in_own_code` integer NOT NULL,
	`in_database` integer NOT NULL,
	`in_cache` integer NOT NULL,
	`in_remote` integer NOT NULL,
	`in_messaging` integer NOT NULL,
	`in_file` integer NOT NULL,
	`in_lock` integer NOT NULL,
	`in_pause` integer NOT NULL,
	`in_queue` integer NOT NULL,
	`in_unseen` integer NOT NULL,
	`ex_own_code` integer NOT NULL,
	`ex_database` integer NOT NULL,
	`ex_cache` integer NOT NULL,
	`ex_remote` integer NOT NULL,
	`ex_messaging` integer NOT NULL,
	`ex_file` integer NOT NULL,
	`ex_lock` integer NOT NULL,
	`ex_pause` integer NOT NULL,
	`ex_queue` integer NOT NULL,
	`ex_unseen` integer NOT NULL,
	`sketch` text NOT NULL,
	`failed_sketch` text NOT NULL,
	PRIMARY KEY(`step`, `margin`, `at`, `endpoint_id`, `host_id`, `release_id`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE TABLE `statement_groups` (
	`evidence_id` text NOT NULL,
	`group_id` integer NOT NULL,
	`calls` integer NOT NULL,
	`total_ns` integer NOT NULL,
	`slowest_ns` integer NOT NULL,
	`rows` integer NOT NULL,
	`rows_known` integer NOT NULL,
	`askers` text NOT NULL,
	`sketch` text NOT NULL,
	PRIMARY KEY(`evidence_id`, `group_id`)
) WITHOUT ROWID;
--> statement-breakpoint
DROP TABLE `minute_rollups`;--> statement-breakpoint
ALTER TABLE `requests` ADD `resource_id` integer NOT NULL DEFAULT 0;--> statement-breakpoint
ALTER TABLE `requests` ADD `pairs` text NOT NULL DEFAULT '';--> statement-breakpoint
ALTER TABLE `requests` ADD `call_groups` text NOT NULL DEFAULT '';--> statement-breakpoint
ALTER TABLE `requests` ADD `rules` text NOT NULL DEFAULT '';--> statement-breakpoint
ALTER TABLE `resources` ADD `first_us` integer;--> statement-breakpoint
DROP INDEX `requests_start`;--> statement-breakpoint
CREATE INDEX `requests_start` ON `requests` (`start_us`,`duration_ns`,`failed`,`endpoint_id`,`host_id`,`release_id`);
