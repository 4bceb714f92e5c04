ALTER TABLE "revision" ALTER COLUMN "item_id" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "revision" ADD COLUMN "kind_id" uuid;--> statement-breakpoint
ALTER TABLE "ticket" ADD COLUMN "asking_id" uuid;--> statement-breakpoint
ALTER TABLE "revision" ADD CONSTRAINT "revision_kind_id_ticket_kind_id_fk" FOREIGN KEY ("kind_id") REFERENCES "public"."ticket_kind"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket" ADD CONSTRAINT "ticket_asking_id_run_id_fk" FOREIGN KEY ("asking_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "revision_of_kind" ON "revision" USING btree ("kind_id","content_hash") WHERE "revision"."kind_id" is not null;--> statement-breakpoint
CREATE INDEX "ticket_asking" ON "ticket" USING btree ("asking_id") WHERE "ticket"."asking_id" is not null;--> statement-breakpoint
ALTER TABLE "revision" ADD CONSTRAINT "revision_of_one" CHECK (("revision"."item_id" is null) <> ("revision"."kind_id" is null));