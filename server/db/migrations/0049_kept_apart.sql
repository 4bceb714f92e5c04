CREATE TABLE "apart_exception" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"pair_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"until" date,
	"why" text NOT NULL,
	"by_id" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"ended_at" timestamp with time zone,
	"ended_by" uuid
);
--> statement-breakpoint
CREATE TABLE "kept_apart" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"one_id" uuid NOT NULL,
	"other_id" uuid NOT NULL,
	"why" text NOT NULL,
	"excepters" uuid[] NOT NULL,
	"changed_by" uuid,
	"changed_at" timestamp with time zone NOT NULL,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "cleared_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "apart_exception" ADD CONSTRAINT "apart_exception_pair_id_kept_apart_id_fk" FOREIGN KEY ("pair_id") REFERENCES "public"."kept_apart"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "apart_exception" ADD CONSTRAINT "apart_exception_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "apart_exception" ADD CONSTRAINT "apart_exception_by_id_person_id_fk" FOREIGN KEY ("by_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "apart_exception" ADD CONSTRAINT "apart_exception_ended_by_person_id_fk" FOREIGN KEY ("ended_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "kept_apart" ADD CONSTRAINT "kept_apart_one_id_access_group_id_fk" FOREIGN KEY ("one_id") REFERENCES "public"."access_group"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "kept_apart" ADD CONSTRAINT "kept_apart_other_id_access_group_id_fk" FOREIGN KEY ("other_id") REFERENCES "public"."access_group"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "kept_apart" ADD CONSTRAINT "kept_apart_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "apart_exception_open" ON "apart_exception" USING btree ("pair_id","person_id") WHERE "apart_exception"."ended_at" is null;--> statement-breakpoint
CREATE INDEX "apart_exception_pair" ON "apart_exception" USING btree ("pair_id","at");--> statement-breakpoint
CREATE INDEX "apart_exception_person" ON "apart_exception" USING btree ("person_id");--> statement-breakpoint
CREATE UNIQUE INDEX "kept_apart_pair" ON "kept_apart" USING btree ("one_id","other_id");--> statement-breakpoint
CREATE INDEX "kept_apart_other" ON "kept_apart" USING btree ("other_id");