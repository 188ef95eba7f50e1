ALTER TABLE `evidence` ADD `series` text DEFAULT '' NOT NULL;--> statement-breakpoint
CREATE INDEX `evidence_series` ON `evidence` (`series`);