CREATE INDEX "holding_since" ON "holding" USING btree ("since","id");--> statement-breakpoint
CREATE INDEX "person_manager" ON "person" USING btree ("manager_id");