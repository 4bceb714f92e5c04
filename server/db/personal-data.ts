import type { Client } from 'pg';

/**
 * What is kept of one person, and taking it out. Run by the owner of the tables (npm run person, npm run erase,
 * npm run retention), never by the application: its role may not rewrite what happened.
 */

const whose = 'select id from service_case where requester_id = $1';

/** Everything that is kept of a person, as plain JSON; undefined when nobody has that user name. */
export async function exportPerson(client: Client, userName: string): Promise<Record<string, unknown> | undefined> {
  const rows = async (text: string, value: string) => (await client.query<Record<string, unknown>>(text, [value])).rows;
  const [person] = await rows(
    `select p.id, p.directory_id, p.user_name, p.name, p.email, p.department, p.job_role, p.staff_number, p.active, p.last_day, p.away_until,
      m.name as manager, d.name as delegate from person p left join person m on m.id = p.manager_id left join person d on d.id = p.delegate_id
      where lower(p.user_name) = lower($1)`,
    userName,
  );
  if (!person) return undefined;
  const id = String(person['id']);
  return {
    person,
    roles: await rows('select role from role_grant where person_id = $1', id),
    teams: await rows('select t.name from team_member m join team t on t.id = m.team_id where m.person_id = $1', id),
    groups: await rows('select g.name, gp."as" from group_person gp join access_group g on g.id = gp.group_id where gp.person_id = $1', id),
    sessions: await rows('select created_at, seen_at, expires_at, address, agent from session where person_id = $1', id),
    requests: await rows(
      `select r.number, i.name as item, r.opened_at, r.ended_at, r.outcome, r.reason, r.answers from service_case r join item i on i.id = r.item_id
        where r.requester_id = $1 order by r.number`,
      id,
    ),
    tickets: await rows(
      `select r.number, t.subject, t.category, t.status, t.helped, r.opened_at, r.ended_at, r.answers, t.filled from service_case r
        join ticket t on t.case_id = r.id where r.requester_id = $1 order by r.number`,
      id,
    ),
    words: await rows(
      `select r.number, w.at, w."from", w.inside, w.via, w.text from case_word w join service_case r on r.id = w.case_id where w.by = $1 order by w.at`,
      id,
    ),
    approvals: await rows(
      `select r.number, g.name as gate, a.status, a.comment, a.asked_at, a.decided_at from approval a join gate g on g.id = a.gate_id
        join run u on u.id = g.run_id join service_case r on r.id = u.case_id where a.person_id = $1 order by a.asked_at`,
      id,
    ),
    tasks: await rows('select name, opened_at, closed_at, result, draft from task where $1 in (person_id, taken_by, done_by) order by opened_at', id),
    questions: await rows('select name, words, opened_at, closed_at, values from question where to_id = $1 order by opened_at', id),
    messages: await rows('select subject, text, via, created_at, sent_at from message where to_id = $1 order by created_at', id),
    outside: await rows(
      'select name, email, asked_at from public_request where case_id in (select id from service_case where requester_id = $1)',
      id,
    ),
    views: await rows('select list, name, asked, kept_at from kept_view where person_id = $1 order by kept_at', id),
    holdings: await rows('select kind, what, since, until, ended_at, ending_at, ending_why from holding where person_id = $1 order by since', id),
    differences: await rows(
      'select kind, what, "is", until, outputs, found_at, state, why from difference where person_id = $1 order by found_at',
      id,
    ),
    exceptions: await rows(
      `select a.name as one, b.name as other, x.until, x.why, x.at, x.ended_at from apart_exception x join kept_apart k on k.id = x.pair_id
        join access_group a on a.id = k.one_id join access_group b on b.id = k.other_id where x.person_id = $1 order by x.at`,
      id,
    ),
    admissions: await rows(
      'select g.name as "group", a.at, a.state, a.why from group_admission a join access_group g on g.id = a.group_id where a.person_id = $1 order by a.at',
      id,
    ),
    equipment: await rows(
      `select k.name as kind, i.what, i.state, i.until, i.created_at, i.out_at, i.received_at, i.denied_at, i.denied_why, i.back_at
        from equipment_issue i join equipment_kind k on k.id = i.kind_id where i.person_id = $1 order by i.created_at`,
      id,
    ),
    invitations: await rows(
      `select m.title, m.begins_at, m.ends_at, i.says, i.words, i.said_at from invited i join meeting m on m.id = i.meeting_id where i.person_id = $1 order by m.begins_at`,
      id,
    ),
    notes: await rows('select labels, made_at, open_until, opened_at from sealed_note where person_id = $1 order by made_at', id),
    files: await rows(
      `select name, type, size, hash, at from stored_file
        where by = $1 or (by is null and case_id in (select id from service_case where requester_id = $1 or for_id = $1)) order by at`,
      id,
    ),
    tables: await rows(
      `select t.name, r.key, r.cells from reference_row r join reference_table t on t.id = r.table_id
        where r.cells::text like '%"person": "' || $1 || '"%' order by t.name, r.key`,
      id,
    ),
    tableChanges: await rows(
      'select t.name, c.key, c.column_id, c.at from reference_change c join reference_table t on t.id = c.table_id where c.by = $1 order by c.id',
      id,
    ),
    staff: await rows(
      `select e.record from staff_employment e join staff_person s on s.id = e.whose join person p on p.staff_number = any(s.numbers) where p.id = $1 order by e.employment`,
      id,
    ),
    happenings: await rows(
      `select h.kind, h."from", h.standing, h.at, h.state, h.why, h.request from staff_happening h join staff_person s on s.id = h.whose
        join person p on p.staff_number = any(s.numbers) where p.id = $1 order by h.number`,
      id,
    ),
    log: await rows('select at, action, object, object_id, detail from change_log where actor_id = $1 order by id', id),
  };
}

