import { Readable } from 'node:stream';
import { and, eq, inArray } from 'drizzle-orm';
import { keepFile } from '../server/files/keep.ts';
import { decide } from '../server/approvals/commands.ts';
import { writeOnRequest } from '../server/conversation/request.ts';
import { submitRequest } from '../server/requests/submit.ts';
import { shiftClock } from '../server/clock.ts';
import type { Viewer } from '../server/auth/viewer.ts';
import { db } from '../server/db/database.ts';
import { approval, gate, run, serviceCase } from '../server/db/schema/index.ts';
import { type Value } from '../core/values/index.ts';
import { carryOut, good, inDays } from './carry-out.ts';

/** Requests that stand in the middle of their plans, so that the Desk has work. */
export async function underWay(
  items: Record<'machine' | 'starting' | 'leaving' | 'calibration' | 'tablet' | 'repair' | 'space' | 'sizes' | 'templates', string>,
  viewer: (key: string) => Viewer,
  { mentor, leaves, owners }: { mentor: string; leaves: string; owners: string[] },
): Promise<void> {
  const { machine, starting, leaving, calibration, tablet, repair, space, sizes: table } = items;
  shiftClock(-6 * 3_600_000);
  const ask = async (who: string, itemId: string, answers: Record<string, Value>) => {
    const asked = good(await submitRequest(viewer(who), { itemId, revision: 1, answers, idempotencyKey: `demo-${who}-${itemId}` }));
    await carryOut();
    return asked.number;
  };
  const attach = async (who: string, name: string) => {
    const stream = Readable.from([Buffer.from('%PDF-1.4\n1 0 obj << >> endobj\ntrailer << >>\n%%EOF\n')]);
    return good(await keepFile(viewer(who), { name, stream })).file.id;
  };
  const small = await ask('requester', machine, { size: { table, key: 'Small' }, days: 21, purpose: 'Reducing the soundings of the inner fjord.' });
  await ask('charts-second', machine, { size: { table, key: 'Large' }, days: 14, purpose: 'Gridding the spring survey.' });
  const colleague = { firstDay: inDays(9), role: 'Hydrographer', mentor: { person: mentor } };
  const permanent = await ask('hydro-head', starting, { ...colleague, given: 'Eldrid', family: 'Vannsnes', contract: 'permanent' });
  const season = await ask('requester', starting, { ...colleague, given: 'Runolv', family: 'Holmestad', contract: 'season' });
  const outside = { work: 'Reading the tide poles on the outer skerries.', until: inDays(30), cased: false };
  await ask('approver', leaving, { colleague: { person: leaves }, lastDay: inDays(24) });
  const tablets: number[] = [];
  for (const who of ['designer', 'owner', 'approver', 'access-lead']) tablets.push(await ask(who, tablet, outside));
  const winch = await ask('owner', repair, {
    vessel: 'Kittiwake',
    title: 'The port winch pays out by itself',
    text: 'Since the last survey, under load, about a metre in ten minutes. The brake was looked at; it holds when the drum is turned by hand.',
  });
  const sound = await ask('charts-second', space, {
    name: 'outer-fjord-2027',
    seen: 'members',
    template: { table: items.templates, key: 'Survey' },
    purpose: 'The soundings of the outer fjord, until the chart is printed.',
    owners: owners.map((person) => ({ person })),
  });
  shiftClock(-3 * 3_600_000);
  const word = { number: small, once: '' };
  good(await writeOnRequest(viewer('requester'), { ...word, words: 'It would help to have it before the survey leaves.', asRequester: true }));
  good(await writeOnRequest(viewer('technician'), { ...word, words: 'Which of the **two surveys**? The one on the Kittiwake?' }));
  const asked = await db()
    .select({ id: approval.id, personId: approval.personId, number: serviceCase.number })
    .from(approval)
    .innerJoin(gate, eq(gate.id, approval.gateId))
    .innerJoin(run, eq(run.id, gate.runId))
    .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
    .where(and(inArray(serviceCase.number, [permanent, season, winch, sound, ...tablets]), eq(approval.status, 'waiting')));
  await ask('charts-second', calibration, {
    instruments: [
      { entry: { what: 'sounder', serial: 'ES-2207', atSea: true } },
      { entry: { what: 'gauge', serial: 'TG-0413', atSea: false } },
      { entry: { what: 'probe', serial: 'SP-1190', atSea: true } },
    ],
    handed: inDays(3),
    back: inDays(12),
    papers: [{ file: await attach('charts-second', 'Certificate of ES-2207.pdf') }],
  });
  const own: Record<number, string> = { [winch]: 'It should not wait for the next survey.', [sound]: 'I answer for it.' };
  for (const a of asked)
    good(
      await decide({ ...viewer('hydro-head'), id: a.personId }, { approvalId: a.id, decision: 'approve', comment: own[a.number] ?? 'Welcome news.' }),
    );
  // A space is prepared, owned and opened one after another.
  for (let round = 0; round < 5; round++) await carryOut();
  shiftClock(0);
}
