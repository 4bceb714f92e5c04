CREATE TABLE "policy" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"definition" jsonb NOT NULL,
	"changed_by" uuid,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "policy_version" (
	"policy_id" uuid NOT NULL,
	"version" integer NOT NULL,
	"definition" jsonb NOT NULL,
	"by" uuid NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	CONSTRAINT "policy_version_policy_id_version_pk" PRIMARY KEY("policy_id","version")
);
--> statement-breakpoint
CREATE TABLE "web_system" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"definition" jsonb NOT NULL,
	"sealed_secret" text,
	"changed_by" uuid,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "answer_version" (
	"request_id" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"seq" integer NOT NULL,
	"by" uuid NOT NULL,
	"changed" jsonb NOT NULL,
	CONSTRAINT "answer_version_request_id_seq_pk" PRIMARY KEY("request_id","seq")
);
--> statement-breakpoint
CREATE TABLE "holding" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"person_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"what" jsonb NOT NULL,
	"request_id" uuid NOT NULL,
	"key" text NOT NULL,
	"since" timestamp with time zone NOT NULL,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "question" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"request_id" uuid NOT NULL,
	"key" text NOT NULL,
	"to_id" uuid NOT NULL,
	"name" text NOT NULL,
	"words" text NOT NULL,
	"fields" jsonb,
	"opened_at" timestamp with time zone NOT NULL,
	"closed_at" timestamp with time zone,
	"result" text,
	"values" jsonb
);
--> statement-breakpoint
CREATE TABLE "task" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"request_id" uuid NOT NULL,
	"key" text NOT NULL,
	"name" text NOT NULL,
	"team_id" uuid,
	"person_id" uuid,
	"taken_by" uuid,
	"instructions" text NOT NULL,
	"checklist" jsonb NOT NULL,
	"fields" jsonb NOT NULL,
	"draft" jsonb NOT NULL,
	"due_at" timestamp with time zone,
	"opened_at" timestamp with time zone NOT NULL,
	"closed_at" timestamp with time zone,
	"result" text,
	"done_by" uuid
);
--> statement-breakpoint
CREATE TABLE "timer" (
	"request_id" uuid NOT NULL,
	"key" text NOT NULL,
	"name" text NOT NULL,
	"due_at" timestamp with time zone NOT NULL,
	CONSTRAINT "timer_request_id_key_name_pk" PRIMARY KEY("request_id","key","name")
);
--> statement-breakpoint
ALTER TABLE "item" ADD COLUMN "kind" text DEFAULT 'item' NOT NULL;--> statement-breakpoint
ALTER TABLE "gate" ADD COLUMN "corrects" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "gate" ADD COLUMN "send_back" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "gate" ADD COLUMN "lapses_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "message" ADD COLUMN "via" text DEFAULT 'mail' NOT NULL;--> statement-breakpoint
ALTER TABLE "policy" ADD CONSTRAINT "policy_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "policy_version" ADD CONSTRAINT "policy_version_policy_id_policy_id_fk" FOREIGN KEY ("policy_id") REFERENCES "public"."policy"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "policy_version" ADD CONSTRAINT "policy_version_by_person_id_fk" FOREIGN KEY ("by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "web_system" ADD CONSTRAINT "web_system_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "answer_version" ADD CONSTRAINT "answer_version_request_id_request_id_fk" FOREIGN KEY ("request_id") REFERENCES "public"."request"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "answer_version" ADD CONSTRAINT "answer_version_by_person_id_fk" FOREIGN KEY ("by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "holding" ADD CONSTRAINT "holding_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "holding" ADD CONSTRAINT "holding_request_id_request_id_fk" FOREIGN KEY ("request_id") REFERENCES "public"."request"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "question" ADD CONSTRAINT "question_request_id_request_id_fk" FOREIGN KEY ("request_id") REFERENCES "public"."request"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "question" ADD CONSTRAINT "question_to_id_person_id_fk" FOREIGN KEY ("to_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "task" ADD CONSTRAINT "task_request_id_request_id_fk" FOREIGN KEY ("request_id") REFERENCES "public"."request"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "task" ADD CONSTRAINT "task_team_id_team_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."team"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "task" ADD CONSTRAINT "task_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "task" ADD CONSTRAINT "task_taken_by_person_id_fk" FOREIGN KEY ("taken_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "task" ADD CONSTRAINT "task_done_by_person_id_fk" FOREIGN KEY ("done_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "timer" ADD CONSTRAINT "timer_request_id_request_id_fk" FOREIGN KEY ("request_id") REFERENCES "public"."request"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "policy_name" ON "policy" USING btree (lower("name"));--> statement-breakpoint
CREATE UNIQUE INDEX "web_system_name" ON "web_system" USING btree (lower("name"));--> statement-breakpoint
CREATE UNIQUE INDEX "holding_key" ON "holding" USING btree ("request_id","key");--> statement-breakpoint
CREATE INDEX "holding_person" ON "holding" USING btree ("person_id","ended_at");--> statement-breakpoint
CREATE UNIQUE INDEX "question_key" ON "question" USING btree ("request_id","key");--> statement-breakpoint
CREATE INDEX "question_open" ON "question" USING btree ("to_id","opened_at") WHERE "question"."closed_at" is null;--> statement-breakpoint
CREATE UNIQUE INDEX "task_key" ON "task" USING btree ("request_id","key");--> statement-breakpoint
CREATE INDEX "task_open_team" ON "task" USING btree ("team_id","due_at","id") WHERE "task"."closed_at" is null;--> statement-breakpoint
CREATE INDEX "task_open_person" ON "task" USING btree ("person_id","due_at","id") WHERE "task"."closed_at" is null;--> statement-breakpoint
CREATE INDEX "timer_due" ON "timer" USING btree ("due_at");--> statement-breakpoint
CREATE TRIGGER policy_version_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON policy_version FOR EACH STATEMENT EXECUTE FUNCTION refuse_rewriting();
--> statement-breakpoint
CREATE TRIGGER answer_version_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON answer_version FOR EACH STATEMENT EXECUTE FUNCTION refuse_rewriting();
--> statement-breakpoint
DO $$
BEGIN
  IF EXISTS (SELECT FROM pg_roles WHERE rolname = 'nessmoor_app') THEN
    REVOKE UPDATE, DELETE, TRUNCATE ON policy_version, answer_version FROM nessmoor_app;
  END IF;
END $$;
