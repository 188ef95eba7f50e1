CREATE TABLE `boards` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`charts` text NOT NULL,
	`version` integer DEFAULT 1 NOT NULL,
	`changed_at_us` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `deliveries` (
	`id` text PRIMARY KEY NOT NULL,
	`hook_id` text NOT NULL,
	`firing_id` text NOT NULL,
	`kind` text NOT NULL,
	`body` text NOT NULL,
	`state` text NOT NULL,
	`tries` integer DEFAULT 0 NOT NULL,
	`next_at_us` integer NOT NULL,
	`status` integer DEFAULT 0 NOT NULL,
	`message` text DEFAULT '' NOT NULL,
	`created_at_us` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `deliveries_next` ON `deliveries` (`state`,`next_at_us`);--> statement-breakpoint
CREATE INDEX `deliveries_created` ON `deliveries` (`created_at_us`);--> statement-breakpoint
CREATE TABLE `hooks` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`url` text NOT NULL,
	`secret` text NOT NULL,
	`least` text NOT NULL,
	`created_at_us` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `watch_firings` (
	`id` text PRIMARY KEY NOT NULL,
	`watch_id` text NOT NULL,
	`on_minute` integer NOT NULL,
	`off_minute` integer,
	`ended` text DEFAULT '' NOT NULL,
	`value` real,
	`before` real,
	`worst` real,
	`late_minutes` integer DEFAULT 0 NOT NULL,
	`silenced` integer DEFAULT 0 NOT NULL,
	`case_id` text DEFAULT '' NOT NULL,
	`seen_by` text DEFAULT '' NOT NULL,
	`seen_at_us` integer
);
--> statement-breakpoint
CREATE INDEX `watch_firings_watch` ON `watch_firings` (`watch_id`,`on_minute`);--> statement-breakpoint
CREATE INDEX `watch_firings_on` ON `watch_firings` (`on_minute`);--> statement-breakpoint
CREATE TABLE `watch_standings` (
	`watch_id` text PRIMARY KEY NOT NULL,
	`judged` integer NOT NULL,
	`state` text NOT NULL,
	`since` integer NOT NULL,
	`over` integer NOT NULL,
	`back` integer NOT NULL,
	`none` integer NOT NULL,
	`value` real,
	`before` real,
	`firing_id` text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE TABLE `watch_tasks` (
	`id` text PRIMARY KEY NOT NULL,
	`watch_id` text NOT NULL,
	`firing_id` text NOT NULL,
	`actions` text NOT NULL,
	`state` text NOT NULL,
	`message` text DEFAULT '' NOT NULL,
	`created_at_us` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `watch_tasks_state` ON `watch_tasks` (`state`);--> statement-breakpoint
CREATE INDEX `watch_tasks_firing` ON `watch_tasks` (`firing_id`);--> statement-breakpoint
CREATE TABLE `watches` (
	`id` text PRIMARY KEY NOT NULL,
	`body` text NOT NULL,
	`created_at_us` integer NOT NULL,
	`version` integer DEFAULT 1 NOT NULL,
	`silent_until_us` integer DEFAULT 0 NOT NULL
);
--> statement-breakpoint
INSERT INTO `watches` (`id`, `body`, `created_at_us`) SELECT `id`, json_object('condition', json_object(
	'watched', json_object('of', 'requests', 'figure', 'p95', 'place', json_object('service', `body`->>'$.when.service', 'endpoint', `body`->>'$.when.endpoint')),
	'limit', json_object('by', 'number', 'side', 'above', 'on', (`body`->>'$.when.overMs') * 1000000, 'off', (`body`->>'$.when.overMs') * 1000000),
	'over', 5, 'for', 1)), `created_at_us` FROM `recording_plans` WHERE `body`->>'$.when.by' = 'p95';--> statement-breakpoint
UPDATE `recording_plans` SET `body` = json_set(`body`, '$.when', json_object('by', 'watch', 'watch', `id`)) WHERE `body`->>'$.when.by' = 'p95';
