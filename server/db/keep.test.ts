import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { backup, replaceDatabase, restore } from '../../scripts/lib/backup.mjs';
import { saveRow } from '../tables/commands.ts';
import { world, type World } from '../testing/world.ts';
import { emptyOldRequests, erasePerson, exportPerson } from './personal-data.ts';
import { trace } from '../runs/queries.ts';
import { verifyLog } from '../changes/queries.ts';

let w: World;
let owner: pg.Client;
const urlOf = (name: string) => process.env['TEST_DATABASE_URL']!.replace(/\/postgres$/, `/${name}`);
beforeAll(async () => {
  w = await world();
  owner = new pg.Client({ connectionString: urlOf(w.databaseName) });
  await owner.connect();
});
afterAll(async () => {
  await owner.end();
  await w.close();
});

describe('a backup', () => {
  it('restored into an empty database is the same, row by row, and so is the chain of the log', async () => {
    const item = await w.item();
    const { id } = await w.ask(w.viewer('tor'), item.id);
    await w.decide('ina', id, 'approve', 'Fine 🛶');
    await w.work();
    const folder = mkdtempSync(join(tmpdir(), 'nessmoor-'));
    const file = join(folder, 'all.dump');
    const copy = `${w.databaseName}_copy`;
    const admin = new pg.Client({ connectionString: process.env['TEST_DATABASE_URL'] });
    await admin.connect();
    try {
      await backup(urlOf(w.databaseName), file);
      expect(existsSync(file)).toBe(true);
      await admin.query(`create database ${copy}`);
      await restore(file, urlOf(copy));
      const there = new pg.Client({ connectionString: urlOf(copy) });
      await there.connect();
      const tables = (
        await owner.query<{ t: string }>(
          "select quote_ident(schemaname) || '.' || quote_ident(tablename) as t from pg_tables where schemaname in ('public', 'graphile_worker') order by 1",
        )
      ).rows.map((r) => r.t);
      expect(tables.length).toBeGreaterThan(35);
      let rows = 0;
      for (const t of tables) {
        const all = `select count(*)::int as n, md5(coalesce(string_agg(x::text, '|' order by x::text), '')) as sum from ${t} x`;
        const [here, over] = [(await owner.query<{ n: number }>(all)).rows[0]!, (await there.query(all)).rows[0]];
        expect(over, t).toEqual(here);
        rows += here.n;
      }
      expect(rows).toBeGreaterThan(50);
      // It works on: the next request gets the next number, the log goes on in its chain, and nothing can be rewritten there either.
      await there.query("insert into change_log (action, object, object_id, detail) values ('after', 'test', 'x', '{}')");
      const chain = await there.query('select 1 from change_chain c join change_log l on l.id = c.change_id where l.action = $1', ['after']);
      expect(chain.rows).toHaveLength(1);
      await expect(there.query('delete from change_log')).rejects.toThrow('append-only');
      await there.end();
      // Put in the place of another, that one is kept beside it.
      const place = `${copy}_place`;
      await admin.query(`create database ${place}`);
      await replaceDatabase({ superUrl: urlOf('postgres') }, place, copy);
      const names = async () =>
        (await admin.query<{ n: string }>('select datname as n from pg_database where datname like $1 order by 1', [`${copy}%`])).rows.map(
          (r) => r.n,
        );
      expect(await names()).toEqual([place, `${place}_before`]);
      await replaceDatabase({ superUrl: urlOf('postgres') }, copy, place);
      expect(await names()).toEqual([copy, `${place}_before`]);
      await admin.query(`drop database ${place}_before`);
      await expect(restore(join(folder, 'none.dump'), urlOf(copy))).rejects.toThrow('There is no file');
    } finally {
      await admin.query(`drop database if exists ${copy} with (force)`);
      await admin.end();
      rmSync(folder, { recursive: true, force: true });
    }
  });
});

