ALTER TABLE "holding" ADD COLUMN "until" date;--> statement-breakpoint
ALTER TABLE "holding" ADD COLUMN "told_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "holding" ADD COLUMN "ending_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "holding" ADD COLUMN "ending_by" uuid;--> statement-breakpoint
ALTER TABLE "holding" ADD COLUMN "ending_why" text;--> statement-breakpoint
ALTER TABLE "holding" ADD CONSTRAINT "holding_ending_by_person_id_fk" FOREIGN KEY ("ending_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "holding_until" ON "holding" USING btree ("until") WHERE "holding"."ended_at" is null and "holding"."ending_at" is null and "holding"."until" is not null;