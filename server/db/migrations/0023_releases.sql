CREATE TABLE "item_release" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"item_id" uuid NOT NULL,
	"definition" jsonb NOT NULL,
	"content_hash" text NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"asked_by" uuid NOT NULL,
	"asked_at" timestamp with time zone DEFAULT now() NOT NULL,
	"due_at" timestamp with time zone,
	"wants_second" boolean NOT NULL,
	"agreed_by" uuid,
	"agreed_at" timestamp with time zone,
	"ended_at" timestamp with time zone,
	"result" text,
	"number" integer,
	"reason" text
);
--> statement-breakpoint
ALTER TABLE "item_release" ADD CONSTRAINT "item_release_item_id_item_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."item"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "item_release" ADD CONSTRAINT "item_release_asked_by_person_id_fk" FOREIGN KEY ("asked_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "item_release" ADD CONSTRAINT "item_release_agreed_by_person_id_fk" FOREIGN KEY ("agreed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "release_waiting" ON "item_release" USING btree ("item_id") WHERE "item_release"."ended_at" is null;--> statement-breakpoint
CREATE INDEX "release_due" ON "item_release" USING btree ("due_at") WHERE "item_release"."ended_at" is null;