import { Form, Link, useNavigation } from 'react-router';
import { movingWords, unasked } from '../../core/groups/index.ts';
import type { GroupPage } from '../../server/groups/queries.ts';
import { Button } from '~/ui/button';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';

const people = (n: number) => `${n.toLocaleString('en')} ${n === 1 ? 'person' : 'people'}`;

/** How many are in a group, and why; and what waits for a word of somebody who owns it. */
export function InItNow({ group, kept }: { group: GroupPage; kept: GroupPage['kept'] }) {
  const busy = useNavigation().state !== 'idle';
  const { members, byIt, comes, underWay } = group;
  return (
    <section aria-label="Who is in it now" className="mb-6">
      <p>
        {members === 0 ? 'Nobody is in it.' : `${people(members)} in it`}
        {members > 0 &&
          (kept || byIt > 0
            ? `: ${byIt.toLocaleString('en')} by the condition, ${comes.otherwise.toLocaleString('en')} otherwise, who stay whatever it says.`
            : ', nobody of them by a condition.')}
      </p>
      {group.mayKeep && members > 0 && group.owners.length > 0 && (
        <p className="text-sm">
          <Link to="/counter/things?whose=owned" className="text-sea underline underline-offset-4">
            Who is in my groups
          </Link>
          , since when and why.
        </p>
      )}
      {underWay > 0 && (
        <p className="flex items-center gap-2 text-sm">
          <StateMark kind="half" size={12} /> {people(underWay)} {underWay === 1 ? 'is' : 'are'} being let in.
        </p>
      )}
      {kept && (
        <p className="text-sm text-faint">
          {kept.lookedAt ? (
            <>
              Held against who works here <Time at={new Date(kept.lookedAt)} />, and again every five minutes.
            </>
          ) : (
            'It is being held against who works here for the first time.'
          )}
        </p>
      )}
      {kept?.held && (
        <div className="mt-3 border-l-2 border-ochre pl-3">
          <p className="flex items-center gap-2 font-medium">
            <StateMark kind="held" size={14} /> Waits for a word: {movingWords(kept.held)}
          </p>
          <p className="text-sm">
            No more than {unasked.atLeast} people, or a tenth of those who are in it by the condition, move at once without somebody saying so: so
            many are rather a fault in what is known of them. Below stands who it is. Until then nobody comes in or goes out by the condition.
          </p>
          {group.mayKeep && (
            <Form method="post" className="mt-2">
              <input type="hidden" name="in" value={kept.held.in} />
              <input type="hidden" name="out" value={kept.held.out} />
              <Button type="submit" name="act" value="agree" weight="main" disabled={busy}>
                It is right: {movingWords(kept.held)}
              </Button>
            </Form>
          )}
        </div>
      )}
    </section>
  );
}