/** Takes out of requests what was typed, sent and answered in them; that they were, and how they ended, stays. */
async function emptyRequests(client: Client, which: string, values: unknown[]): Promise<number> {
  await client.query("select set_config('nessmoor.erasing', 'on', true)");
  const run = (text: string) => client.query(text.replace('(which)', `(${which})`), values);
  await run(`update run_event set event = jsonb_strip_nulls(jsonb_build_object('type', event -> 'type', 'key', event -> 'key', 'erased', true))
    where run_id in (select id from run where case_id in (which)) and not event ? 'erased'`);
  await run(
    "update run_step set inputs = '{}', outputs = case when outputs is null then null else '{}'::jsonb end, note = null where run_id in (select id from run where case_id in (which))",
  );
  await run("update answer_version set changed = '{}' where run_id in (select id from run where case_id in (which))");
  await run(
    "update message set subject = '(erased)', text = '(erased)', content = null, invitation = null, to_address = '' where case_id in (which)",
  );
  await run(
    "update call set inputs = '{}', progress = '', words_due = null, words_trouble = '', sealed_made = null, outputs = case when outputs is null then null else '{}'::jsonb end where run_id in (select id from run where case_id in (which))",
  );
  await run(
    "update call_try set said = '(erased)' where call_id in (select id from call where run_id in (select id from run where case_id in (which)))",
  );
  await run("update approval set comment = '' where gate_id in (select id from gate where run_id in (select id from run where case_id in (which)))");
  await run("update question set words = '(erased)', values = null where run_id in (select id from run where case_id in (which))");
  await run(
    `update task set instructions = '[]', draft = '{"values": {}, "checked": []}' where run_id in (select id from run where case_id in (which))`,
  );
  await run("update ticket set subject = '(erased)', category = null, filled = '{}' where case_id in (which)");
  await run("update case_word set text = '(erased)', content = null, by_outside = null, came_as = null where case_id in (which)");
  // Nothing of it is said anywhere any more.
  await run(
    `update mirrored_word set settled_at = coalesce(settled_at, now()), refused = case when settled_at is null or refused is not null then '' end where call_id in (select id from call where run_id in (select id from run where case_id in (which)))`,
  );
  await run("update sealed_note set sealed = null, labels = '[]' where run_id in (select id from run where case_id in (which))");
  await run(
    "update difference set why = null, outputs = '{}' where holding_id in (select id from holding where run_id in (select id from run where case_id in (which)))",
  );
  await run('update holding set ending_why = null where run_id in (select id from run where case_id in (which))');
  await run(`update ticket_event set event = event - 'why' where case_id in (which) and event ? 'why' and event ->> 'type' in ('given', 'judged')`);
  await run(`update ticket_event set event = event - 'words' where case_id in (which) and event ? 'words'`);
  await run('delete from public_request where case_id in (which)');
  await run('delete from file_piece where file_id in (select id from stored_file where case_id in (which))');
  await run(
    "update letter set words = null, status = case status when 'waiting' then 'withdrawn' else status end where run_id in (select id from run where case_id in (which))",
  );
  await run(
    `update meeting set words = '{"title": {"text": [], "values": {}}, "body": {"text": [], "values": {}}}', title = '(erased)', place = '', "window" = '{"within": 1}', last_error = null
      where run_id in (select id from run where case_id in (which))`,
  );
  await run(
    "update invited set words = '' where meeting_id in (select id from meeting where run_id in (select id from run where case_id in (which)))",
  );
  await run("update stored_file set name = '(erased)', type = '', size = 0, hash = '' where case_id in (which)");
  await run(`update run set state = (state || '{"answers": {}, "outputs": {}, "rows": []}'::jsonb) - 'reason' where case_id in (which)`);
  const { rowCount } = await run(
    "update service_case set answers = '{}', words = '', reason = null where id in (which) and (answers <> '{}' or words <> '')",
  );
  return rowCount ?? 0;
}

