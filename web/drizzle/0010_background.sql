CREATE TABLE `background_work` (
	`trace_id` text NOT NULL,
	`span_id` text NOT NULL,
	`service_id` integer NOT NULL,
	`host_id` integer NOT NULL,
	`release_id` integer NOT NULL,
	`name` text NOT NULL,
	`start_us` integer NOT NULL,
	`duration_ns` integer NOT NULL,
	`failed` integer NOT NULL,
	`span_count` integer NOT NULL,
	`call_count` integer NOT NULL,
	PRIMARY KEY(`trace_id`, `span_id`)
);
--> statement-breakpoint
CREATE INDEX `background_work_start` ON `background_work` (`start_us`);--> statement-breakpoint
ALTER TABLE `requests` ADD `by_root` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `services` ADD `serves` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
UPDATE `services` SET `serves` = 1 WHERE EXISTS (SELECT 1 FROM `requests` r JOIN `spans` s ON s.`trace_id` = r.`trace_id` AND s.`span_id` = r.`span_id` WHERE r.`service_id` = `services`.`id` AND s.`kind` IN (2, 5));--> statement-breakpoint
INSERT OR IGNORE INTO `pending_traces` (`trace_id`) SELECT DISTINCT `trace_id` FROM `requests`;
