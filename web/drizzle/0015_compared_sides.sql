DROP INDEX `requests_endpoint`;--> statement-breakpoint
CREATE INDEX `requests_endpoint` ON `requests` (`endpoint_id`,`start_us`,`duration_ns`,`failed`,`call_count`,`host_id`,`release_id`);--> statement-breakpoint
ALTER TABLE `call_rollups` ADD `squares` real DEFAULT -1e+300 NOT NULL;