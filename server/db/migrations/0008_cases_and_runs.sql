-- A request was a case and its run in one row. Each has its own now; what was one keeps its id in both, so that keys of
-- calls already made, links and the log of changes stay good.
ALTER TABLE "request" RENAME TO "service_case";--> statement-breakpoint
ALTER SEQUENCE "request_number_seq" RENAME TO "service_case_number_seq";--> statement-breakpoint
ALTER TABLE "service_case" RENAME CONSTRAINT "request_pkey" TO "service_case_pkey";--> statement-breakpoint
ALTER TABLE "service_case" RENAME CONSTRAINT "request_number_unique" TO "service_case_number_unique";--> statement-breakpoint
ALTER TABLE "service_case" RENAME CONSTRAINT "request_item_id_item_id_fk" TO "service_case_item_id_item_id_fk";--> statement-breakpoint
ALTER TABLE "service_case" RENAME CONSTRAINT "request_revision_id_revision_id_fk" TO "service_case_revision_id_revision_id_fk";--> statement-breakpoint
ALTER TABLE "service_case" RENAME CONSTRAINT "request_requester_id_person_id_fk" TO "service_case_requester_id_person_id_fk";--> statement-breakpoint
ALTER INDEX "request_requester" RENAME TO "case_requester";--> statement-breakpoint
ALTER INDEX "request_item" RENAME TO "case_item";--> statement-breakpoint
ALTER INDEX "request_outcome" RENAME TO "case_outcome";--> statement-breakpoint
ALTER INDEX "request_open" RENAME TO "case_open";--> statement-breakpoint
ALTER INDEX "request_open_item" RENAME TO "case_open_item";--> statement-breakpoint
ALTER INDEX "request_once" RENAME TO "case_once";--> statement-breakpoint
ALTER TABLE "service_case" ADD COLUMN "kind" text NOT NULL DEFAULT 'request';--> statement-breakpoint
ALTER TABLE "service_case" ALTER COLUMN "kind" DROP DEFAULT;--> statement-breakpoint
CREATE TABLE "run" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"case_id" uuid NOT NULL,
	"revision_id" uuid NOT NULL,
	"began_at" timestamp with time zone NOT NULL,
	"ended_at" timestamp with time zone,
	"outcome" text,
	"seq" integer DEFAULT 0 NOT NULL,
	"state" jsonb NOT NULL
);--> statement-breakpoint
-- As its row had it before: room in the page for the next snapshot, and packed fast.
ALTER TABLE "run" ALTER COLUMN "state" SET COMPRESSION lz4;--> statement-breakpoint
ALTER TABLE "run" SET (fillfactor = 60);--> statement-breakpoint
ALTER TABLE "service_case" RESET (fillfactor);--> statement-breakpoint
INSERT INTO "run" ("id", "case_id", "revision_id", "began_at", "ended_at", "outcome", "seq", "state")
	SELECT "id", "id", "revision_id", "opened_at", "ended_at", "outcome", "seq", "state" FROM "service_case";--> statement-breakpoint
