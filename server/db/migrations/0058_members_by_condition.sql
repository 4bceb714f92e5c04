CREATE TABLE "group_admission" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"group_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"state" text DEFAULT 'open' NOT NULL,
	"why" text,
	"case_id" uuid
);
--> statement-breakpoint
CREATE TABLE "group_condition" (
	"group_id" uuid PRIMARY KEY NOT NULL,
	"members" jsonb NOT NULL,
	"why" text NOT NULL,
	"kept_by" uuid NOT NULL,
	"kept_at" timestamp with time zone NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"ended" text,
	"sure" jsonb NOT NULL,
	"held" jsonb,
	"looked_at" timestamp with time zone
);
--> statement-breakpoint
DROP INDEX "item_found";--> statement-breakpoint
DROP INDEX "item_name";--> statement-breakpoint
-- What was found in a system is one of the things that come by themselves.
UPDATE "item" SET "kind" = 'byItself' WHERE "kind" = 'found';--> statement-breakpoint
ALTER TABLE "group_admission" ADD CONSTRAINT "group_admission_group_id_group_condition_group_id_fk" FOREIGN KEY ("group_id") REFERENCES "public"."group_condition"("group_id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "group_admission" ADD CONSTRAINT "group_admission_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "group_admission" ADD CONSTRAINT "group_admission_case_id_service_case_id_fk" FOREIGN KEY ("case_id") REFERENCES "public"."service_case"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "group_condition" ADD CONSTRAINT "group_condition_group_id_access_group_id_fk" FOREIGN KEY ("group_id") REFERENCES "public"."access_group"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "group_condition" ADD CONSTRAINT "group_condition_kept_by_person_id_fk" FOREIGN KEY ("kept_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "group_admission_once" ON "group_admission" USING btree ("group_id","person_id") WHERE "group_admission"."state" <> 'over';--> statement-breakpoint
CREATE INDEX "group_admission_person" ON "group_admission" USING btree ("person_id");--> statement-breakpoint
CREATE INDEX "group_admission_open" ON "group_admission" USING btree ("at") WHERE "group_admission"."state" = 'open';--> statement-breakpoint
CREATE UNIQUE INDEX "item_by_itself" ON "item" USING btree ("name") WHERE "item"."kind" = 'byItself';--> statement-breakpoint
CREATE UNIQUE INDEX "item_name" ON "item" USING btree (lower("name")) WHERE "item"."kind" <> 'byItself';