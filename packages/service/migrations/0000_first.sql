CREATE TABLE `facts` (
	`name` text PRIMARY KEY NOT NULL,
	`value` blob NOT NULL
);
--> statement-breakpoint
CREATE TABLE `instances` (
	`id` text PRIMARY KEY NOT NULL,
	`launched_at_ms` integer NOT NULL,
	`pool` text NOT NULL,
	`state` text NOT NULL,
	`view` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `instances_by_time` ON `instances` (`launched_at_ms`);--> statement-breakpoint
CREATE INDEX `instances_by_state` ON `instances` (`state`);--> statement-breakpoint
CREATE TABLE `journal` (
	`seq` integer PRIMARY KEY NOT NULL,
	`at_ms` integer NOT NULL,
	`kind` text NOT NULL,
	`version` integer NOT NULL,
	`body` text NOT NULL,
	`chain` blob
);
--> statement-breakpoint
CREATE TABLE `snapshots` (
	`seq` integer PRIMARY KEY NOT NULL,
	`at_ms` integer NOT NULL,
	`version` integer NOT NULL,
	`body` text NOT NULL,
	`chain` blob,
	`sum` blob
);
