CREATE TABLE `predictions` (
	`id` integer PRIMARY KEY NOT NULL,
	`service` text NOT NULL,
	`endpoint` text NOT NULL,
	`rule` text NOT NULL,
	`subject` text NOT NULL,
	`side_a` text NOT NULL,
	`side_b` text NOT NULL,
	`before_ns` integer NOT NULL,
	`low_ns` integer NOT NULL,
	`high_ns` integer NOT NULL,
	`measured_low_ns` integer NOT NULL,
	`measured_high_ns` integer NOT NULL,
	`state` text NOT NULL,
	`at_us` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `predictions_what` ON `predictions` (`side_a`,`side_b`,`rule`,`subject`);