import { sql } from 'drizzle-orm';
import { passages } from '../core/plans/index.ts';
import { step } from '../core/testing/samples.ts';
import { sentence } from '../core/values/index.ts';
import type { Tx } from '../server/db/database.ts';
import { publishPlan, type Organisation } from './generated.ts';

/** Publishes an item whose letters are written side by side under one name, and go with a mail. */
export function publishLetters(org: Organisation): Promise<string> {
  const letter = (id: string) =>
    step('write', id, {
      fileName: sentence('Loan paper'),
      title: [[{ text: 'For ' }, { ref: 'request.requester' }]],
      body: [{ text: sentence('What is lent:'), table: { list: { ref: 'form.gear' }, columns: [{ id: 'what', head: 'What' }] } }],
      numbered: true,
    });
  const branches = ['one', 'two'].map((id) => ({ id, name: id, block: [letter(id)] }));
  const send = step('tell', 'send', {
    to: { ref: 'request.requester' },
    subject: sentence('Two letters'),
    body: passages('They go with this.'),
    attaches: [{ ref: 'steps.one.file' }, { ref: 'steps.two.file' }],
  });
  return publishPlan(org, 'Two letters', { steps: [step('together', 'both', { join: 'all', branches }), send] });
}

/** Holds letters against the requests they were written for, after workers were killed while they made them; gives what is wrong, in sentences. */
export async function lookAtLetters(tx: Tx): Promise<{ wrong: string[]; words: string }> {
  const wrong: string[] = [];
  const count = async (which: ReturnType<typeof sql>) => (await tx.execute<{ n: number }>(sql`select count(*)::int as n from ${which}`)).rows[0]!.n;
  const none = async (words: string, which: ReturnType<typeof sql>) => {
    const n = await count(which);
    if (n > 0) wrong.push(`${n} ${words}.`);
  };
  await none(
    'letters wait though their request has ended',
    sql`letter l join run r on r.id = l.run_id where l.status = 'waiting' and r.ended_at is not null`,
  );
  await none(
    'letters were written, and their file is not whole',
    sql`letter l left join stored_file f on f.id = l.file_id where l.status = 'written' and f.size is distinct from
      (select sum(length(p.bytes)) from file_piece p where p.file_id = f.id)`,
  );
  await none(
    'files were written by no letter, or by two',
    sql`stored_file f where f.by is null and (select count(*) from letter l where l.file_id = f.id) <> 1`,
  );
  await none(
    'letters were written, and their request was not told once',
    sql`letter l where l.status = 'written' and (select count(*) from run_event e where e.run_id = l.run_id and e.ignored is null and e.event ->> 'type' = 'answered'
      and e.event ->> 'key' = l.key and (e.event ->> 'round')::int = l.round) <> 1`,
  );
  await none(
    'letters of one name in a request have the same version',
    sql`(select f.case_id, f.name, l.version from letter l join stored_file f on f.id = l.file_id group by 1, 2, 3 having count(*) > 1) twice`,
  );
  const [written, withdrawn] = [await count(sql`letter where status = 'written'`), await count(sql`letter where status = 'withdrawn'`)];
  return { wrong, words: `${written} letters written, ${withdrawn} not needed any more` };
}
