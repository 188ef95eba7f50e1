ALTER TABLE `recordings` ADD `cost_low` real;--> statement-breakpoint
ALTER TABLE `recordings` ADD `cost_high` real;