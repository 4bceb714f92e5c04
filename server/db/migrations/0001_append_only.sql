-- What happened is not rewritten: the log of changes and the events of runs take new rows only.
CREATE FUNCTION refuse_rewriting() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION '% is append-only', TG_TABLE_NAME USING ERRCODE = 'insufficient_privilege';
END $$;
--> statement-breakpoint
CREATE TRIGGER change_log_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON change_log FOR EACH STATEMENT EXECUTE FUNCTION refuse_rewriting();
--> statement-breakpoint
CREATE TRIGGER run_event_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON run_event FOR EACH STATEMENT EXECUTE FUNCTION refuse_rewriting();
--> statement-breakpoint
CREATE TRIGGER revision_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON revision FOR EACH STATEMENT EXECUTE FUNCTION refuse_rewriting();
--> statement-breakpoint
ALTER SEQUENCE request_number_seq RESTART WITH 1001;
--> statement-breakpoint
-- The application's role may read and write rows, never the shape, and never rewrite what is append-only.
DO $$
BEGIN
  IF EXISTS (SELECT FROM pg_roles WHERE rolname = 'nessmoor_app') THEN
    GRANT USAGE ON SCHEMA public TO nessmoor_app;
    GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO nessmoor_app;
    GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO nessmoor_app;
    ALTER DEFAULT PRIVILEGES IN SCHEMA public GRANT SELECT, INSERT, UPDATE, DELETE ON TABLES TO nessmoor_app;
    ALTER DEFAULT PRIVILEGES IN SCHEMA public GRANT USAGE, SELECT ON SEQUENCES TO nessmoor_app;
    REVOKE UPDATE, DELETE, TRUNCATE ON change_log, run_event, revision FROM nessmoor_app;
  END IF;
END $$;
