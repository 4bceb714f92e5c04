-- A run's snapshot is written anew with every event. Room in the page lets the new version stay beside the old one
-- without a new entry in every index; lz4 packs it in a fraction of the time the default takes.
ALTER TABLE "request" ALTER COLUMN "state" SET COMPRESSION lz4;
--> statement-breakpoint
ALTER TABLE "request" SET (fillfactor = 60);
--> statement-breakpoint
ALTER TABLE "run_step" SET (fillfactor = 80);
