import { eq, sql } from 'drizzle-orm';
import { blankItem, type ItemDefinition } from '../../core/items/index.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { groupAdmission, groupCondition } from '../db/schema/index.ts';
import { peopleIn } from '../items/audience.ts';
import { openByItself, revisionByItself } from '../items/by-itself.ts';
import { addMember } from '../systems/directory/membership.ts';
import { conditionWordsOf } from './condition.ts';
import { keeperOf } from './whose.ts';

const at = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** A request that nobody draws and nobody sends: somebody is put into a group and is told, because a condition holds of them. */
const definition: ItemDefinition = {
  ...blankItem('Member of a group by its condition'),
  summary: 'Somebody of whom the condition of a group holds is in it, as long as it does.',
  form: {
    fields: [
      { id: 'group', kind: 'group', label: 'Group', required: true },
      { id: 'who', kind: 'longText', label: 'Who is in it by itself', required: true },
      { id: 'by', kind: 'person', label: 'Who set that down', required: true },
      { id: 'why', kind: 'longText', label: 'Why', required: true },
    ],
  },
  plan: {
    steps: [
      {
        id: 'letIn',
        kind: 'provision',
        name: 'Put into the group',
        expected: at,
        action: addMember.spec.id,
        inputs: { group: { ref: 'form.group' }, person: { ref: 'request.for' } },
      },
      {
        id: 'told',
        kind: 'tell',
        name: 'Told that they are in it',
        expected: at,
        to: { ref: 'request.for' },
        subject: [[{ text: 'You are in ' }, { ref: 'form.group' }]],
        body: [
          {
            text: [
              [
                { text: 'In ' },
                { ref: 'form.group' },
                { text: ' is ' },
                { ref: 'form.who' },
                { text: ', and so you are. ' },
                { ref: 'form.by' },
                { text: ' has set that down: “' },
                { ref: 'form.why' },
                { text: '”' },
              ],
              [{ text: 'You are taken out again when it does not hold of you any more.' }],
            ],
          },
        ],
      },
    ],
  },
};

/** Somebody comes into a group by its condition, once: by a request in the name of whoever answers for the condition. */
export const letIn = (id: string): Promise<void> =>
  db().transaction(async (tx) => {
    const [known] = await tx.select({ group: groupAdmission.groupId }).from(groupAdmission).where(eq(groupAdmission.id, id));
    if (!known) return;
    const [row] = await tx.select().from(groupCondition).where(eq(groupCondition.groupId, known.group)).for('share');
    const [who] = await tx.select().from(groupAdmission).where(eq(groupAdmission.id, id)).for('update');
    if (!row || who?.state !== 'open') return;
    const keeper = await keeperOf(tx, row);
    // What was true when it was looked at may not be any more.
    if (row.ended !== null || !keeper || !(await belongs(tx, row.members, who.personId))) return settle(tx, id, { state: 'over' });
    const its = await revisionByItself(tx, definition, {
      spec: addMember.spec,
      by: keeper.id,
      note: 'For those of whom the condition of a group holds.',
    });
    const answers = { group: { group: row.groupId }, who: await conditionWordsOf(tx, row.members), by: { person: row.keptBy }, why: row.why };
    const { caseId, number } = await openByItself(tx, its, { by: keeper, whom: who.personId, answers, key: `group:${id}`, at: now() });
    await settle(tx, id, { state: 'asked', caseId });
    await record(tx, { actor: null, action: 'ask', object: 'group', objectId: row.groupId, detail: { request: number, person: who.personId } });
  });

const settle = async (tx: Tx, id: string, change: Partial<typeof groupAdmission.$inferInsert>): Promise<void> =>
  void (await tx.update(groupAdmission).set(change).where(eq(groupAdmission.id, id)));

async function belongs(tx: Tx, members: object, person: string): Promise<boolean> {
  const { rows } = await tx.execute<{ is: boolean }>(
    sql`select exists (select from (${peopleIn(sql`${JSON.stringify(members)}::jsonb`)}) b where b.id = ${person}::uuid) as "is"`,
  );
  return rows[0]!.is;
}
