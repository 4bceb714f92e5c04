ALTER TABLE "person" ADD COLUMN "inactive_since" timestamp with time zone;--> statement-breakpoint
-- Since when is not known of those who are not there now; from now on it is.
UPDATE "person" SET "inactive_since" = now() WHERE NOT "active" AND NOT "outside" AND "erased_at" IS NULL;
