CREATE TABLE "letter" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"run_id" uuid NOT NULL,
	"key" text NOT NULL,
	"round" integer NOT NULL,
	"status" text DEFAULT 'waiting' NOT NULL,
	"words" jsonb,
	"file_id" uuid,
	"version" integer,
	"created_at" timestamp with time zone NOT NULL,
	"closed_at" timestamp with time zone,
	CONSTRAINT "letter_of_step" UNIQUE("run_id","key","round")
);
--> statement-breakpoint
ALTER TABLE "stored_file" ALTER COLUMN "by" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "message" ADD COLUMN "files" uuid[];--> statement-breakpoint
ALTER TABLE "letter" ADD CONSTRAINT "letter_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "letter" ADD CONSTRAINT "letter_file_id_stored_file_id_fk" FOREIGN KEY ("file_id") REFERENCES "public"."stored_file"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "letter_file" ON "letter" USING btree ("file_id");--> statement-breakpoint
CREATE INDEX "letter_waiting" ON "letter" USING btree ("created_at") WHERE "letter"."status" = 'waiting';