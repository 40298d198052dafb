CREATE TABLE `operator_keys` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`role` text NOT NULL,
	`hash` blob NOT NULL,
	`created_at_ms` integer NOT NULL,
	`life_ms` integer,
	`ends_at_ms` integer,
	`revoked_at_ms` integer,
	`last_used_at_ms` integer,
	`last_used_from` text
);
