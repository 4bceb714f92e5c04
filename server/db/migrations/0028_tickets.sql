CREATE TABLE "routing_table" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"definition" jsonb NOT NULL,
	"for_tickets" boolean DEFAULT false NOT NULL,
	"changed_by" uuid,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "routing_turn" (
	"team_id" uuid PRIMARY KEY NOT NULL,
	"last_id" uuid NOT NULL
);
--> statement-breakpoint
CREATE TABLE "ticket" (
	"case_id" uuid PRIMARY KEY NOT NULL,
	"kind_id" uuid NOT NULL,
	"subject" text NOT NULL,
	"category" text,
	"place_id" uuid,
	"filled" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"helped" boolean,
	"seq" integer NOT NULL,
	"state" jsonb NOT NULL,
	"status" text NOT NULL,
	"priority" text NOT NULL,
	"team_id" uuid,
	"holder_id" uuid,
	"due_at" timestamp with time zone,
	"due_order" timestamp with time zone GENERATED ALWAYS AS (coalesce(due_at, '9999-01-01 00:00:00+00'::timestamptz)) STORED NOT NULL,
	"response_due_at" timestamp with time zone,
	"next_at" timestamp with time zone,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "ticket_event" (
	"case_id" uuid NOT NULL,
	"seq" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"by" uuid,
	"event" jsonb NOT NULL,
	CONSTRAINT "ticket_event_case_id_seq_pk" PRIMARY KEY("case_id","seq")
);
--> statement-breakpoint
CREATE TABLE "ticket_kind" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"definition" jsonb NOT NULL,
	"changed_by" uuid,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "ticket_word" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"case_id" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"by" uuid,
	"from" text NOT NULL,
	"inside" boolean NOT NULL,
	"via" text NOT NULL,
	"text" text NOT NULL,
	"content" jsonb,
	"came_as" text,
	"once" text,
	CONSTRAINT "ticket_word_came_as_unique" UNIQUE("came_as"),
	CONSTRAINT "ticket_word_once_unique" UNIQUE("once")
);
--> statement-breakpoint
ALTER TABLE "service_case" ALTER COLUMN "item_id" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "service_case" ALTER COLUMN "revision_id" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "message" ALTER COLUMN "run_id" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "routing_table" ADD CONSTRAINT "routing_table_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "routing_turn" ADD CONSTRAINT "routing_turn_team_id_team_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."team"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "routing_turn" ADD CONSTRAINT "routing_turn_last_id_person_id_fk" FOREIGN KEY ("last_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket" ADD CONSTRAINT "ticket_case_id_service_case_id_fk" FOREIGN KEY ("case_id") REFERENCES "public"."service_case"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket" ADD CONSTRAINT "ticket_kind_id_ticket_kind_id_fk" FOREIGN KEY ("kind_id") REFERENCES "public"."ticket_kind"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket" ADD CONSTRAINT "ticket_place_id_location_id_fk" FOREIGN KEY ("place_id") REFERENCES "public"."location"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket" ADD CONSTRAINT "ticket_team_id_team_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."team"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket" ADD CONSTRAINT "ticket_holder_id_person_id_fk" FOREIGN KEY ("holder_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket_event" ADD CONSTRAINT "ticket_event_case_id_service_case_id_fk" FOREIGN KEY ("case_id") REFERENCES "public"."service_case"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket_event" ADD CONSTRAINT "ticket_event_by_person_id_fk" FOREIGN KEY ("by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket_kind" ADD CONSTRAINT "ticket_kind_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket_word" ADD CONSTRAINT "ticket_word_case_id_service_case_id_fk" FOREIGN KEY ("case_id") REFERENCES "public"."service_case"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket_word" ADD CONSTRAINT "ticket_word_by_person_id_fk" FOREIGN KEY ("by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "routing_table_name" ON "routing_table" USING btree (lower("name"));--> statement-breakpoint
CREATE UNIQUE INDEX "routing_table_for_tickets" ON "routing_table" USING btree ("for_tickets") WHERE "routing_table"."for_tickets";--> statement-breakpoint
CREATE INDEX "ticket_open_team" ON "ticket" USING btree ("team_id","due_order","case_id") WHERE "ticket"."ended_at" is null;--> statement-breakpoint
CREATE INDEX "ticket_open_holder" ON "ticket" USING btree ("holder_id","due_order","case_id") WHERE "ticket"."ended_at" is null;--> statement-breakpoint
CREATE INDEX "ticket_open_kind" ON "ticket" USING btree ("kind_id","status") WHERE "ticket"."ended_at" is null;--> statement-breakpoint
CREATE INDEX "ticket_next" ON "ticket" USING btree ("next_at");--> statement-breakpoint
CREATE INDEX "ticket_words" ON "ticket" USING gin (to_tsvector('simple', "subject"));--> statement-breakpoint
CREATE UNIQUE INDEX "ticket_kind_name" ON "ticket_kind" USING btree (lower("name"));--> statement-breakpoint
CREATE INDEX "ticket_word_case" ON "ticket_word" USING btree ("case_id","at");--> statement-breakpoint
CREATE INDEX "ticket_word_words" ON "ticket_word" USING gin (to_tsvector('simple', left("text", 100000)));--> statement-breakpoint
ALTER TABLE "service_case" ADD CONSTRAINT "case_request" CHECK ("service_case"."kind" <> 'request' or ("service_case"."item_id" is not null and "service_case"."revision_id" is not null));--> statement-breakpoint
-- What happened to a ticket is not rewritten, unless a person is taken out of it; what moves is told.
CREATE TRIGGER ticket_event_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON ticket_event FOR EACH STATEMENT EXECUTE FUNCTION refuse_rewriting_events();--> statement-breakpoint
CREATE FUNCTION ticket_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM tell_moved(ARRAY(SELECT case_id FROM moved));
  RETURN NULL;
END $$;--> statement-breakpoint
CREATE TRIGGER ticket_opened AFTER INSERT ON ticket REFERENCING NEW TABLE AS moved FOR EACH STATEMENT EXECUTE FUNCTION ticket_moved();--> statement-breakpoint
CREATE TRIGGER ticket_moved AFTER UPDATE ON ticket REFERENCING NEW TABLE AS moved FOR EACH STATEMENT EXECUTE FUNCTION ticket_moved();--> statement-breakpoint
CREATE TRIGGER ticket_word_said AFTER INSERT ON ticket_word REFERENCING NEW TABLE AS moved FOR EACH STATEMENT EXECUTE FUNCTION ticket_moved();--> statement-breakpoint
-- Tasks and tickets stand in one queue.
UPDATE kept_view SET list = 'queue' WHERE list = 'tasks';--> statement-breakpoint
DO $$
BEGIN
  IF EXISTS (SELECT FROM pg_roles WHERE rolname = 'nessmoor_app') THEN
    REVOKE UPDATE, DELETE, TRUNCATE ON ticket_event FROM nessmoor_app;
  END IF;
END $$;
