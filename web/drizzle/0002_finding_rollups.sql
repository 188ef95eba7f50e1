CREATE TABLE `finding_rollups` (
	`step` integer NOT NULL,
	`at` integer NOT NULL,
	`subject_id` integer NOT NULL,
	`endpoint_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
	`requests` integer NOT NULL,
	`cost_ns` integer NOT NULL,
	PRIMARY KEY(`step`, `at`, `subject_id`, `endpoint_id`, `host_id`, `release_id`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE TABLE `finding_subjects` (
	`id` integer PRIMARY KEY NOT NULL,
	`rule` text NOT NULL,
	`subject` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `finding_subjects_what` ON `finding_subjects` (`rule`,`subject`);