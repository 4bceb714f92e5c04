CREATE TABLE "access_group" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"directory_id" text NOT NULL,
	"name" text NOT NULL,
	"purpose" text DEFAULT '' NOT NULL,
	"gone" boolean DEFAULT false NOT NULL,
	CONSTRAINT "access_group_directory_id_unique" UNIQUE("directory_id")
);
--> statement-breakpoint
CREATE TABLE "group_person" (
	"group_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"as" text NOT NULL,
	CONSTRAINT "group_person_group_id_person_id_as_pk" PRIMARY KEY("group_id","person_id","as")
);
--> statement-breakpoint
CREATE TABLE "location" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"parent_id" uuid,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"zone" text,
	CONSTRAINT "location_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "person" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"directory_id" text NOT NULL,
	"user_name" text NOT NULL,
	"name" text NOT NULL,
	"email" text NOT NULL,
	"manager_id" uuid,
	"department" text,
	"job_role" text,
	"location_id" uuid,
	"active" boolean DEFAULT true NOT NULL,
	"last_day" date,
	"away_until" date,
	"delegate_id" uuid,
	"password_hash" text,
	CONSTRAINT "person_directory_id_unique" UNIQUE("directory_id")
);
--> statement-breakpoint
CREATE TABLE "rate_limit" (
	"key" text PRIMARY KEY NOT NULL,
	"points" integer DEFAULT 0 NOT NULL,
	"expire" bigint
);
--> statement-breakpoint
CREATE TABLE "role_grant" (
	"person_id" uuid NOT NULL,
	"role" text NOT NULL,
	CONSTRAINT "role_grant_person_id_role_pk" PRIMARY KEY("person_id","role")
);
--> statement-breakpoint
CREATE TABLE "session" (
	"id_hash" text PRIMARY KEY NOT NULL,
	"person_id" uuid NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"expires_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "team" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"location_id" uuid,
	CONSTRAINT "team_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "team_member" (
	"team_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	CONSTRAINT "team_member_team_id_person_id_pk" PRIMARY KEY("team_id","person_id")
);
--> statement-breakpoint
CREATE TABLE "item" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"draft" jsonb NOT NULL,
	"draft_version" integer DEFAULT 1 NOT NULL,
	"draft_by" uuid,
	"draft_at" timestamp with time zone DEFAULT now() NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"copied_from_id" uuid,
	"published_revision" integer
);
--> statement-breakpoint
CREATE TABLE "revision" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"item_id" uuid NOT NULL,
	"number" integer NOT NULL,
	"definition" jsonb NOT NULL,
	"content_hash" text NOT NULL,
	"published_by" uuid NOT NULL,
	"published_at" timestamp with time zone DEFAULT now() NOT NULL,
	"note" text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE TABLE "approval" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"gate_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"instead_of_id" uuid,
	"status" text DEFAULT 'waiting' NOT NULL,
	"comment" text DEFAULT '' NOT NULL,
	"asked_at" timestamp with time zone NOT NULL,
	"decided_at" timestamp with time zone,
	"token_hash" text,
	"token_expires_at" timestamp with time zone,
	"token_used_at" timestamp with time zone,
	CONSTRAINT "approval_token_hash_unique" UNIQUE("token_hash")
);
--> statement-breakpoint
CREATE TABLE "call" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"request_id" uuid NOT NULL,
	"key" text NOT NULL,
	"action" text NOT NULL,
	"inputs" jsonb NOT NULL,
	"idempotency_key" text NOT NULL,
	"retries" jsonb NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"status" text DEFAULT 'waiting' NOT NULL,
	"outputs" jsonb,
	"due_at" timestamp with time zone NOT NULL,
	CONSTRAINT "call_idempotency_key_unique" UNIQUE("idempotency_key")
);
--> statement-breakpoint
CREATE TABLE "call_try" (
	"call_id" uuid NOT NULL,
	"n" integer NOT NULL,
	"began_at" timestamp with time zone NOT NULL,
	"ended_at" timestamp with time zone NOT NULL,
	"ok" text NOT NULL,
	"said" text NOT NULL,
	CONSTRAINT "call_try_call_id_n_pk" PRIMARY KEY("call_id","n")
);
--> statement-breakpoint
CREATE TABLE "change_log" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "change_log_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"actor_id" uuid,
	"action" text NOT NULL,
	"object" text NOT NULL,
	"object_id" text NOT NULL,
	"detail" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "gate" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"request_id" uuid NOT NULL,
	"key" text NOT NULL,
	"name" text NOT NULL,
	"rule" jsonb NOT NULL,
	"opened_at" timestamp with time zone NOT NULL,
	"closed_at" timestamp with time zone,
	"result" text,
	"decided_by" uuid
);
--> statement-breakpoint
CREATE TABLE "message" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"request_id" uuid NOT NULL,
	"key" text NOT NULL,
	"to_id" uuid NOT NULL,
	"to_address" text NOT NULL,
	"subject" text NOT NULL,
	"text" text NOT NULL,
	"message_id" text NOT NULL,
	"in_reply_to" text,
	"approval_id" uuid,
	"created_at" timestamp with time zone NOT NULL,
	"sent_at" timestamp with time zone,
	"failed_at" timestamp with time zone,
	"attempts" integer DEFAULT 0 NOT NULL,
	"last_error" text,
	CONSTRAINT "message_message_id_unique" UNIQUE("message_id")
);
--> statement-breakpoint
CREATE TABLE "request" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"number" bigserial NOT NULL,
	"item_id" uuid NOT NULL,
	"revision_id" uuid NOT NULL,
	"requester_id" uuid NOT NULL,
	"answers" jsonb NOT NULL,
	"opened_at" timestamp with time zone DEFAULT now() NOT NULL,
	"ended_at" timestamp with time zone,
	"outcome" text,
	"reason" text,
	"once_key" text NOT NULL,
	"seq" integer DEFAULT 0 NOT NULL,
	"state" jsonb NOT NULL,
	CONSTRAINT "request_number_unique" UNIQUE("number")
);
--> statement-breakpoint
CREATE TABLE "run_event" (
	"request_id" uuid NOT NULL,
	"id" bigserial NOT NULL,
	"seq" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"event" jsonb NOT NULL,
	"ignored" text,
	CONSTRAINT "run_event_request_id_id_pk" PRIMARY KEY("request_id","id")
);
--> statement-breakpoint
CREATE TABLE "run_step" (
	"request_id" uuid NOT NULL,
	"key" text NOT NULL,
	"order" bigserial NOT NULL,
	"step" text NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"began_at" timestamp with time zone NOT NULL,
	"ended_at" timestamp with time zone,
	"end" text,
	"inputs" jsonb NOT NULL,
	"outputs" jsonb,
	"taken" text,
	"not_taken" jsonb,
	"note" text,
	"stuck_cause" text,
	CONSTRAINT "run_step_request_id_key_pk" PRIMARY KEY("request_id","key")
);
--> statement-breakpoint
CREATE TABLE "worker_process" (
	"lock_key" bigint PRIMARY KEY NOT NULL,
	"worker_ids" jsonb NOT NULL,
	"started_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "group_person" ADD CONSTRAINT "group_person_group_id_access_group_id_fk" FOREIGN KEY ("group_id") REFERENCES "public"."access_group"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "group_person" ADD CONSTRAINT "group_person_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "location" ADD CONSTRAINT "location_parent_id_location_id_fk" FOREIGN KEY ("parent_id") REFERENCES "public"."location"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "person" ADD CONSTRAINT "person_manager_id_person_id_fk" FOREIGN KEY ("manager_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "person" ADD CONSTRAINT "person_location_id_location_id_fk" FOREIGN KEY ("location_id") REFERENCES "public"."location"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "person" ADD CONSTRAINT "person_delegate_id_person_id_fk" FOREIGN KEY ("delegate_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "role_grant" ADD CONSTRAINT "role_grant_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "session" ADD CONSTRAINT "session_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "team" ADD CONSTRAINT "team_location_id_location_id_fk" FOREIGN KEY ("location_id") REFERENCES "public"."location"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "team_member" ADD CONSTRAINT "team_member_team_id_team_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."team"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "team_member" ADD CONSTRAINT "team_member_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "item" ADD CONSTRAINT "item_draft_by_person_id_fk" FOREIGN KEY ("draft_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "revision" ADD CONSTRAINT "revision_item_id_item_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."item"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "revision" ADD CONSTRAINT "revision_published_by_person_id_fk" FOREIGN KEY ("published_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "approval" ADD CONSTRAINT "approval_gate_id_gate_id_fk" FOREIGN KEY ("gate_id") REFERENCES "public"."gate"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "approval" ADD CONSTRAINT "approval_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "approval" ADD CONSTRAINT "approval_instead_of_id_person_id_fk" FOREIGN KEY ("instead_of_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "call" ADD CONSTRAINT "call_request_id_request_id_fk" FOREIGN KEY ("request_id") REFERENCES "public"."request"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "call_try" ADD CONSTRAINT "call_try_call_id_call_id_fk" FOREIGN KEY ("call_id") REFERENCES "public"."call"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "gate" ADD CONSTRAINT "gate_request_id_request_id_fk" FOREIGN KEY ("request_id") REFERENCES "public"."request"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "gate" ADD CONSTRAINT "gate_decided_by_person_id_fk" FOREIGN KEY ("decided_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "message" ADD CONSTRAINT "message_request_id_request_id_fk" FOREIGN KEY ("request_id") REFERENCES "public"."request"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "message" ADD CONSTRAINT "message_to_id_person_id_fk" FOREIGN KEY ("to_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "message" ADD CONSTRAINT "message_approval_id_approval_id_fk" FOREIGN KEY ("approval_id") REFERENCES "public"."approval"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "request" ADD CONSTRAINT "request_item_id_item_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."item"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "request" ADD CONSTRAINT "request_revision_id_revision_id_fk" FOREIGN KEY ("revision_id") REFERENCES "public"."revision"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "request" ADD CONSTRAINT "request_requester_id_person_id_fk" FOREIGN KEY ("requester_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_event" ADD CONSTRAINT "run_event_request_id_request_id_fk" FOREIGN KEY ("request_id") REFERENCES "public"."request"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_step" ADD CONSTRAINT "run_step_request_id_request_id_fk" FOREIGN KEY ("request_id") REFERENCES "public"."request"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "access_group_name" ON "access_group" USING btree (lower("name")) WHERE not "access_group"."gone";--> statement-breakpoint
CREATE INDEX "group_person_person" ON "group_person" USING btree ("person_id","as");--> statement-breakpoint
CREATE UNIQUE INDEX "person_user_name" ON "person" USING btree (lower("user_name"));--> statement-breakpoint
CREATE INDEX "person_name" ON "person" USING btree (lower("name") text_pattern_ops);--> statement-breakpoint
CREATE INDEX "person_email" ON "person" USING btree (lower("email"));--> statement-breakpoint
CREATE INDEX "session_expires" ON "session" USING btree ("expires_at");--> statement-breakpoint
CREATE INDEX "team_member_person" ON "team_member" USING btree ("person_id");--> statement-breakpoint
CREATE UNIQUE INDEX "item_name" ON "item" USING btree (lower("name"));--> statement-breakpoint
CREATE UNIQUE INDEX "revision_number" ON "revision" USING btree ("item_id","number");--> statement-breakpoint
CREATE INDEX "revision_hash" ON "revision" USING btree ("content_hash");--> statement-breakpoint
CREATE UNIQUE INDEX "approval_once" ON "approval" USING btree ("gate_id","person_id");--> statement-breakpoint
CREATE INDEX "approval_waiting" ON "approval" USING btree ("person_id","asked_at") WHERE "approval"."status" = 'waiting';--> statement-breakpoint
CREATE INDEX "approval_person" ON "approval" USING btree ("person_id","decided_at");--> statement-breakpoint
CREATE INDEX "call_request" ON "call" USING btree ("request_id");--> statement-breakpoint
CREATE INDEX "call_waiting" ON "call" USING btree ("due_at") WHERE "call"."status" = 'waiting';--> statement-breakpoint
CREATE INDEX "change_log_object" ON "change_log" USING btree ("object","object_id","id");--> statement-breakpoint
CREATE UNIQUE INDEX "gate_key" ON "gate" USING btree ("request_id","key");--> statement-breakpoint
CREATE INDEX "message_request" ON "message" USING btree ("request_id","created_at");--> statement-breakpoint
CREATE INDEX "message_unsent" ON "message" USING btree ("created_at") WHERE "message"."sent_at" is null and "message"."failed_at" is null;--> statement-breakpoint
CREATE INDEX "request_requester" ON "request" USING btree ("requester_id","number" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "request_item" ON "request" USING btree ("item_id","number" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "request_outcome" ON "request" USING btree ("outcome","number" DESC NULLS LAST);--> statement-breakpoint
CREATE UNIQUE INDEX "request_once" ON "request" USING btree ("requester_id","once_key");--> statement-breakpoint
CREATE INDEX "run_step_open" ON "run_step" USING btree ("request_id") WHERE "run_step"."ended_at" is null;--> statement-breakpoint
CREATE INDEX "run_step_stuck" ON "run_step" USING btree ("began_at") WHERE "run_step"."stuck_cause" is not null;