CREATE TABLE "table_reading" (
	"table_id" uuid PRIMARY KEY NOT NULL,
	"asked_at" timestamp with time zone NOT NULL,
	"asked_by" uuid,
	"began_at" timestamp with time zone,
	"ended_at" timestamp with time zone,
	"next_at" timestamp with time zone,
	"sound_at" timestamp with time zone,
	"rows" integer DEFAULT 0 NOT NULL,
	"odd" integer DEFAULT 0 NOT NULL,
	"problems" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"cause" text
);
--> statement-breakpoint
ALTER TABLE "table_reading" ADD CONSTRAINT "table_reading_table_id_reference_table_id_fk" FOREIGN KEY ("table_id") REFERENCES "public"."reference_table"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "table_reading" ADD CONSTRAINT "table_reading_asked_by_person_id_fk" FOREIGN KEY ("asked_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "table_reading_next" ON "table_reading" USING btree ("next_at");