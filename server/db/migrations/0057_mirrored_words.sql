CREATE TABLE "mirrored_word" (
	"call_id" uuid NOT NULL,
	"word_id" uuid NOT NULL,
	"goes" text NOT NULL,
	"there_id" text,
	"sent_at" timestamp with time zone,
	"tries" integer DEFAULT 0 NOT NULL,
	"held_until" timestamp with time zone,
	"settled_at" timestamp with time zone,
	"refused" text,
	CONSTRAINT "mirrored_word_call_id_word_id_pk" PRIMARY KEY("call_id","word_id")
);
--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "mirrors" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "words_due" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "words_asked" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "words_tries" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "words_trouble" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "case_word" ADD COLUMN "by_outside" text;--> statement-breakpoint
ALTER TABLE "mirrored_word" ADD CONSTRAINT "mirrored_word_call_id_call_id_fk" FOREIGN KEY ("call_id") REFERENCES "public"."call"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mirrored_word" ADD CONSTRAINT "mirrored_word_word_id_case_word_id_fk" FOREIGN KEY ("word_id") REFERENCES "public"."case_word"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "mirrored_word_there" ON "mirrored_word" USING btree ("call_id","there_id");--> statement-breakpoint
CREATE INDEX "mirrored_word_word" ON "mirrored_word" USING btree ("word_id");--> statement-breakpoint
CREATE INDEX "call_words_due" ON "call" USING btree ("words_due") WHERE "call"."words_due" is not null;--> statement-breakpoint
-- That a word came where it is mirrored to, or did not, is told to whoever looks at its request.
CREATE FUNCTION word_mirrored() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM tell_moved(ARRAY(SELECT w.case_id FROM moved m JOIN case_word w ON w.id = m.word_id WHERE m.settled_at IS NOT NULL));
  RETURN NULL;
END $$;--> statement-breakpoint
CREATE TRIGGER word_mirrored AFTER UPDATE ON mirrored_word REFERENCING NEW TABLE AS moved FOR EACH STATEMENT EXECUTE FUNCTION word_mirrored();
