CREATE TABLE "place_hours" (
	"location_id" uuid PRIMARY KEY NOT NULL,
	"hours_id" uuid NOT NULL
);
--> statement-breakpoint
CREATE TABLE "service_hours" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"definition" jsonb NOT NULL,
	"everywhere" boolean DEFAULT false NOT NULL,
	"changed_by" uuid,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "team_hours" (
	"team_id" uuid PRIMARY KEY NOT NULL,
	"hours_id" uuid NOT NULL
);
--> statement-breakpoint
ALTER TABLE "place_hours" ADD CONSTRAINT "place_hours_location_id_location_id_fk" FOREIGN KEY ("location_id") REFERENCES "public"."location"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "place_hours" ADD CONSTRAINT "place_hours_hours_id_service_hours_id_fk" FOREIGN KEY ("hours_id") REFERENCES "public"."service_hours"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "service_hours" ADD CONSTRAINT "service_hours_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "team_hours" ADD CONSTRAINT "team_hours_team_id_team_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."team"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "team_hours" ADD CONSTRAINT "team_hours_hours_id_service_hours_id_fk" FOREIGN KEY ("hours_id") REFERENCES "public"."service_hours"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "service_hours_name" ON "service_hours" USING btree (lower("name"));--> statement-breakpoint
CREATE UNIQUE INDEX "service_hours_everywhere" ON "service_hours" USING btree ("everywhere") WHERE "service_hours"."everywhere";