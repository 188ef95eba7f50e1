CREATE TABLE `__new_finding_rollups` (
	`step` integer NOT NULL,
	`at` integer NOT NULL,
	`margin` integer NOT NULL,
	`subject_id` integer NOT NULL,
	`endpoint_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
	`requests` integer NOT NULL,
	`cost_ns` integer NOT NULL,
	PRIMARY KEY(`step`, `margin`, `at`, `subject_id`, `endpoint_id`, `host_id`, `release_id`)
) WITHOUT ROWID;
--> statement-breakpoint
INSERT INTO `__new_finding_rollups` SELECT `step`, `at`, 0, `subject_id`, `endpoint_id`, `host_id`, `release_id`, `requests`, `cost_ns` FROM `finding_rollups`;
--> statement-breakpoint
INSERT INTO `__new_finding_rollups` SELECT `step`, `at`, 1, `subject_id`, `endpoint_id`, 0, 0, sum(`requests`), sum(`cost_ns`) FROM `finding_rollups` GROUP BY `step`, `at`, `subject_id`, `endpoint_id`;
--> statement-breakpoint
DROP TABLE `finding_rollups`;
--> statement-breakpoint
ALTER TABLE `__new_finding_rollups` RENAME TO `finding_rollups`;
