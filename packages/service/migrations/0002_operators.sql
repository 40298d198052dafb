CREATE TABLE `audit` (
	`seq` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`at_ms` integer NOT NULL,
	`actor` text NOT NULL,
	`action` text NOT NULL,
	`entry` text NOT NULL,
	`chain` blob NOT NULL
);
--> statement-breakpoint
CREATE TABLE `operator_sessions` (
	`id` text PRIMARY KEY NOT NULL,
	`hash` blob NOT NULL,
	`key` text,
	`csrf` text NOT NULL,
	`from_address` text NOT NULL,
	`agent` text NOT NULL,
	`created_at_ms` integer NOT NULL,
	`last_used_at_ms` integer NOT NULL
);
