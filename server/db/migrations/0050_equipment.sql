CREATE TABLE "equipment_kind" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"marked" boolean NOT NULL,
	"changed_by" uuid,
	"changed_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "equipment_issue" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"number" bigserial NOT NULL,
	"key" text NOT NULL,
	"call_id" uuid,
	"run_id" uuid,
	"kind_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"place_id" uuid,
	"until" date,
	"state" text NOT NULL,
	"piece_id" uuid,
	"what" text,
	"created_at" timestamp with time zone NOT NULL,
	"ready_at" timestamp with time zone,
	"out_at" timestamp with time zone,
	"out_by" uuid,
	"received_at" timestamp with time zone,
	"denied_at" timestamp with time zone,
	"denied_why" text,
	"back_call_id" uuid,
	"due_back_at" timestamp with time zone,
	"back_at" timestamp with time zone,
	"back_by" uuid,
	CONSTRAINT "equipment_issue_number_unique" UNIQUE("number"),
	CONSTRAINT "equipment_issue_key_unique" UNIQUE("key")
);
--> statement-breakpoint
CREATE TABLE "piece" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"kind_id" uuid NOT NULL,
	"mark" text,
	"location_id" uuid NOT NULL,
	"state" text NOT NULL,
	"since" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "piece_event" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"piece_id" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"by" uuid,
	"what" text NOT NULL,
	"location_id" uuid,
	"issue_id" uuid,
	"note" text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE TABLE "stock_level" (
	"kind_id" uuid NOT NULL,
	"location_id" uuid NOT NULL,
	"least" integer NOT NULL,
	"up_to" integer NOT NULL,
	CONSTRAINT "stock_level_kind_id_location_id_pk" PRIMARY KEY("kind_id","location_id")
);
--> statement-breakpoint
CREATE TABLE "stock_order" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"kind_id" uuid NOT NULL,
	"location_id" uuid NOT NULL,
	"wanted" integer NOT NULL,
	"state" text NOT NULL,
	"reference" text DEFAULT '' NOT NULL,
	"expected" date,
	"created_at" timestamp with time zone NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	"changed_by" uuid
);
--> statement-breakpoint
CREATE TABLE "stock_place" (
	"location_id" uuid PRIMARY KEY NOT NULL,
	"team_id" uuid NOT NULL
);
--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "told" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "equipment_kind" ADD CONSTRAINT "equipment_kind_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "equipment_issue" ADD CONSTRAINT "equipment_issue_call_id_call_id_fk" FOREIGN KEY ("call_id") REFERENCES "public"."call"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "equipment_issue" ADD CONSTRAINT "equipment_issue_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "equipment_issue" ADD CONSTRAINT "equipment_issue_kind_id_equipment_kind_id_fk" FOREIGN KEY ("kind_id") REFERENCES "public"."equipment_kind"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "equipment_issue" ADD CONSTRAINT "equipment_issue_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "equipment_issue" ADD CONSTRAINT "equipment_issue_place_id_location_id_fk" FOREIGN KEY ("place_id") REFERENCES "public"."location"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "equipment_issue" ADD CONSTRAINT "equipment_issue_piece_id_piece_id_fk" FOREIGN KEY ("piece_id") REFERENCES "public"."piece"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "equipment_issue" ADD CONSTRAINT "equipment_issue_out_by_person_id_fk" FOREIGN KEY ("out_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "equipment_issue" ADD CONSTRAINT "equipment_issue_back_call_id_call_id_fk" FOREIGN KEY ("back_call_id") REFERENCES "public"."call"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "equipment_issue" ADD CONSTRAINT "equipment_issue_back_by_person_id_fk" FOREIGN KEY ("back_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "piece" ADD CONSTRAINT "piece_kind_id_equipment_kind_id_fk" FOREIGN KEY ("kind_id") REFERENCES "public"."equipment_kind"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "piece" ADD CONSTRAINT "piece_location_id_stock_place_location_id_fk" FOREIGN KEY ("location_id") REFERENCES "public"."stock_place"("location_id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "piece_event" ADD CONSTRAINT "piece_event_piece_id_piece_id_fk" FOREIGN KEY ("piece_id") REFERENCES "public"."piece"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "piece_event" ADD CONSTRAINT "piece_event_by_person_id_fk" FOREIGN KEY ("by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "piece_event" ADD CONSTRAINT "piece_event_location_id_location_id_fk" FOREIGN KEY ("location_id") REFERENCES "public"."location"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "piece_event" ADD CONSTRAINT "piece_event_issue_id_equipment_issue_id_fk" FOREIGN KEY ("issue_id") REFERENCES "public"."equipment_issue"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stock_level" ADD CONSTRAINT "stock_level_kind_id_equipment_kind_id_fk" FOREIGN KEY ("kind_id") REFERENCES "public"."equipment_kind"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stock_level" ADD CONSTRAINT "stock_level_location_id_stock_place_location_id_fk" FOREIGN KEY ("location_id") REFERENCES "public"."stock_place"("location_id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stock_order" ADD CONSTRAINT "stock_order_kind_id_equipment_kind_id_fk" FOREIGN KEY ("kind_id") REFERENCES "public"."equipment_kind"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stock_order" ADD CONSTRAINT "stock_order_location_id_stock_place_location_id_fk" FOREIGN KEY ("location_id") REFERENCES "public"."stock_place"("location_id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stock_order" ADD CONSTRAINT "stock_order_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stock_place" ADD CONSTRAINT "stock_place_location_id_location_id_fk" FOREIGN KEY ("location_id") REFERENCES "public"."location"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stock_place" ADD CONSTRAINT "stock_place_team_id_team_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."team"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "equipment_kind_name" ON "equipment_kind" USING btree (lower("name"));--> statement-breakpoint
CREATE INDEX "equipment_issue_waiting" ON "equipment_issue" USING btree ("kind_id","created_at","id") WHERE "equipment_issue"."state" = 'waiting';--> statement-breakpoint
CREATE INDEX "equipment_issue_open" ON "equipment_issue" USING btree ("state","created_at") WHERE "equipment_issue"."state" in ('waiting', 'setAside', 'dueBack');--> statement-breakpoint
CREATE INDEX "equipment_issue_person" ON "equipment_issue" USING btree ("person_id","state");--> statement-breakpoint
CREATE INDEX "equipment_issue_piece" ON "equipment_issue" USING btree ("piece_id");--> statement-breakpoint
CREATE UNIQUE INDEX "equipment_issue_one" ON "equipment_issue" USING btree ("piece_id") WHERE "equipment_issue"."state" in ('setAside', 'out', 'dueBack');--> statement-breakpoint
CREATE UNIQUE INDEX "piece_mark" ON "piece" USING btree ("kind_id",lower("mark"));--> statement-breakpoint
CREATE INDEX "piece_stock" ON "piece" USING btree ("kind_id","location_id","state");--> statement-breakpoint
CREATE INDEX "piece_since" ON "piece" USING btree ("since","id");--> statement-breakpoint
CREATE INDEX "piece_event_of" ON "piece_event" USING btree ("piece_id","at");--> statement-breakpoint
CREATE UNIQUE INDEX "stock_order_open" ON "stock_order" USING btree ("kind_id","location_id") WHERE "stock_order"."state" in ('toOrder', 'ordered');