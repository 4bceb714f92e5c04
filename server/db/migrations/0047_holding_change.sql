CREATE TABLE "holding_change" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"holding_id" uuid NOT NULL,
	"run_id" uuid NOT NULL,
	"key" text NOT NULL,
	"action" text NOT NULL,
	"was" date,
	"until" date,
	"at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "holding_change" ADD CONSTRAINT "holding_change_holding_id_holding_id_fk" FOREIGN KEY ("holding_id") REFERENCES "public"."holding"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "holding_change" ADD CONSTRAINT "holding_change_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "holding_change_key" ON "holding_change" USING btree ("run_id","key");--> statement-breakpoint
CREATE INDEX "holding_change_of" ON "holding_change" USING btree ("holding_id","at");