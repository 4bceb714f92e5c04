import { Link } from 'react-router';
import { comingWords, meetingTime, type Coming } from '../../core/meetings/index.ts';
import type { Guest, Meeting } from '../../server/meetings/read.ts';
import { StateMark } from '~/ui/state-mark';
import { useNow } from '~/ui/now';

/** The meetings of a request: when each is, where, and who comes. `named`: who is invited is told, too; not to somebody from outside. */
export function Meetings({ meetings, named = true, level = 'h2' }: { meetings: readonly Meeting[]; named?: boolean; level?: 'h2' | 'h3' }) {
  if (meetings.length === 0) return null;
  const Title = level;
  return (
    <section aria-label="Meetings" className="mb-6">
      <Title className={level === 'h2' ? 'mb-2 font-medium' : 'mb-2 text-sm text-faint'}>Meetings</Title>
      <ul>
        {meetings.map((m) => (
          <li key={m.id} className="mb-3 break-words">
            <p>
              {m.title}
              {m.status === 'off' && <span className="text-coral"> (does not take place)</span>}
            </p>
            <p className="text-sm">
              <MeetingTime meeting={m} />
              {m.place && `, ${m.place}`}
            </p>
            {named && <Guests guests={m.guests} isOff={m.status === 'off'} />}
            {m.isMine && named && m.status !== 'off' && (
              <p className="text-sm">
                <Link to={`/counter/meetings/${m.id}`} className="text-sea underline underline-offset-4">
                  Say whether you come <span className="sr-only">({m.title})</span>
                </Link>
              </p>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The meetings that somebody is invited to, each with what they said. */
export function MeetingsAhead({
  meetings,
}: {
  meetings: readonly (Pick<Meeting, 'id' | 'title' | 'place' | 'status' | 'beginsAt' | 'endsAt'> & { says: Coming | null })[];
}) {
  if (meetings.length === 0) return null;
  return (
    <section aria-label="Meetings you are invited to" className="mb-6">
      <h2 className="mb-1 font-medium">Meetings you are invited to</h2>
      <ul className="border-t">
        {meetings.map((m) => (
          <li key={m.id} className="flex flex-wrap items-baseline gap-x-4 border-b py-2">
            <span className="min-w-0 grow break-words">
              <Link to={`/counter/meetings/${m.id}`} className="text-sea underline underline-offset-4">
                {m.title}
              </Link>
              <span className="block text-sm">
                <MeetingTime meeting={m} />
                {m.place && `, ${m.place}`}
              </span>
            </span>
            <span>
              <StateMark kind={m.says ? marks[m.says] : 'empty'} size={14} /> {m.says ? mineWords[m.says] : 'You have not answered'}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
const mineWords: Record<Coming, string> = { yes: 'You come', no: 'You do not come', maybe: 'You may come' };

/** When it is, or that a time is looked for. */
export function MeetingTime({ meeting: m }: { meeting: Pick<Meeting, 'status' | 'beginsAt' | 'endsAt'> }) {
  const { zone } = useNow();
  if (m.status === 'seeking' || !m.beginsAt || !m.endsAt) return <span className="text-faint">A time is being looked for</span>;
  return (
    <span className={m.status === 'off' ? 'line-through' : undefined}>
      <span className="numbers text-sm" data-tip={zone}>
        {meetingTime(m.beginsAt, m.endsAt, zone)}
      </span>
    </span>
  );
}

const marks = { yes: 'done', no: 'declined', maybe: 'half' } as const satisfies Record<Coming, string>;

/** Who is invited, and what they said. */
export function Guests({ guests, isOff = false }: { guests: readonly Guest[]; isOff?: boolean }) {
  return (
    <ul aria-label="Invited" className="text-sm">
      {guests.map((g) => (
        <li key={g.id}>
          <StateMark kind={g.says ? marks[g.says] : 'empty'} size={12} /> {g.name}
          {!isOff && <span className="text-faint">: {g.says ? comingWords[g.says].toLowerCase() : 'has not answered'}</span>}
          {g.words && <span> “{g.words}”</span>}
          {g.unseen && !isOff && <span className="text-faint"> (their calendar could not be seen)</span>}
        </li>
      ))}
    </ul>
  );
}
