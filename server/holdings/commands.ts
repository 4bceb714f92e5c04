import { sql } from 'drizzle-orm';
import { GiveBack } from '../../core/posts/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db } from '../db/database.ts';
import { isId } from '../ids.ts';
import { takenBack } from '../mail/given-back.ts';
import { writeAbout } from '../mail/write.ts';
import { holdTo, notFound, refuse, type Result } from '../refusal.ts';
import { maySeeInside } from '../requests/confidential.ts';
import { endedByOthers } from '../systems/index.ts';
import { endHolding, lockHolding } from './end.ts';

/**
 * Gives back what one has (but for what only others end, such as one's account), or takes it from somebody else: whose manager one is, or who is in a group that one owns; an administrator
 * from anybody. Whoever loses it is told why.
 */
export async function giveBack(viewer: Viewer, input: { id: string; why: string }): Promise<Result> {
  if (!isId(input.id)) return notFound('This');
  return db().transaction(async (tx): Promise<Result> => {
    const locked = await lockHolding(tx, input.id);
    if (!locked) return notFound('This');
    const { row, run } = locked;
    const isTheirs = row.personId === viewer.id;
    if (!isTheirs && !has(viewer, 'administrator')) {
      const { rows } = await tx.execute<{ may: boolean }>(sql`
        select (exists (select from person p where p.id = h.person_id and p.manager_id = ${viewer.id})
            or exists (select from group_person g where g.group_id::text = h.what ->> 'group' and g.person_id = ${viewer.id} and g."as" = 'owner'))
          and ${maySeeInside(viewer)} as may
        from holding h join run on run.id = h.run_id join service_case on service_case.id = run.case_id where h.id = ${row.id}`);
      if (!rows[0]?.may) return notFound('This');
    }
    if (isTheirs && row.action !== null && endedByOthers.includes(row.action) && !has(viewer, 'administrator'))
      return refuse('not-allowed', 'Whoever has this does not let go of it alone: ask your manager, or the desk. Nothing was changed.');
    const held = holdTo(GiveBack, { why: input.why, whose: isTheirs ? 'mine' : 'theirs' });
    if (!held.ok) return held;
    if (row.endedAt) return refuse('ended', 'It was given back already. Nothing was changed.');
    if (row.endingAt) return refuse('ended', 'It is being given back already. Nothing was changed.');
    const why = held.value.why || 'Given back by whoever had it.';
    if (!(await endHolding(tx, locked, viewer.id, why)))
      return refuse('ended', 'The request that gave it does not know of it any more. Report it to the desk; nothing was changed.');
    await record(tx, {
      actor: viewer.id,
      action: isTheirs ? 'give-back' : 'take-back',
      object: 'holding',
      objectId: row.id,
      detail: { request: run.number },
    });
    if (!isTheirs) await writeAbout(tx, run.id, takenBack({ key: row.key, to: row.personId, what: row.what }, viewer.id, why));
    return { ok: true };
  });
}
