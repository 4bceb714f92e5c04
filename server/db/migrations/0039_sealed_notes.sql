CREATE TABLE "sealed_note" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"call_id" uuid NOT NULL,
	"run_id" uuid NOT NULL,
	"key" text NOT NULL,
	"person_id" uuid NOT NULL,
	"labels" jsonb NOT NULL,
	"sealed" text,
	"made_at" timestamp with time zone NOT NULL,
	"open_until" timestamp with time zone NOT NULL,
	"opened_at" timestamp with time zone,
	"opened_by" uuid,
	"replaced_at" timestamp with time zone,
	CONSTRAINT "sealed_note_call_id_unique" UNIQUE("call_id")
);
--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "note_to" uuid;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "note_for" text;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "sealed_made" text;--> statement-breakpoint
ALTER TABLE "sealed_note" ADD CONSTRAINT "sealed_note_call_id_call_id_fk" FOREIGN KEY ("call_id") REFERENCES "public"."call"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sealed_note" ADD CONSTRAINT "sealed_note_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sealed_note" ADD CONSTRAINT "sealed_note_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sealed_note" ADD CONSTRAINT "sealed_note_opened_by_person_id_fk" FOREIGN KEY ("opened_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "sealed_note_person" ON "sealed_note" USING btree ("person_id","made_at");--> statement-breakpoint
CREATE INDEX "sealed_note_run" ON "sealed_note" USING btree ("run_id","key");--> statement-breakpoint
CREATE INDEX "sealed_note_over" ON "sealed_note" USING btree ("open_until") WHERE "sealed_note"."sealed" is not null;--> statement-breakpoint
ALTER TABLE "call" ADD CONSTRAINT "call_note_to_person_id_fk" FOREIGN KEY ("note_to") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;