CREATE TABLE `counters` (
	`name` text NOT NULL,
	`service` text NOT NULL,
	`host` text NOT NULL,
	`pid` integer NOT NULL,
	`at_us` integer NOT NULL,
	`value` real NOT NULL,
	PRIMARY KEY(`name`, `service`, `host`, `pid`, `at_us`)
);
--> statement-breakpoint
CREATE INDEX `counters_at` ON `counters` (`at_us`);