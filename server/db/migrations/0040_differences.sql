CREATE TABLE "difference" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"system" text NOT NULL,
	"action" text NOT NULL,
	"kind" text NOT NULL,
	"what" jsonb NOT NULL,
	"person_id" uuid,
	"is" text NOT NULL,
	"holding_id" uuid,
	"until" date,
	"outputs" jsonb NOT NULL,
	"found_at" timestamp with time zone NOT NULL,
	"seen_at" timestamp with time zone NOT NULL,
	"state" text DEFAULT 'open' NOT NULL,
	"how" text,
	"why" text,
	"settled_at" timestamp with time zone,
	"settled_by" uuid
);
--> statement-breakpoint
CREATE TABLE "system_reading" (
	"system" text PRIMARY KEY NOT NULL,
	"asked_at" timestamp with time zone NOT NULL,
	"asked_by" uuid,
	"began_at" timestamp with time zone,
	"ended_at" timestamp with time zone,
	"things" integer DEFAULT 0 NOT NULL,
	"odd" integer DEFAULT 0 NOT NULL,
	"whole" boolean DEFAULT false NOT NULL,
	"cause" text
);
--> statement-breakpoint
DROP INDEX "holding_group";--> statement-breakpoint
DROP INDEX "item_name";--> statement-breakpoint
ALTER TABLE "holding" ADD COLUMN "action" text;--> statement-breakpoint
ALTER TABLE "difference" ADD CONSTRAINT "difference_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "difference" ADD CONSTRAINT "difference_holding_id_holding_id_fk" FOREIGN KEY ("holding_id") REFERENCES "public"."holding"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "difference" ADD CONSTRAINT "difference_settled_by_person_id_fk" FOREIGN KEY ("settled_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "system_reading" ADD CONSTRAINT "system_reading_asked_by_person_id_fk" FOREIGN KEY ("asked_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "difference_once" ON "difference" USING btree ("action","is",md5("what"::text),coalesce("person_id", '00000000-0000-0000-0000-000000000000'::uuid)) WHERE "difference"."state" in ('open', 'left');--> statement-breakpoint
CREATE INDEX "difference_found" ON "difference" USING btree ("found_at","id");--> statement-breakpoint
CREATE INDEX "difference_open" ON "difference" USING btree ("found_at","id") WHERE "difference"."state" = 'open';--> statement-breakpoint
CREATE INDEX "difference_holding" ON "difference" USING btree ("holding_id");--> statement-breakpoint
CREATE INDEX "difference_person" ON "difference" USING btree ("person_id");--> statement-breakpoint
CREATE INDEX "holding_action" ON "holding" USING btree ("action") WHERE "holding"."ended_at" is null;--> statement-breakpoint
CREATE UNIQUE INDEX "item_found" ON "item" USING btree ("name") WHERE "item"."kind" = 'found';--> statement-breakpoint
CREATE INDEX "holding_group" ON "holding" USING btree (("what" ->> 'group'),"since","id") WHERE "holding"."ended_at" is null;--> statement-breakpoint
CREATE UNIQUE INDEX "item_name" ON "item" USING btree (lower("name")) WHERE "item"."kind" <> 'found';--> statement-breakpoint
-- By which action something was given stands in the run that gave it, as long as it knows of it.
UPDATE holding h SET action = g.given ->> 'action'
FROM run r CROSS JOIN LATERAL jsonb_array_elements(coalesce(r.state -> 'given', '[]'::jsonb)) AS g(given)
WHERE r.id = h.run_id AND h.ended_at IS NULL AND h.key = CASE
  WHEN g.given ? 'byHand' THEN (g.given ->> 'key') || '/hand'
  WHEN coalesce((g.given ->> 'round')::int, 0) <> 0 THEN (g.given ->> 'key') || '/' || (g.given ->> 'round')
  ELSE g.given ->> 'key' END;
