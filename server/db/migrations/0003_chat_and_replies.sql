CREATE TABLE "chat_cursor" (
	"id" integer PRIMARY KEY NOT NULL,
	"since" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "chat_reply" (
	"event" text PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "message" ADD COLUMN "chat_event" text;--> statement-breakpoint
ALTER TABLE "message" ADD CONSTRAINT "message_chat_event_unique" UNIQUE("chat_event");