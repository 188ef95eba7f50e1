DROP INDEX `findings_same`;--> statement-breakpoint
CREATE INDEX `findings_same` ON `findings` (`endpoint_id`,`rule`,`subject`,`start_us`,`is_first`);