-- What is said of a request is kept as what is said of a ticket: one conversation for every case.
ALTER TABLE "ticket_word" RENAME TO "case_word";--> statement-breakpoint
ALTER TABLE "case_word" RENAME CONSTRAINT "ticket_word_pkey" TO "case_word_pkey";--> statement-breakpoint
ALTER TABLE "case_word" RENAME CONSTRAINT "ticket_word_came_as_unique" TO "case_word_came_as_unique";--> statement-breakpoint
ALTER TABLE "case_word" RENAME CONSTRAINT "ticket_word_once_unique" TO "case_word_once_unique";--> statement-breakpoint
ALTER TABLE "case_word" RENAME CONSTRAINT "ticket_word_case_id_service_case_id_fk" TO "case_word_case_id_service_case_id_fk";--> statement-breakpoint
ALTER TABLE "case_word" RENAME CONSTRAINT "ticket_word_by_person_id_fk" TO "case_word_by_person_id_fk";--> statement-breakpoint
ALTER TABLE "stored_file" RENAME CONSTRAINT "stored_file_word_id_ticket_word_id_fk" TO "stored_file_word_id_case_word_id_fk";--> statement-breakpoint
ALTER INDEX "ticket_word_case" RENAME TO "case_word_case";--> statement-breakpoint
ALTER INDEX "ticket_word_words" RENAME TO "case_word_words";--> statement-breakpoint
ALTER TRIGGER "ticket_word_said" ON "case_word" RENAME TO "case_word_said";
