CREATE TABLE `dead_events` (
	`webhook` text NOT NULL,
	`number` integer NOT NULL,
	`type` text NOT NULL,
	`at_ms` integer NOT NULL,
	`event` text NOT NULL,
	`attempts` integer NOT NULL,
	`given_up_at_ms` integer NOT NULL,
	`why` text NOT NULL,
	`again` integer NOT NULL,
	PRIMARY KEY(`webhook`, `number`)
);
--> statement-breakpoint
CREATE TABLE `webhook_events` (
	`number` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`type` text NOT NULL,
	`lobby` text,
	`at_ms` integer NOT NULL,
	`event` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `webhook_places` (
	`webhook` text PRIMARY KEY NOT NULL,
	`up_to` integer NOT NULL,
	`beyond` text NOT NULL
);
