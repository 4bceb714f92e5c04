-- A trusted extension (PostgreSQL 13 and later): whoever may create in the database may have it.
CREATE EXTENSION IF NOT EXISTS pg_trgm;--> statement-breakpoint
DROP INDEX "approval_person";--> statement-breakpoint
DROP INDEX "request_requester";--> statement-breakpoint
DROP INDEX "request_item";--> statement-breakpoint
DROP INDEX "request_outcome";--> statement-breakpoint
DROP INDEX "run_step_stuck";--> statement-breakpoint
DROP INDEX "task_open_team";--> statement-breakpoint
DROP INDEX "task_open_person";--> statement-breakpoint
ALTER TABLE "item" ADD COLUMN "summary" text GENERATED ALWAYS AS ((draft ->> 'summary')) STORED NOT NULL;--> statement-breakpoint
ALTER TABLE "item" ADD COLUMN "category" text GENERATED ALWAYS AS ((draft ->> 'category')) STORED NOT NULL;--> statement-breakpoint
ALTER TABLE "revision" ADD COLUMN "name" text GENERATED ALWAYS AS ((definition ->> 'name')) STORED NOT NULL;--> statement-breakpoint
ALTER TABLE "revision" ADD COLUMN "summary" text GENERATED ALWAYS AS ((definition ->> 'summary')) STORED NOT NULL;--> statement-breakpoint
ALTER TABLE "revision" ADD COLUMN "category" text GENERATED ALWAYS AS ((definition ->> 'category')) STORED NOT NULL;--> statement-breakpoint
ALTER TABLE "approval" ADD COLUMN "over_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "task" ADD COLUMN "due_order" timestamp with time zone GENERATED ALWAYS AS (coalesce(due_at, '9999-01-01 00:00:00+00'::timestamptz)) STORED NOT NULL;--> statement-breakpoint
CREATE INDEX "person_name_part" ON "person" USING gin (lower("name") gin_trgm_ops);--> statement-breakpoint
CREATE INDEX "person_email_part" ON "person" USING gin (lower("email") gin_trgm_ops);--> statement-breakpoint
CREATE INDEX "item_name_part" ON "item" USING gin (lower("name") gin_trgm_ops);--> statement-breakpoint
CREATE INDEX "approval_over" ON "approval" USING btree ("person_id","over_at") WHERE "approval"."over_at" is not null;--> statement-breakpoint
CREATE INDEX "request_open" ON "request" USING btree ("number") WHERE "request"."outcome" is null;--> statement-breakpoint
CREATE INDEX "request_open_item" ON "request" USING btree ("item_id") WHERE "request"."outcome" is null;--> statement-breakpoint
CREATE INDEX "task_open_taken" ON "task" USING btree ("taken_by","due_order","id") WHERE "task"."closed_at" is null;--> statement-breakpoint
CREATE INDEX "request_requester" ON "request" USING btree ("requester_id","number");--> statement-breakpoint
CREATE INDEX "request_item" ON "request" USING btree ("item_id","number");--> statement-breakpoint
CREATE INDEX "request_outcome" ON "request" USING btree ("outcome","number");--> statement-breakpoint
CREATE INDEX "run_step_stuck" ON "run_step" USING btree ("began_at","order") WHERE "run_step"."stuck_cause" is not null;--> statement-breakpoint
CREATE INDEX "task_open_team" ON "task" USING btree ("team_id","due_order","id") WHERE "task"."closed_at" is null;--> statement-breakpoint
CREATE INDEX "task_open_person" ON "task" USING btree ("person_id","due_order","id") WHERE "task"."closed_at" is null;--> statement-breakpoint
UPDATE approval a SET over_at = coalesce(a.decided_at, g.closed_at) FROM gate g WHERE g.id = a.gate_id AND a.status NOT IN ('waiting', 'later');