describe('one person’s data', () => {
  it('can be given out whole, and taken out: not while something is under way; that it happened stays', async () => {
    const item = await w.item('For erasing');
    const asked = await w.ask(w.viewer('runa'), item.id, 'tide-models', { reason: 'Words only Runa would write' });
    // Somebody else names her in a request of theirs, which is found by her name.
    const naming = await w.ask(w.viewer('tor'), item.id, 'tide-models', { colleague: { person: w.id('runa') } });
    const words = async () => (await w.query<{ words: string }>('select words from service_case where id = $1', [naming.caseId]))[0]!.words;
    expect(await words()).toContain('Runa Strand');
    // A reference table names her, too.
    const row = { size: 'Hers', processors: 2, keeper: { person: w.id('runa') } };
    expect(await saveRow(w.viewer('dan', 'designer'), { table: w.machine.table, cells: row })).toMatchObject({ ok: true });
    const all = (await exportPerson(owner, 'RUNA'))!;
    expect(all['tables']).toMatchObject([{ name: 'Machine sizes', key: 'Hers' }]);
    expect(JSON.stringify(all)).toContain('Words only Runa would write');
    expect(all['person']).toMatchObject({ user_name: 'runa', manager: 'Boss Strand' });
    expect(await exportPerson(owner, 'nobody')).toBeUndefined();
    expect(await erasePerson(owner, 'runa')).toMatchObject({
      ok: false,
      sentence: expect.stringContaining('1 requests and tickets of theirs or for them are under way'),
    });
    expect(await erasePerson(owner, 'nobody')).toMatchObject({ ok: false });
    await w.decide('ina', asked.id, 'decline', 'Not now, Runa');
    await w.work();
    // Held by somebody else, and taken from them in her words.
    const other = await w.ask(w.viewer('tor'), (await w.item('Held by Tor')).id);
    await w.query(
      `insert into holding (person_id, kind, what, run_id, key, since, ending_at, ending_by, ending_why)
       values ($1, 'group', 'null', $2, 'given#1', now(), now(), $3, 'Words only Runa would say')`,
      [w.id('tor'), other.id, w.id('runa')],
    );
    // Something was handed to her, which she says she has not.
    await w.query(
      `with kind as (insert into equipment_kind (name, marked, changed_at) values ('Lamp', true, now()) returning id),
        place as (insert into stock_place (location_id, team_id) select l.id, t.id from location l, team t limit 1 returning location_id),
        lamp as (insert into piece (kind_id, location_id, state, since) select kind.id, place.location_id, 'out', now() from kind, place returning id, kind_id),
        its as (insert into equipment_issue (key, kind_id, person_id, state, piece_id, what, created_at, denied_at, denied_why)
          select 'k', kind_id, $1, 'out', id, 'Lamp 1', now(), now(), 'Words only Runa would say' from lamp returning piece_id, id)
      insert into piece_event (piece_id, at, what, issue_id, note) select piece_id, now(), 'handedOut', id, 'Words only Runa would say' from its`,
      [w.id('runa')],
    );
    expect((await exportPerson(owner, 'runa'))!['equipment']).toMatchObject([
      { kind: 'Lamp', what: 'Lamp 1', denied_why: 'Words only Runa would say' },
    ]);
    // The staff feed told of her.
    await w.query("update person set staff_number = 'S-77' where id = $1", [w.id('runa')]);
    await w.query(`insert into staff_person (id, numbers, standing) values ('S-77', '{S-77}', '{"given": "Words only Runa has"}')`);
    await w.query(`insert into staff_employment (employment, whose, record) values ('E', 'S-77', '{"given": "Words only Runa has"}')`);
    await w.query(
      `insert into staff_happening (number, kind, whose, staff_number, name, "from", standing, changed, at, state)
       values (1, 'starts', 'S-77', 'S-77', 'Words only Runa has', '2026-01-01', '{}', '[]', now(), 'noRule')`,
    );
    expect((await exportPerson(owner, 'runa'))!['staff']).toEqual([{ record: { given: 'Words only Runa has' } }]);
    expect(await erasePerson(owner, 'runa')).toEqual({ ok: true, requests: 1 });
    const whole = await w.query<{ everything: string }>(
      `select concat((select json_agg(x) from person x), (select json_agg(x) from service_case x), (select json_agg(x) from run x), (select json_agg(x) from run_event x),
        (select json_agg(x) from run_step x), (select json_agg(x) from message x), (select json_agg(x) from approval x), (select json_agg(x) from task x), (select json_agg(x) from question x), (select json_agg(x) from reference_row x),
        (select json_agg(x) from holding x), (select json_agg(x) from equipment_issue x), (select json_agg(x) from piece_event x), (select json_agg(x) from call x), (select json_agg(x) from case_word x),
        (select json_agg(x) from staff_person x), (select json_agg(x) from staff_employment x), (select json_agg(x) from staff_happening x)) as everything`,
    );
    for (const word of ['Words only Runa', 'Not now, Runa', 'Runa Strand', 'runa strand', 'runa@skerrin', 'S-77'])
      expect(whole[0]!.everything).not.toContain(word);
    expect(await words()).toContain('Erased person');
    expect((await w.request(asked.id)).outcome).toBe('declined');
    expect(await trace(w.viewer('dan', 'auditor'), asked.number)).toMatchObject({ outcome: 'declined', answers: [] });
    expect(await verifyLog()).toMatchObject({ ok: true });
    // The directory still names her: the person who was taken out stays taken out.
    await w.sync();
    expect((await w.query<{ name: string }>('select name from person where id = $1', [w.id('runa')]))[0]!.name).toMatch(/^Erased person/);
  });

  it('the application itself can rewrite nothing, whatever it says; retention empties only what ended long ago', async () => {
    await expect(
      w.db().transaction(async (tx) => {
        await tx.execute("select set_config('nessmoor.erasing', 'on', true)");
        await tx.execute("update run_event set event = '{}'");
      }),
    ).rejects.toThrow();
    const item = await w.item('For retention');
    const [old, fresh] = [await w.ask(w.viewer('tor'), item.id), await w.ask(w.viewer('tor'), item.id)];
    for (const { id } of [old, fresh]) await w.decide('ina', id, 'decline', 'No');
    await w.query("update service_case set ended_at = now() - interval '25 months' where id = $1", [old.caseId]);
    expect(await emptyOldRequests(owner, 24)).toBe(1);
    expect(await emptyOldRequests(owner, 24)).toBe(0);
    expect([(await w.request(old.id)).answers, Object.keys((await w.request(fresh.id)).answers).length > 0]).toEqual([{}, true]);
  });
});
