CREATE TABLE "row_asked" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"table_id" uuid NOT NULL,
	"key" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"state" text DEFAULT 'open' NOT NULL,
	"asks_id" uuid,
	"request" integer,
	"why" text
);
--> statement-breakpoint
ALTER TABLE "row_asked" ADD CONSTRAINT "row_asked_table_id_reference_table_id_fk" FOREIGN KEY ("table_id") REFERENCES "public"."reference_table"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "row_asked" ADD CONSTRAINT "row_asked_asks_id_person_id_fk" FOREIGN KEY ("asks_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "row_asked_row" ON "row_asked" USING btree ("table_id","key","at");--> statement-breakpoint
CREATE INDEX "row_asked_open" ON "row_asked" USING btree ("at") WHERE "row_asked"."state" = 'open';