ALTER TABLE `statement_groups` ADD `examined` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `statement_groups` ADD `lock_ns` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `statement_groups` ADD `plan_ns` integer DEFAULT 0 NOT NULL;