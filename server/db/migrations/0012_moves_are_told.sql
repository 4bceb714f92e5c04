-- What moved is told to whoever listens: the ids of the cases, a hundred to a notification, when the transaction commits.
CREATE FUNCTION tell_moved(ids uuid[]) RETURNS void LANGUAGE sql AS $$
  SELECT pg_notify('moved', string_agg(id::text, ' '))
  FROM (SELECT id, (row_number() OVER (ORDER BY id) - 1) / 100 AS part FROM (SELECT DISTINCT unnest(ids) AS id) one) parted GROUP BY part
$$;--> statement-breakpoint
CREATE FUNCTION run_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM tell_moved(ARRAY(SELECT case_id FROM moved));
  RETURN NULL;
END $$;--> statement-breakpoint
CREATE FUNCTION task_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM tell_moved(ARRAY(SELECT r.case_id FROM moved m JOIN run r ON r.id = m.run_id));
  RETURN NULL;
END $$;--> statement-breakpoint
CREATE TRIGGER run_moved AFTER UPDATE ON run REFERENCING NEW TABLE AS moved FOR EACH STATEMENT EXECUTE FUNCTION run_moved();--> statement-breakpoint
CREATE TRIGGER task_moved AFTER UPDATE ON task REFERENCING NEW TABLE AS moved FOR EACH STATEMENT EXECUTE FUNCTION task_moved();
