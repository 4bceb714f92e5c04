import { meetingsAhead } from '../../../server/meetings/read.ts';
import { myCases } from '../../../server/requests/mine.ts';
import { MeetingsAhead } from '~/meetings/meetings';
import { ButtonLink } from '~/ui/button';
import { Empty } from '~/ui/frame';
import { Live } from '~/ui/live';
import { asked, numberIn, signedIn } from '../session.server';
import { RequestLine, TicketLine } from './request-line';
import type { Route } from './+types/requests';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'My requests · Counter · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const before = numberIn(asked(request, 'before')) || undefined;
  const viewer = signedIn(context, request);
  const [cases, meetings] = await Promise.all([myCases(viewer, before), before === undefined ? meetingsAhead(viewer) : []]);
  return { ...cases, meetings, before };
}

export default function Requests({ loaderData: { rows, next, before, meetings } }: Route.ComponentProps) {
  return (
    <div className="max-w-4xl">
      <div className="mb-4 flex items-baseline gap-3">
        <h1 className="font-serif text-2xl">My requests</h1>
        <Live />
      </div>
      <MeetingsAhead meetings={meetings} />
      {rows.length === 0 ? (
        <Empty act={<ButtonLink to="/counter">Ask for something</ButtonLink>}>
          {before
            ? 'There are no older requests.'
            : 'What you ask for and report stands here, with where it is and who has it. There is nothing of yours yet.'}
        </Empty>
      ) : (
        <ul className="border-t">
          {rows.map((r) => ('subject' in r ? <TicketLine key={r.number} t={r} /> : <RequestLine key={r.number} r={r} ordered />))}
        </ul>
      )}
      {next && (
        <p className="mt-4">
          <ButtonLink to={`?before=${next}`}>Older requests</ButtonLink>
        </p>
      )}
    </div>
  );
}
