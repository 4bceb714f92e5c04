DROP INDEX "case_opened";--> statement-breakpoint
DROP INDEX "case_ended";--> statement-breakpoint
CREATE INDEX "case_request" ON "service_case" USING btree ("number") WHERE kind = 'request';--> statement-breakpoint
CREATE INDEX "case_request_opened" ON "service_case" USING btree ("opened_at","number") WHERE kind = 'request';--> statement-breakpoint
CREATE INDEX "case_request_ended" ON "service_case" USING btree ("ended_order","number") WHERE kind = 'request';--> statement-breakpoint
CREATE INDEX "case_ticket" ON "service_case" USING btree ("number") WHERE kind = 'ticket';--> statement-breakpoint
CREATE INDEX "case_ticket_opened" ON "service_case" USING btree ("opened_at","number") WHERE kind = 'ticket';--> statement-breakpoint
CREATE INDEX "case_ticket_ended" ON "service_case" USING btree ("ended_order","number") WHERE kind = 'ticket';