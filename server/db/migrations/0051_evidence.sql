CREATE TABLE "evidence_naming" (
	"id" integer PRIMARY KEY DEFAULT 1 NOT NULL,
	"pattern" text NOT NULL,
	"changed_by" uuid,
	"changed_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "evidence_naming" ADD CONSTRAINT "evidence_naming_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "approval_decided" ON "approval" USING btree ("decided_at","id") WHERE "approval"."decided_at" is not null;--> statement-breakpoint
CREATE INDEX "change_log_of" ON "change_log" USING btree ("object_id","object");