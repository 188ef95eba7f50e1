CREATE TABLE `call_groups` (
	`id` integer PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`fingerprint` text NOT NULL,
	`verb` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `call_groups_fingerprint` ON `call_groups` (`kind`,`fingerprint`);--> statement-breakpoint
CREATE TABLE `endpoints` (
	`id` integer PRIMARY KEY NOT NULL,
	`service_id` integer NOT NULL,
	`name` text NOT NULL,
	`apdex_t_ms` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `endpoints_name` ON `endpoints` (`service_id`,`name`);--> statement-breakpoint
CREATE TABLE `evidence` (
	`id` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`format` text NOT NULL,
	`name` text NOT NULL,
	`bytes` integer NOT NULL,
	`service` text NOT NULL,
	`host` text NOT NULL,
	`release` text NOT NULL,
	`pid` integer NOT NULL,
	`started_at_us` integer,
	`duration_ns` integer NOT NULL,
	`received_at_us` integer NOT NULL,
	`summary` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `evidence_started` ON `evidence` (`started_at_us`);--> statement-breakpoint
CREATE TABLE `findings` (
	`id` integer PRIMARY KEY NOT NULL,
	`trace_id` text NOT NULL,
	`span_id` text NOT NULL,
	`service_id` integer NOT NULL,
	`endpoint_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
	`start_us` integer NOT NULL,
	`rule` text NOT NULL,
	`severity` text NOT NULL,
	`subject` text NOT NULL,
	`cost_ns` integer NOT NULL,
	`is_first` integer NOT NULL,
	`body` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `findings_start` ON `findings` (`start_us`,`endpoint_id`,`rule`,`subject`,`cost_ns`,`is_first`,`host_id`,`release_id`);--> statement-breakpoint
CREATE INDEX `findings_trace` ON `findings` (`trace_id`,`span_id`);--> statement-breakpoint
CREATE INDEX `findings_same` ON `findings` (`endpoint_id`,`rule`,`subject`,`start_us`);--> statement-breakpoint
CREATE TABLE `hosts` (
	`id` integer PRIMARY KEY NOT NULL,
	`name` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `hosts_name_unique` ON `hosts` (`name`);--> statement-breakpoint
CREATE TABLE `minute_rollups` (
	`minute` integer NOT NULL,
	`endpoint_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
	`count` integer NOT NULL,
	`failed` integer NOT NULL,
	`satisfied` integer NOT NULL,
	`tolerating` integer NOT NULL,
	`frustrated` integer NOT NULL,
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
	PRIMARY KEY(`minute`, `endpoint_id`, `host_id`, `release_id`)
);
--> statement-breakpoint
CREATE TABLE `pending_traces` (
	`trace_id` text PRIMARY KEY NOT NULL
);
--> statement-breakpoint
CREATE TABLE `releases` (
	`id` integer PRIMARY KEY NOT NULL,
	`service_id` integer NOT NULL,
	`name` text NOT NULL,
	`first_us` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `releases_name` ON `releases` (`service_id`,`name`);--> statement-breakpoint
CREATE TABLE `requests` (
	`trace_id` text NOT NULL,
	`span_id` text NOT NULL,
	`service_id` integer NOT NULL,
	`endpoint_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
	`start_us` integer NOT NULL,
	`duration_ns` integer NOT NULL,
	`failed` integer NOT NULL,
	`exclusive_ns` integer NOT NULL,
	`span_count` integer NOT NULL,
	`call_count` integer NOT NULL,
	`finding_count` integer NOT NULL,
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
	PRIMARY KEY(`trace_id`, `span_id`)
);
--> statement-breakpoint
CREATE INDEX `requests_start` ON `requests` (`start_us`);--> statement-breakpoint
CREATE INDEX `requests_endpoint` ON `requests` (`endpoint_id`,`start_us`);--> statement-breakpoint
CREATE TABLE `resources` (
	`id` integer PRIMARY KEY NOT NULL,
	`key` text NOT NULL,
	`service_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
	`pid` integer NOT NULL,
	`attributes` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `resources_key_unique` ON `resources` (`key`);--> statement-breakpoint
CREATE TABLE `services` (
	`id` integer PRIMARY KEY NOT NULL,
	`name` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `services_name_unique` ON `services` (`name`);--> statement-breakpoint
CREATE TABLE `settings` (
	`key` text PRIMARY KEY NOT NULL,
	`value` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `spans` (
	`trace_id` text NOT NULL,
	`span_id` text NOT NULL,
	`parent_id` text NOT NULL,
	`resource_id` integer NOT NULL,
	`start_us` integer NOT NULL,
	`start_ns` integer NOT NULL,
	`duration_ns` integer NOT NULL,
	`kind` integer NOT NULL,
	`name` text NOT NULL,
	`status` integer NOT NULL,
	`status_message` text NOT NULL,
	`call_group_id` integer,
	`literals` integer,
	`rows` integer,
	`origin` text NOT NULL,
	`attributes` text NOT NULL,
	`events` text NOT NULL,
	PRIMARY KEY(`trace_id`, `span_id`)
) WITHOUT ROWID;
