CREATE TABLE "staff_employment" (
	"employment" text PRIMARY KEY NOT NULL,
	"whose" text NOT NULL,
	"record" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "staff_feed" (
	"id" integer PRIMARY KEY DEFAULT 1 NOT NULL,
	"after" bigint DEFAULT 0 NOT NULL,
	"etag" text,
	"asked_at" timestamp with time zone,
	"began_at" timestamp with time zone,
	"ended_at" timestamp with time zone,
	"lines" integer DEFAULT 0 NOT NULL,
	"cause" text
);
--> statement-breakpoint
CREATE TABLE "staff_happening" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"number" bigint NOT NULL,
	"kind" text NOT NULL,
	"whose" text NOT NULL,
	"staff_number" text NOT NULL,
	"name" text NOT NULL,
	"from" date NOT NULL,
	"standing" jsonb NOT NULL,
	"changed" jsonb NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"state" text NOT NULL,
	"why" text,
	"asks_id" uuid,
	"request" bigint
);
--> statement-breakpoint
CREATE TABLE "staff_person" (
	"id" text PRIMARY KEY NOT NULL,
	"numbers" text[] NOT NULL,
	"standing" jsonb NOT NULL,
	"last_day" date,
	"passed_on" date
);
--> statement-breakpoint
CREATE TABLE "staff_rule" (
	"kind" text PRIMARY KEY NOT NULL,
	"item_id" uuid NOT NULL,
	"asks_id" uuid NOT NULL,
	"answers" jsonb NOT NULL,
	"off" boolean DEFAULT false NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"changed_by" uuid,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "person" ADD COLUMN "staff_number" text;--> statement-breakpoint
ALTER TABLE "staff_happening" ADD CONSTRAINT "staff_happening_asks_id_person_id_fk" FOREIGN KEY ("asks_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "staff_rule" ADD CONSTRAINT "staff_rule_item_id_item_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."item"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "staff_rule" ADD CONSTRAINT "staff_rule_asks_id_person_id_fk" FOREIGN KEY ("asks_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "staff_rule" ADD CONSTRAINT "staff_rule_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "staff_employment_whose" ON "staff_employment" USING btree ("whose");--> statement-breakpoint
CREATE UNIQUE INDEX "staff_happening_once" ON "staff_happening" USING btree ("number","kind");--> statement-breakpoint
CREATE INDEX "staff_happening_number" ON "staff_happening" USING btree ("number","id");--> statement-breakpoint
CREATE INDEX "staff_happening_whose" ON "staff_happening" USING btree ("whose");--> statement-breakpoint
CREATE INDEX "staff_happening_open" ON "staff_happening" USING btree ("at") WHERE "staff_happening"."state" = 'open';--> statement-breakpoint
CREATE INDEX "staff_person_numbers" ON "staff_person" USING gin ("numbers");--> statement-breakpoint
CREATE INDEX "staff_person_to_pass_on" ON "staff_person" USING btree ("id") WHERE "staff_person"."last_day" is distinct from "staff_person"."passed_on";--> statement-breakpoint
CREATE INDEX "person_staff_number" ON "person" USING btree ("staff_number");