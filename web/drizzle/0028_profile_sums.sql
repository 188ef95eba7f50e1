CREATE TABLE `profile_condensed` (
	`evidence_id` text PRIMARY KEY NOT NULL,
	`requests` integer NOT NULL,
	`at_us` integer NOT NULL,
	`message` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `profile_endpoint_slices` (
	`slice_id` integer NOT NULL,
	`endpoint_id` integer NOT NULL,
	`requests` real NOT NULL,
	`busy_us` integer NOT NULL,
	`shared_us` integer NOT NULL,
	`weights` blob NOT NULL,
	PRIMARY KEY(`slice_id`, `endpoint_id`)
);
--> statement-breakpoint
CREATE TABLE `profile_frames` (
	`id` integer PRIMARY KEY NOT NULL,
	`service_id` integer NOT NULL,
	`name` text NOT NULL,
	`file` text NOT NULL,
	`line` integer NOT NULL,
	`col` integer NOT NULL,
	`package` text NOT NULL,
	`kind` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `profile_frames_what` ON `profile_frames` (`service_id`,`name`,`file`,`line`,`col`);--> statement-breakpoint
CREATE TABLE `profile_slices` (
	`id` integer PRIMARY KEY NOT NULL,
	`value_type` text NOT NULL,
	`service_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
	`pid` integer NOT NULL,
	`start_us` integer NOT NULL,
	`length_us` integer NOT NULL,
	`span_us` integer NOT NULL,
	`samples` integer NOT NULL,
	`busy_us` integer NOT NULL,
	`idle_us` integer NOT NULL,
	`source` text NOT NULL,
	`weights` blob NOT NULL
);
--> statement-breakpoint
CREATE INDEX `profile_slices_time` ON `profile_slices` (`service_id`,`start_us`);--> statement-breakpoint
CREATE INDEX `profile_slices_source` ON `profile_slices` (`source`);--> statement-breakpoint
CREATE TABLE `profile_stacks` (
	`id` integer PRIMARY KEY NOT NULL,
	`service_id` integer NOT NULL,
	`parent` integer NOT NULL,
	`frame_id` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `profile_stacks_what` ON `profile_stacks` (`parent`,`frame_id`);--> statement-breakpoint
CREATE INDEX `profile_stacks_of` ON `profile_stacks` (`service_id`);--> statement-breakpoint
CREATE TABLE `done_log` (
	`id` integer PRIMARY KEY NOT NULL,
	`at_us` integer NOT NULL,
	`who` text NOT NULL,
	`what` text NOT NULL
);
--> statement-breakpoint
ALTER TABLE `recordings` ADD `handling_us` integer;