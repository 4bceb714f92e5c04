DROP INDEX "change_log_object";--> statement-breakpoint
CREATE INDEX "change_log_at" ON "change_log" USING btree ("at","id");--> statement-breakpoint
CREATE INDEX "change_log_actor" ON "change_log" USING btree ("actor_id","at","id");--> statement-breakpoint
CREATE INDEX "change_log_words" ON "change_log" USING gin (to_tsvector('simple', "action" || ' ' || "object_id" || ' ' || left("detail"::text, 100000)));--> statement-breakpoint
CREATE INDEX "change_log_object" ON "change_log" USING btree ("object","at","id");