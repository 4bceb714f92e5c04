CREATE TABLE "account_claim" (
	"staff_number" text PRIMARY KEY NOT NULL,
	"key" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "user_name_rule" (
	"id" integer PRIMARY KEY DEFAULT 1 NOT NULL,
	"form" text NOT NULL,
	"most" integer NOT NULL,
	"domain" text NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"changed_by" uuid,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "person" ADD COLUMN "taken_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "user_name_rule" ADD CONSTRAINT "user_name_rule_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;