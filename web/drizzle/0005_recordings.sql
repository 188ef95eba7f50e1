CREATE TABLE `recording_plans` (
	`id` text PRIMARY KEY NOT NULL,
	`body` text NOT NULL,
	`created_at_us` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `recordings` (
	`id` text PRIMARY KEY NOT NULL,
	`address` text NOT NULL,
	`kind` text NOT NULL,
	`seconds` integer NOT NULL,
	`interval` integer NOT NULL,
	`state` text NOT NULL,
	`message` text NOT NULL,
	`plan_id` text NOT NULL,
	`evidence_id` text NOT NULL,
	`service` text NOT NULL,
	`host` text NOT NULL,
	`release` text NOT NULL,
	`pid` integer NOT NULL,
	`started_at_us` integer NOT NULL,
	`cpu_before` real,
	`cpu_during` real
);
--> statement-breakpoint
CREATE INDEX `recordings_started` ON `recordings` (`started_at_us`);