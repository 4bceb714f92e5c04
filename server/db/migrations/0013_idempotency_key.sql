ALTER TABLE "service_case" RENAME COLUMN "once_key" TO "idempotency_key";
