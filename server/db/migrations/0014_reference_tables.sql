CREATE TABLE "reference_change" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "reference_change_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"table_id" uuid NOT NULL,
	"key" text NOT NULL,
	"column_id" text,
	"was" jsonb,
	"now" jsonb,
	"by" uuid,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "reference_row" (
	"table_id" uuid NOT NULL,
	"key" text NOT NULL,
	"cells" jsonb NOT NULL,
	"words" text NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"retired_at" timestamp with time zone,
	CONSTRAINT "reference_row_table_id_key_pk" PRIMARY KEY("table_id","key")
);
--> statement-breakpoint
CREATE TABLE "reference_table" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"definition" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"changed_by" uuid,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"offered" boolean DEFAULT false NOT NULL
);
--> statement-breakpoint
ALTER TABLE "reference_change" ADD CONSTRAINT "reference_change_by_person_id_fk" FOREIGN KEY ("by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "reference_row" ADD CONSTRAINT "reference_row_table_id_reference_table_id_fk" FOREIGN KEY ("table_id") REFERENCES "public"."reference_table"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "reference_table" ADD CONSTRAINT "reference_table_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "reference_change_row" ON "reference_change" USING btree ("table_id","key","id");--> statement-breakpoint
CREATE INDEX "reference_row_words" ON "reference_row" USING gin ("words" gin_trgm_ops);--> statement-breakpoint
CREATE INDEX "reference_row_there" ON "reference_row" USING btree ("table_id","key") WHERE "reference_row"."retired_at" is null;--> statement-breakpoint
CREATE UNIQUE INDEX "reference_table_name" ON "reference_table" USING btree (lower("name"));--> statement-breakpoint
-- What was changed in a table, cell by cell, is not rewritten either.
CREATE TRIGGER reference_change_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON reference_change FOR EACH STATEMENT EXECUTE FUNCTION refuse_rewriting();
--> statement-breakpoint
DO $$
BEGIN
  IF EXISTS (SELECT FROM pg_roles WHERE rolname = 'nessmoor_app') THEN
    REVOKE UPDATE, DELETE, TRUNCATE ON reference_change FROM nessmoor_app;
  END IF;
END $$;
