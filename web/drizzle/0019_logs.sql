DROP INDEX `logs_trace`;--> statement-breakpoint
ALTER TABLE `logs` ADD `resource_id` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `logs` ADD `failure` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
-- What earlier records tell is made up for: their process by their span, and failures by their severity; their traces are booked anew.
UPDATE `logs` SET `resource_id` = coalesce((SELECT `resource_id` FROM `spans` s WHERE s.`trace_id` = `logs`.`trace_id` AND s.`span_id` = `logs`.`span_id`), 0),
  `failure` = `severity` >= 17 OR instr(`attributes`, '"exception.type"') > 0;--> statement-breakpoint
INSERT OR IGNORE INTO `pending_traces` (`trace_id`, `generation`) SELECT DISTINCT l.`trace_id`, 0 FROM `logs` l WHERE l.`failure` = 1 AND EXISTS (SELECT 1 FROM `spans` s WHERE s.`trace_id` = l.`trace_id`) LIMIT 100000;--> statement-breakpoint
CREATE INDEX `logs_time` ON `logs` (`at_us`);--> statement-breakpoint
CREATE INDEX `logs_failure` ON `logs` (`trace_id`,`at_us`) WHERE "logs"."failure" = 1;--> statement-breakpoint
CREATE UNIQUE INDEX `logs_trace` ON `logs` (`trace_id`,`span_id`,`at_us`,`at_ns`,`resource_id`,`body`);