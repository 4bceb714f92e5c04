CREATE TABLE "invited" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"meeting_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"token_hash" text NOT NULL,
	"gone" boolean DEFAULT false NOT NULL,
	"told" boolean DEFAULT false NOT NULL,
	"unseen" boolean DEFAULT false NOT NULL,
	"says" text,
	"words" text DEFAULT '' NOT NULL,
	"said_at" timestamp with time zone,
	CONSTRAINT "invited_token_hash_unique" UNIQUE("token_hash"),
	CONSTRAINT "invited_once" UNIQUE("meeting_id","person_id")
);
--> statement-breakpoint
CREATE TABLE "meeting" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"run_id" uuid NOT NULL,
	"key" text NOT NULL,
	"round" integer NOT NULL,
	"status" text DEFAULT 'seeking' NOT NULL,
	"words" jsonb NOT NULL,
	"title" text NOT NULL,
	"place" text DEFAULT '' NOT NULL,
	"minutes" integer NOT NULL,
	"window" jsonb NOT NULL,
	"waits" boolean NOT NULL,
	"sequence" integer,
	"begins_at" timestamp with time zone,
	"ends_at" timestamp with time zone,
	"try_at" timestamp with time zone NOT NULL,
	"attempts" integer DEFAULT 0 NOT NULL,
	"last_error" text,
	"created_at" timestamp with time zone NOT NULL,
	"closed_at" timestamp with time zone,
	CONSTRAINT "meeting_of_step" UNIQUE("run_id","key")
);
--> statement-breakpoint
ALTER TABLE "message" ADD COLUMN "invited_id" uuid;--> statement-breakpoint
ALTER TABLE "message" ADD COLUMN "invitation" jsonb;--> statement-breakpoint
ALTER TABLE "invited" ADD CONSTRAINT "invited_meeting_id_meeting_id_fk" FOREIGN KEY ("meeting_id") REFERENCES "public"."meeting"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "invited" ADD CONSTRAINT "invited_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "meeting" ADD CONSTRAINT "meeting_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "invited_person" ON "invited" USING btree ("person_id");--> statement-breakpoint
CREATE INDEX "meeting_seeking" ON "meeting" USING btree ("try_at") WHERE "meeting"."status" = 'seeking';--> statement-breakpoint
ALTER TABLE "message" ADD CONSTRAINT "message_invited_id_invited_id_fk" FOREIGN KEY ("invited_id") REFERENCES "public"."invited"("id") ON DELETE set null ON UPDATE no action;