const log = (client: Client, action: string, objectId: string, detail: object) =>
  client.query("insert into change_log (action, object, object_id, detail) values ($1, 'person', $2, $3)", [
    action,
    objectId,
    JSON.stringify(detail),
  ]);

/** Where the words of others hold a name as it was when they were written: what a request is found by, what was told, what was to be done. */
const wordsOfOthers = {
  service_case: ['words'],
  ticket: ['subject'],
  case_word: ['text', 'by_outside'],
  message: ['subject', 'text'],
  task: ['name'],
  question: ['name', 'words'],
  meeting: ['title', 'place'],
};
const textsOfOthers = {
  case_word: ['content'],
  message: ['content', 'invitation'],
  meeting: ['words'],
  task: ['instructions'],
  bundle_import: ['did'],
};

/** What others wrote or were told of a person names nobody any more. */
async function takeNameOut(client: Client, id: string): Promise<void> {
  for (const [table, columns] of Object.entries(wordsOfOthers))
    for (const column of columns)
      await client.query(
        `update ${table} w set ${column} = replace(w.${column}, p.name, 'Erased person') from person p where p.id = $1 and strpos(w.${column}, p.name) > 0`,
        [id],
      );
  // What a row is found by has small letters only.
  await client.query(
    `update reference_row r set words = replace(r.words, lower(p.name), 'erased person') from person p where p.id = $1 and strpos(r.words, lower(p.name)) > 0`,
    [id],
  );
  for (const [table, columns] of Object.entries(textsOfOthers))
    for (const column of columns)
      await client.query(
        `update ${table} w set ${column} = replace(w.${column}::text, p.written, 'Erased person')::jsonb
          from (select left(right(to_json(name)::text, -1), -1) as written from person where id = $1) p where strpos(w.${column}::text, p.written) > 0`,
        [id],
      );
}

