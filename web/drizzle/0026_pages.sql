CREATE TABLE `page_asks` (
	`trace_id` text NOT NULL,
	`span_id` text NOT NULL,
	`load_id` text NOT NULL,
	PRIMARY KEY(`trace_id`, `span_id`, `load_id`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE INDEX `page_asks_load` ON `page_asks` (`load_id`);--> statement-breakpoint
CREATE TABLE `page_audiences` (
	`id` integer PRIMARY KEY NOT NULL,
	`release` text NOT NULL,
	`device` text NOT NULL,
	`connection` text NOT NULL,
	`country` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `page_audiences_what` ON `page_audiences` (`release`,`device`,`connection`,`country`);--> statement-breakpoint
CREATE TABLE `page_loads` (
	`trace_id` text PRIMARY KEY NOT NULL,
	`page_id` integer NOT NULL,
	`audience_id` integer NOT NULL,
	`start_us` integer NOT NULL,
	`received_us` integer NOT NULL,
	`part` integer NOT NULL,
	`session` text NOT NULL,
	`source` text NOT NULL,
	`navigation` text NOT NULL,
	`ttfb` real,
	`fcp` real,
	`lcp` real,
	`inp` real,
	`cls` real,
	`score` real,
	`resources` integer NOT NULL,
	`tasks` integer NOT NULL,
	`steps` integer NOT NULL,
	`errors` integer NOT NULL,
	`profile` text DEFAULT '' NOT NULL,
	`data` blob NOT NULL
);
--> statement-breakpoint
CREATE INDEX `page_loads_page` ON `page_loads` (`page_id`,`source`,`start_us`,`audience_id`,`lcp`);--> statement-breakpoint
CREATE INDEX `page_loads_start` ON `page_loads` (`start_us`);--> statement-breakpoint
CREATE INDEX `page_loads_received` ON `page_loads` (`source`,`received_us`);--> statement-breakpoint
CREATE INDEX `page_loads_session` ON `page_loads` (`session`,`start_us`);--> statement-breakpoint
CREATE TABLE `page_rollups` (
	`step` integer NOT NULL,
	`margin` integer NOT NULL,
	`at` integer NOT NULL,
	`page_id` integer NOT NULL,
	`audience_id` integer NOT NULL,
	`loads` integer NOT NULL,
	`scored` integer NOT NULL,
	`score_sum` integer NOT NULL,
	`errors` integer NOT NULL,
	`ttfb` text NOT NULL,
	`fcp` text NOT NULL,
	`lcp` text NOT NULL,
	`inp` text NOT NULL,
	`cls` text NOT NULL,
	PRIMARY KEY(`step`, `margin`, `at`, `page_id`, `audience_id`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE TABLE `pages` (
	`id` integer PRIMARY KEY NOT NULL,
	`site` text NOT NULL,
	`name` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `pages_name` ON `pages` (`site`,`name`);