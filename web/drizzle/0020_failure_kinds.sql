ALTER TABLE `failure_groups` ADD `kind` text DEFAULT 'exception' NOT NULL;--> statement-breakpoint
UPDATE `failure_groups` SET `kind` = 'answer' WHERE `type` = '';
