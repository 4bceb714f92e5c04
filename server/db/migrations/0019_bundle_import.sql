CREATE TABLE "bundle_import" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"item_id" uuid NOT NULL,
	"by" uuid NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"did" jsonb NOT NULL,
	"taken_back_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "bundle_import" ADD CONSTRAINT "bundle_import_by_person_id_fk" FOREIGN KEY ("by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "bundle_import_at" ON "bundle_import" USING btree ("at");