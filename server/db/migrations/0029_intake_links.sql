CREATE TABLE "intake_way" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"via" text NOT NULL,
	"name" text NOT NULL,
	"kind_id" uuid NOT NULL,
	"category" text,
	"unknown" text,
	"automatic" text,
	"version" integer DEFAULT 1 NOT NULL,
	"changed_by" uuid,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "case_link" (
	"from_id" uuid NOT NULL,
	"to_id" uuid NOT NULL,
	"how" text NOT NULL,
	"by" uuid,
	"at" timestamp with time zone NOT NULL,
	CONSTRAINT "case_link_from_id_to_id_how_pk" PRIMARY KEY("from_id","to_id","how")
);
--> statement-breakpoint
CREATE TABLE "ticket_reader" (
	"case_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"writes" boolean NOT NULL,
	"at" timestamp with time zone NOT NULL,
	CONSTRAINT "ticket_reader_case_id_person_id_pk" PRIMARY KEY("case_id","person_id")
);
--> statement-breakpoint
ALTER TABLE "stored_file" ADD COLUMN "word_id" uuid;--> statement-breakpoint
ALTER TABLE "ticket" ADD COLUMN "chat_room" text;--> statement-breakpoint
ALTER TABLE "ticket" ADD COLUMN "chat_root" text;--> statement-breakpoint
ALTER TABLE "ticket" ADD COLUMN "joined_id" uuid;--> statement-breakpoint
ALTER TABLE "intake_way" ADD CONSTRAINT "intake_way_kind_id_ticket_kind_id_fk" FOREIGN KEY ("kind_id") REFERENCES "public"."ticket_kind"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "intake_way" ADD CONSTRAINT "intake_way_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "case_link" ADD CONSTRAINT "case_link_from_id_service_case_id_fk" FOREIGN KEY ("from_id") REFERENCES "public"."service_case"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "case_link" ADD CONSTRAINT "case_link_to_id_service_case_id_fk" FOREIGN KEY ("to_id") REFERENCES "public"."service_case"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "case_link" ADD CONSTRAINT "case_link_by_person_id_fk" FOREIGN KEY ("by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket_reader" ADD CONSTRAINT "ticket_reader_case_id_service_case_id_fk" FOREIGN KEY ("case_id") REFERENCES "public"."service_case"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket_reader" ADD CONSTRAINT "ticket_reader_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "intake_way_name" ON "intake_way" USING btree ("via",lower("name"));--> statement-breakpoint
CREATE INDEX "case_link_to" ON "case_link" USING btree ("to_id");--> statement-breakpoint
ALTER TABLE "stored_file" ADD CONSTRAINT "stored_file_word_id_ticket_word_id_fk" FOREIGN KEY ("word_id") REFERENCES "public"."ticket_word"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ticket" ADD CONSTRAINT "ticket_joined_id_service_case_id_fk" FOREIGN KEY ("joined_id") REFERENCES "public"."service_case"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "stored_file_word" ON "stored_file" USING btree ("word_id") WHERE "stored_file"."word_id" is not null;--> statement-breakpoint
CREATE INDEX "ticket_joined" ON "ticket" USING btree ("joined_id") WHERE "ticket"."joined_id" is not null;--> statement-breakpoint
ALTER TABLE "ticket" ADD CONSTRAINT "ticket_chat_root_unique" UNIQUE("chat_root");--> statement-breakpoint
-- Who reads a ticket is told to the others when somebody comes, goes, begins or ceases to write; not with every sign of life.
CREATE FUNCTION ticket_reader_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM tell_moved(ARRAY[coalesce(NEW.case_id, OLD.case_id)]);
  RETURN NULL;
END $$;--> statement-breakpoint
CREATE TRIGGER ticket_reader_came AFTER INSERT OR DELETE ON ticket_reader FOR EACH ROW EXECUTE FUNCTION ticket_reader_moved();--> statement-breakpoint
CREATE TRIGGER ticket_reader_changed AFTER UPDATE ON ticket_reader FOR EACH ROW
  WHEN (OLD.writes IS DISTINCT FROM NEW.writes OR NEW.at - OLD.at > interval '1 minute') EXECUTE FUNCTION ticket_reader_moved();
