CREATE TABLE "change_waiting" (
	"change_id" bigint PRIMARY KEY NOT NULL
);
--> statement-breakpoint
ALTER TABLE "change_waiting" ADD CONSTRAINT "change_waiting_change_id_change_log_id_fk" FOREIGN KEY ("change_id") REFERENCES "public"."change_log"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
-- The chain was written at commit by one commit after another, each waiting until the one before was on disk. Now an entry waits
-- in a list that is committed with it, and whoever commits while nobody else does hangs everything that waits into the chain.
CREATE FUNCTION chain_waiting() RETURNS void LANGUAGE plpgsql AS $$
DECLARE
  last change_chain;
  entry change_log;
BEGIN
  SELECT * INTO last FROM change_chain ORDER BY n DESC LIMIT 1;
  FOR entry IN SELECT l.* FROM change_waiting w JOIN change_log l ON l.id = w.change_id ORDER BY l.id LOOP
    last.n := coalesce(last.n, 0) + 1;
    last.hash := encode(sha256(convert_to(coalesce(last.hash, '') || change_content(entry), 'UTF8')), 'hex');
    INSERT INTO change_chain (n, change_id, hash) VALUES (last.n, entry.id, last.hash);
    DELETE FROM change_waiting WHERE change_id = entry.id;
  END LOOP;
END $$;
--> statement-breakpoint
CREATE OR REPLACE FUNCTION chain_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO change_waiting (change_id) VALUES (NEW.id);
  IF pg_try_advisory_xact_lock(481024) THEN PERFORM chain_waiting(); END IF;
  RETURN NULL;
END $$;
--> statement-breakpoint
-- The same on purpose, waiting for whoever is at it: what the sweep and the verification begin with.
CREATE FUNCTION chain_changes() RETURNS void LANGUAGE plpgsql AS $$
BEGIN
  PERFORM pg_advisory_xact_lock(481024);
  PERFORM chain_waiting();
END $$;
