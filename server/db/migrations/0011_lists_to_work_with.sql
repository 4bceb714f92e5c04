CREATE TABLE "kept_view" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"person_id" uuid NOT NULL,
	"list" text NOT NULL,
	"name" text NOT NULL,
	"asked" text NOT NULL,
	"kept_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "item" ADD COLUMN "archived_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "service_case" ADD COLUMN "ended_order" timestamp with time zone GENERATED ALWAYS AS (coalesce(ended_at, '9999-01-01 00:00:00+00'::timestamptz)) STORED NOT NULL;--> statement-breakpoint
ALTER TABLE "service_case" ADD COLUMN "words" text DEFAULT '' NOT NULL;--> statement-breakpoint
-- What older requests asked is found by what their answers hold; what was chosen by name, by the names from the next correction on.
UPDATE "service_case" c SET "words" = r.name || coalesce((SELECT ' ' || string_agg(v #>> '{}', ' ') FROM jsonb_path_query(c.answers, 'strict $.** ? (@.type() == "string" || @.type() == "number")') v), '') FROM "revision" r WHERE r.id = c.revision_id;--> statement-breakpoint
ALTER TABLE "kept_view" ADD CONSTRAINT "kept_view_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "kept_view_name" ON "kept_view" USING btree ("person_id","list",lower("name"));--> statement-breakpoint
CREATE INDEX "person_by_name" ON "person" USING btree (lower("name"),"id");--> statement-breakpoint
CREATE INDEX "run_step_words" ON "run_step" USING gin (to_tsvector('simple', left("outputs"::text, 100000))) WHERE "run_step"."outputs" is not null;--> statement-breakpoint
CREATE INDEX "case_opened" ON "service_case" USING btree ("opened_at","number");--> statement-breakpoint
CREATE INDEX "case_ended" ON "service_case" USING btree ("ended_order","number");--> statement-breakpoint
CREATE INDEX "case_words" ON "service_case" USING gin (to_tsvector('simple', left("words", 100000)));--> statement-breakpoint
CREATE INDEX "approval_words" ON "approval" USING gin (to_tsvector('simple', "comment")) WHERE "approval"."comment" <> '';--> statement-breakpoint
CREATE INDEX "message_words" ON "message" USING gin (to_tsvector('simple', left("subject" || ' ' || "text", 100000)));