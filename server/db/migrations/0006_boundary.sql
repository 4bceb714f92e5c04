CREATE TABLE "consent" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"item_id" uuid NOT NULL,
	"system" text NOT NULL,
	"action" text NOT NULL,
	"label" text NOT NULL,
	"asked_by" uuid NOT NULL,
	"asked_at" timestamp with time zone DEFAULT now() NOT NULL,
	"status" text DEFAULT 'waiting' NOT NULL,
	"decided_by" uuid,
	"decided_at" timestamp with time zone,
	"comment" text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE TABLE "system_owner" (
	"system" text NOT NULL,
	"person_id" uuid NOT NULL,
	CONSTRAINT "system_owner_system_person_id_pk" PRIMARY KEY("system","person_id")
);
--> statement-breakpoint
CREATE TABLE "change_chain" (
	"n" bigint PRIMARY KEY NOT NULL,
	"change_id" bigint NOT NULL,
	"hash" text NOT NULL,
	CONSTRAINT "change_chain_change_id_unique" UNIQUE("change_id")
);
--> statement-breakpoint
CREATE TABLE "set_aside" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"source" text NOT NULL,
	"key" text NOT NULL,
	"what" text NOT NULL,
	"cause" text NOT NULL,
	"payload" text NOT NULL,
	"times" integer DEFAULT 1 NOT NULL,
	"first_at" timestamp with time zone DEFAULT now() NOT NULL,
	"last_at" timestamp with time zone DEFAULT now() NOT NULL,
	"settled_at" timestamp with time zone,
	"settled_by" uuid,
	"settled" text
);
--> statement-breakpoint
ALTER TABLE "person" ADD COLUMN "erased_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "session" ADD COLUMN "seen_at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "session" ADD COLUMN "address" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "session" ADD COLUMN "agent" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "consent" ADD CONSTRAINT "consent_item_id_item_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."item"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "consent" ADD CONSTRAINT "consent_asked_by_person_id_fk" FOREIGN KEY ("asked_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "consent" ADD CONSTRAINT "consent_decided_by_person_id_fk" FOREIGN KEY ("decided_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "system_owner" ADD CONSTRAINT "system_owner_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "change_chain" ADD CONSTRAINT "change_chain_change_id_change_log_id_fk" FOREIGN KEY ("change_id") REFERENCES "public"."change_log"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "set_aside" ADD CONSTRAINT "set_aside_settled_by_person_id_fk" FOREIGN KEY ("settled_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "consent_once" ON "consent" USING btree ("item_id","action");--> statement-breakpoint
CREATE INDEX "consent_waiting" ON "consent" USING btree ("system","asked_at") WHERE "consent"."status" = 'waiting';--> statement-breakpoint
CREATE INDEX "system_owner_person" ON "system_owner" USING btree ("person_id");--> statement-breakpoint
CREATE UNIQUE INDEX "set_aside_open" ON "set_aside" USING btree ("source","key") WHERE "set_aside"."settled_at" is null;--> statement-breakpoint
CREATE INDEX "set_aside_last" ON "set_aside" USING btree ("last_at","id");--> statement-breakpoint
CREATE INDEX "session_person" ON "session" USING btree ("person_id");--> statement-breakpoint
-- The log of changes is a chain: at commit each entry is hashed with the hash before it. One commit with entries at a time.
CREATE FUNCTION change_content(c change_log) RETURNS text LANGUAGE sql STABLE AS $$
  SELECT jsonb_build_array(c.id, extract(epoch FROM c.at)::numeric, c.actor_id, c.action, c.object, c.object_id, c.detail)::text
$$;
--> statement-breakpoint
CREATE FUNCTION chain_change() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
  before change_chain;
BEGIN
  PERFORM pg_advisory_xact_lock(481024);
  SELECT * INTO before FROM change_chain ORDER BY n DESC LIMIT 1;
  INSERT INTO change_chain (n, change_id, hash) VALUES (
    coalesce(before.n, 0) + 1,
    NEW.id,
    encode(sha256(convert_to(coalesce(before.hash, '') || change_content(NEW), 'UTF8')), 'hex'));
  RETURN NULL;
END $$;
--> statement-breakpoint
-- What was logged before the chain began, in its order.
DO $$
DECLARE
  entry change_log;
  before text := '';
  at bigint := 0;
BEGIN
  FOR entry IN SELECT * FROM change_log ORDER BY id LOOP
    at := at + 1;
    before := encode(sha256(convert_to(before || change_content(entry), 'UTF8')), 'hex');
    INSERT INTO change_chain (n, change_id, hash) VALUES (at, entry.id, before);
  END LOOP;
END $$;
--> statement-breakpoint
CREATE CONSTRAINT TRIGGER change_log_chain AFTER INSERT ON change_log DEFERRABLE INITIALLY DEFERRED FOR EACH ROW EXECUTE FUNCTION chain_change();
--> statement-breakpoint
CREATE TRIGGER change_chain_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON change_chain FOR EACH STATEMENT EXECUTE FUNCTION refuse_rewriting();
--> statement-breakpoint
-- Events of runs are rewritten only to take a person's data out of them, by the owner of the tables and said beforehand (npm run erase).
CREATE FUNCTION refuse_rewriting_events() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'UPDATE' AND current_setting('nessmoor.erasing', true) = 'on' THEN RETURN NULL; END IF;
  RAISE EXCEPTION '% is append-only', TG_TABLE_NAME USING ERRCODE = 'insufficient_privilege';
END $$;
--> statement-breakpoint
DROP TRIGGER run_event_append_only ON run_event;
--> statement-breakpoint
CREATE TRIGGER run_event_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON run_event FOR EACH STATEMENT EXECUTE FUNCTION refuse_rewriting_events();
--> statement-breakpoint
DROP TRIGGER answer_version_append_only ON answer_version;
--> statement-breakpoint
CREATE TRIGGER answer_version_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON answer_version FOR EACH STATEMENT EXECUTE FUNCTION refuse_rewriting_events();
--> statement-breakpoint
DO $$
BEGIN
  IF EXISTS (SELECT FROM pg_roles WHERE rolname = 'nessmoor_app') THEN
    REVOKE UPDATE, DELETE, TRUNCATE ON change_chain FROM nessmoor_app;
  END IF;
END $$;
