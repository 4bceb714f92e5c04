ALTER TABLE "run" ADD COLUMN "tell_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "run" ADD COLUMN "told_of" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "question" ADD COLUMN "came_as" text;--> statement-breakpoint
CREATE INDEX "run_tell" ON "run" USING btree ("tell_at") WHERE "run"."tell_at" is not null and "run"."ended_at" is null;--> statement-breakpoint
CREATE INDEX "question_came_as" ON "question" USING btree ("came_as") WHERE "question"."came_as" is not null;