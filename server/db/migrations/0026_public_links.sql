CREATE TABLE "public_link" (
	"item_id" uuid PRIMARY KEY NOT NULL,
	"token" text NOT NULL,
	"made_by" uuid NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "public_link_token_unique" UNIQUE("token")
);
--> statement-breakpoint
CREATE TABLE "public_request" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"item_id" uuid NOT NULL,
	"name" text NOT NULL,
	"email" text NOT NULL,
	"answers" jsonb,
	"token_hash" text NOT NULL,
	"asked_at" timestamp with time zone NOT NULL,
	"expires_at" timestamp with time zone NOT NULL,
	"case_id" uuid,
	CONSTRAINT "public_request_token_hash_unique" UNIQUE("token_hash"),
	CONSTRAINT "public_request_case_id_unique" UNIQUE("case_id")
);
--> statement-breakpoint
ALTER TABLE "person" ADD COLUMN "outside" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "revision" ADD COLUMN "outsiders" boolean GENERATED ALWAYS AS (coalesce((definition ->> 'outsiders')::boolean, false)) STORED NOT NULL;--> statement-breakpoint
ALTER TABLE "public_link" ADD CONSTRAINT "public_link_item_id_item_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."item"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "public_link" ADD CONSTRAINT "public_link_made_by_person_id_fk" FOREIGN KEY ("made_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "public_request" ADD CONSTRAINT "public_request_item_id_item_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."item"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "public_request" ADD CONSTRAINT "public_request_case_id_service_case_id_fk" FOREIGN KEY ("case_id") REFERENCES "public"."service_case"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "public_request_item" ON "public_request" USING btree ("item_id");--> statement-breakpoint
CREATE INDEX "public_request_expires" ON "public_request" USING btree ("expires_at") WHERE "public_request"."case_id" is null;--> statement-breakpoint
CREATE UNIQUE INDEX "person_outside" ON "person" USING btree (lower("email")) WHERE "person"."outside";