/** Takes a person out: name, address, sign-in and everything they typed. Refused while something of theirs is under way. */
export async function erasePerson(client: Client, userName: string): Promise<{ ok: true; requests: number } | { ok: false; sentence: string }> {
  await client.query('begin');
  try {
    const refuse = async (sentence: string) => {
      await client.query('rollback');
      return { ok: false as const, sentence };
    };
    const { rows } = await client.query<{ id: string; open: number; asked: number; works: number }>(
      `select p.id, (select count(*)::int from service_case r where (r.requester_id = p.id or r.for_id = p.id) and r.ended_at is null) as open,
        (select count(*)::int from approval a where a.person_id = p.id and a.status in ('waiting', 'later')) as asked,
        (select count(*)::int from task t where t.closed_at is null and p.id in (t.person_id, t.taken_by))
          + (select count(*)::int from ticket k where k.ended_at is null and k.holder_id = p.id) as works
        from person p where lower(p.user_name) = lower($1) for update`,
      [userName],
    );
    const [found] = rows;
    if (!found) return await refuse(`Nobody has the user name “${userName}”.`);
    if (found.open + found.asked + found.works > 0)
      return await refuse(
        `Not yet: ${found.open} requests and tickets of theirs or for them are under way, ${found.asked} approvals wait for them, and they have ${found.works} open tasks and tickets. End these first.`,
      );
    const { id } = found;
    const requests = await emptyRequests(client, whose, [id]);
    await takeNameOut(client, id);
    await client.query('delete from stored_file where by = $1 and case_id is null', [id]);
    await client.query('delete from basket_line where for_id = $1', [id]);
    await client.query("update approval set comment = '' where person_id = $1", [id]);
    // Why something was taken from them, or by them.
    await client.query('update holding set ending_why = null where ending_by = $1 or person_id = $1', [id]);
    await client.query("update group_admission set why = null, state = case when state = 'asked' then state else 'over' end where person_id = $1", [
      id,
    ]);
    await client.query("update difference set why = null, outputs = '{}' where person_id = $1 or settled_by = $1", [id]);
    await client.query(
      "update apart_exception set why = '(erased)', ended_at = coalesce(ended_at, now()) where person_id = $1 or (by_id = $1 and ended_at is not null)",
      [id],
    );
    await client.query('update kept_apart set excepters = array_remove(excepters, $1) where $1 = any(excepters)', [id]);
    await client.query('update equipment_issue set denied_why = null where person_id = $1', [id]);
    await client.query("update piece_event set note = '' where by = $1 or issue_id in (select id from equipment_issue where person_id = $1)", [id]);
    await client.query("update invited set words = '' where person_id = $1", [id]);
    await client.query('update sealed_note set sealed = null where person_id = $1', [id]);
    await client.query(
      `update mirrored_word set settled_at = coalesce(settled_at, now()), refused = case when settled_at is null or refused is not null then '' end where word_id in (select id from case_word where by = $1)`,
      [id],
    );
    await client.query("update case_word set text = '(erased)', content = null where by = $1", [id]);
    await client.query(
      "update message set to_address = '', subject = '(erased)', text = '(erased)', content = null, invitation = null where to_id = $1",
      [id],
    );
    for (const table of ['session', 'role_grant', 'team_member', 'group_person', 'system_owner', 'kept_view', 'basket_line'])
      await client.query(`delete from ${table} where person_id = $1`, [id]);
    // That the staff feed told of somebody stays, and what followed; not of whom.
    await client.query(
      `update staff_happening h set name = 'Erased person', staff_number = '', whose = '~' || h.id, standing = '{}', why = null from staff_person s, person p
        where p.id = $1 and p.staff_number = any(s.numbers) and h.whose = s.id`,
      [id],
    );
    await client.query(
      `delete from staff_employment e using staff_person s, person p where p.id = $1 and p.staff_number = any(s.numbers) and e.whose = s.id`,
      [id],
    );
    await client.query('delete from staff_person s using person p where p.id = $1 and p.staff_number = any(s.numbers)', [id]);
    await client.query('update person set delegate_id = null where delegate_id = $1', [id]);
    await client.query(
      `update person set name = 'Erased person ' || left(id::text, 8), user_name = '~' || id, email = id || '@erased.invalid', department = null,
        job_role = null, staff_number = null, manager_id = null, location_id = null, active = false, last_day = null, leave_told_for = null, away_until = null, delegate_id = null,
        password_hash = null, erased_at = now() where id = $1`,
      [id],
    );
    await log(client, 'erase', id, { requests });
    await client.query('commit');
    return { ok: true, requests };
  } catch (error) {
    await client.query('rollback');
    throw error;
  }
}

/** Empties the requests that ended more than so many months ago. Gives how many. */
export async function emptyOldRequests(client: Client, months: number): Promise<number> {
  await client.query('begin');
  try {
    const requests = await emptyRequests(client, 'select id from service_case where ended_at < now() - make_interval(months => $1)', [months]);
    if (requests > 0) await log(client, 'retention', 'many', { requests, months });
    await client.query('commit');
    return requests;
  } catch (error) {
    await client.query('rollback');
    throw error;
  }
}
