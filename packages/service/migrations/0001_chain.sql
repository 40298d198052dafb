ALTER TABLE `journal` ADD `chain` blob;--> statement-breakpoint
ALTER TABLE `snapshots` ADD `chain` blob;--> statement-breakpoint
ALTER TABLE `snapshots` ADD `sum` blob;