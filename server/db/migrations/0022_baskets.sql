CREATE TABLE "basket_line" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"person_id" uuid NOT NULL,
	"item_id" uuid NOT NULL,
	"revision" integer NOT NULL,
	"answers" jsonb NOT NULL,
	"for_id" uuid,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "service_order" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"number" bigint DEFAULT nextval('service_case_number_seq') NOT NULL,
	"requester_id" uuid NOT NULL,
	"opened_at" timestamp with time zone DEFAULT now() NOT NULL,
	"idempotency_key" text NOT NULL,
	CONSTRAINT "service_order_number_unique" UNIQUE("number")
);
--> statement-breakpoint
ALTER TABLE "service_case" ADD COLUMN "order_id" uuid;--> statement-breakpoint
ALTER TABLE "basket_line" ADD CONSTRAINT "basket_line_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "basket_line" ADD CONSTRAINT "basket_line_item_id_item_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."item"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "basket_line" ADD CONSTRAINT "basket_line_for_id_person_id_fk" FOREIGN KEY ("for_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "service_order" ADD CONSTRAINT "service_order_requester_id_person_id_fk" FOREIGN KEY ("requester_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "basket_of" ON "basket_line" USING btree ("person_id","added_at");--> statement-breakpoint
CREATE UNIQUE INDEX "order_once" ON "service_order" USING btree ("requester_id","idempotency_key");--> statement-breakpoint
ALTER TABLE "service_case" ADD CONSTRAINT "service_case_order_id_service_order_id_fk" FOREIGN KEY ("order_id") REFERENCES "public"."service_order"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "case_order" ON "service_case" USING btree ("order_id") WHERE "service_case"."order_id" is not null;