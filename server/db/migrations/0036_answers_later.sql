DROP INDEX "call_waiting";--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "round" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "begun_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "accepted_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "answer_by" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "closed_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "job" text;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "progress" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "call" ADD COLUMN "asked" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "call_try" ADD COLUMN "how" text DEFAULT 'sent' NOT NULL;--> statement-breakpoint
ALTER TABLE "call_try" ADD COLUMN "signature" text;--> statement-breakpoint
ALTER TABLE "web_system" ADD COLUMN "sealed_answer_key" text;--> statement-breakpoint
CREATE INDEX "call_open" ON "call" USING btree ("due_at") WHERE "call"."closed_at" is null;--> statement-breakpoint
CREATE UNIQUE INDEX "call_try_signature" ON "call_try" USING btree ("call_id","signature");--> statement-breakpoint
-- What was there: those that were settled are closed, those that were tried have begun, and the round stands at the end of the key.
UPDATE "call" SET "round" = substring("idempotency_key" from '([0-9]+)$')::int WHERE "idempotency_key" ~ '/[0-9]+$';--> statement-breakpoint
UPDATE "call" SET "closed_at" = "due_at" WHERE "status" <> 'waiting';--> statement-breakpoint
UPDATE "call" c SET "begun_at" = t.at FROM (SELECT "call_id", min("began_at") AS at FROM "call_try" GROUP BY "call_id") t WHERE t."call_id" = c."id";
