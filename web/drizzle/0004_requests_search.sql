DROP INDEX `requests_start`;--> statement-breakpoint
CREATE INDEX `requests_start` ON `requests` (`start_us`,`duration_ns`,`failed`,`endpoint_id`,`host_id`,`release_id`,`pairs`,`call_groups`,`rules`);