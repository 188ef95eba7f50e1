CREATE TABLE `failure_groups` (
	`id` integer PRIMARY KEY NOT NULL,
	`key` text NOT NULL,
	`type` text NOT NULL,
	`message` text NOT NULL,
	`root_type` text NOT NULL,
	`function` text NOT NULL,
	`file` text NOT NULL,
	`endpoint` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `failure_groups_key_unique` ON `failure_groups` (`key`);--> statement-breakpoint
CREATE TABLE `failure_marks` (
	`group_id` integer PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`release` text NOT NULL,
	`more_times` integer NOT NULL,
	`times_then` integer NOT NULL,
	`at_us` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `failure_rollups` (
	`step` integer NOT NULL,
	`at` integer NOT NULL,
	`margin` integer NOT NULL,
	`group_id` integer NOT NULL,
	`endpoint_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
	`times` integer NOT NULL,
	`requests` integer NOT NULL,
	`starts` integer NOT NULL,
	`seen` integer NOT NULL,
	PRIMARY KEY(`step`, `margin`, `at`, `group_id`, `endpoint_id`, `host_id`, `release_id`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE INDEX `failure_rollups_group` ON `failure_rollups` (`group_id`,`step`,`at`);--> statement-breakpoint
CREATE TABLE `failure_ways` (
	`id` integer PRIMARY KEY NOT NULL,
	`way` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `failure_ways_way_unique` ON `failure_ways` (`way`);--> statement-breakpoint
CREATE TABLE `failures` (
	`id` integer PRIMARY KEY NOT NULL,
	`trace_id` text NOT NULL,
	`span_id` text NOT NULL,
	`at_span_id` text NOT NULL,
	`service_id` integer NOT NULL,
	`endpoint_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
	`start_us` integer NOT NULL,
	`group_id` integer NOT NULL,
	`passes_on` integer NOT NULL,
	`way_id` integer NOT NULL,
	`seen` integer NOT NULL,
	`is_first` integer NOT NULL,
	`person_id` integer NOT NULL,
	`run` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `failures_trace` ON `failures` (`trace_id`,`span_id`);--> statement-breakpoint
CREATE INDEX `failures_group` ON `failures` (`group_id`,`start_us`);--> statement-breakpoint
CREATE INDEX `failures_person` ON `failures` (`group_id`,`start_us`,`person_id`) WHERE "failures"."person_id" > 0;
--> statement-breakpoint
-- Requests that failed before this table came are booked anew, so that their failures are known.
INSERT OR IGNORE INTO `pending_traces` (`trace_id`, `generation`) SELECT DISTINCT `trace_id`, 0 FROM `requests` WHERE `failed` = 1 LIMIT 100000;
