ALTER TABLE "person" ADD COLUMN "moved_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "person" ADD COLUMN "move_told_for" timestamp with time zone;--> statement-breakpoint
CREATE INDEX "person_moved" ON "person" USING btree ("moved_at") WHERE "person"."moved_at" is not null;