CREATE TABLE `case_entries` (
	`id` text PRIMARY KEY NOT NULL,
	`case_id` text NOT NULL,
	`place` integer NOT NULL,
	`at_us` integer NOT NULL,
	`title` text NOT NULL,
	`text` text NOT NULL,
	`pin` text DEFAULT '' NOT NULL,
	`version` integer DEFAULT 1 NOT NULL
);
--> statement-breakpoint
CREATE INDEX `case_entries_case` ON `case_entries` (`case_id`,`place`);--> statement-breakpoint
CREATE TABLE `case_evidence` (
	`case_id` text NOT NULL,
	`kind` text NOT NULL,
	`ref` text NOT NULL,
	PRIMARY KEY(`kind`, `ref`, `case_id`)
);
--> statement-breakpoint
CREATE TABLE `cases` (
	`id` text PRIMARY KEY NOT NULL,
	`question` text NOT NULL,
	`state` text NOT NULL,
	`told` text DEFAULT '' NOT NULL,
	`created_at_us` integer NOT NULL,
	`changed_at_us` integer NOT NULL,
	`version` integer DEFAULT 1 NOT NULL
);