ALTER TABLE "service_case" DROP COLUMN "seq";--> statement-breakpoint
ALTER TABLE "service_case" DROP COLUMN "state";--> statement-breakpoint
ALTER TABLE "run" ADD CONSTRAINT "run_case_id_service_case_id_fk" FOREIGN KEY ("case_id") REFERENCES "public"."service_case"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run" ADD CONSTRAINT "run_revision_id_revision_id_fk" FOREIGN KEY ("revision_id") REFERENCES "public"."revision"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "run_case" ON "run" USING btree ("case_id");--> statement-breakpoint
ALTER TABLE "answer_version" DROP CONSTRAINT "answer_version_request_id_request_id_fk";--> statement-breakpoint
ALTER TABLE "answer_version" RENAME COLUMN "request_id" TO "run_id";--> statement-breakpoint
ALTER TABLE "answer_version" RENAME CONSTRAINT "answer_version_request_id_seq_pk" TO "answer_version_run_id_seq_pk";--> statement-breakpoint
ALTER TABLE "answer_version" ADD CONSTRAINT "answer_version_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_event" DROP CONSTRAINT "run_event_request_id_request_id_fk";--> statement-breakpoint
ALTER TABLE "run_event" RENAME COLUMN "request_id" TO "run_id";--> statement-breakpoint
ALTER TABLE "run_event" RENAME CONSTRAINT "run_event_request_id_id_pk" TO "run_event_run_id_id_pk";--> statement-breakpoint
ALTER TABLE "run_event" ADD CONSTRAINT "run_event_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_step" DROP CONSTRAINT "run_step_request_id_request_id_fk";--> statement-breakpoint
ALTER TABLE "run_step" RENAME COLUMN "request_id" TO "run_id";--> statement-breakpoint
ALTER TABLE "run_step" RENAME CONSTRAINT "run_step_request_id_key_pk" TO "run_step_run_id_key_pk";--> statement-breakpoint
ALTER TABLE "run_step" ADD CONSTRAINT "run_step_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "timer" DROP CONSTRAINT "timer_request_id_request_id_fk";--> statement-breakpoint
ALTER TABLE "timer" RENAME COLUMN "request_id" TO "run_id";--> statement-breakpoint
ALTER TABLE "timer" RENAME CONSTRAINT "timer_request_id_key_name_pk" TO "timer_run_id_key_name_pk";--> statement-breakpoint
ALTER TABLE "timer" ADD CONSTRAINT "timer_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "gate" DROP CONSTRAINT "gate_request_id_request_id_fk";--> statement-breakpoint
ALTER TABLE "gate" RENAME COLUMN "request_id" TO "run_id";--> statement-breakpoint
ALTER TABLE "gate" ADD CONSTRAINT "gate_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "question" DROP CONSTRAINT "question_request_id_request_id_fk";--> statement-breakpoint
ALTER TABLE "question" RENAME COLUMN "request_id" TO "run_id";--> statement-breakpoint
ALTER TABLE "question" ADD CONSTRAINT "question_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "task" DROP CONSTRAINT "task_request_id_request_id_fk";--> statement-breakpoint
ALTER TABLE "task" RENAME COLUMN "request_id" TO "run_id";--> statement-breakpoint
ALTER TABLE "task" ADD CONSTRAINT "task_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "message" DROP CONSTRAINT "message_request_id_request_id_fk";--> statement-breakpoint
ALTER TABLE "message" RENAME COLUMN "request_id" TO "run_id";--> statement-breakpoint
ALTER TABLE "message" ADD CONSTRAINT "message_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "call" DROP CONSTRAINT "call_request_id_request_id_fk";--> statement-breakpoint
ALTER TABLE "call" RENAME COLUMN "request_id" TO "run_id";--> statement-breakpoint
ALTER TABLE "call" ADD CONSTRAINT "call_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "holding" DROP CONSTRAINT "holding_request_id_request_id_fk";--> statement-breakpoint
ALTER TABLE "holding" RENAME COLUMN "request_id" TO "run_id";--> statement-breakpoint
ALTER TABLE "holding" ADD CONSTRAINT "holding_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER INDEX "call_request" RENAME TO "call_run";--> statement-breakpoint
ALTER TABLE "message" ADD COLUMN "case_id" uuid;--> statement-breakpoint
UPDATE "message" SET "case_id" = "run_id";--> statement-breakpoint
ALTER TABLE "message" ALTER COLUMN "case_id" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "message" ADD CONSTRAINT "message_case_id_service_case_id_fk" FOREIGN KEY ("case_id") REFERENCES "public"."service_case"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
DROP INDEX "message_request";--> statement-breakpoint
CREATE INDEX "message_case" ON "message" USING btree ("case_id","created_at");
