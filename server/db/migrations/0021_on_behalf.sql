ALTER TABLE "revision" ADD COLUMN "on_behalf" jsonb GENERATED ALWAYS AS ((definition -> 'onBehalf')) STORED;--> statement-breakpoint
ALTER TABLE "service_case" ADD COLUMN "for_id" uuid;--> statement-breakpoint
ALTER TABLE "service_case" ADD CONSTRAINT "service_case_for_id_person_id_fk" FOREIGN KEY ("for_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "case_for" ON "service_case" USING btree ("for_id","number") WHERE "service_case"."for_id" is not null;