import { Form, Link, useNavigation } from 'react-router';
import { makeAnew, openNote } from '../../../server/notes/commands.ts';
import { noteFor } from '../../../server/notes/queries.ts';
import { noteWords } from '~/notes/note-words';
import { Secrets } from '~/notes/secrets';
import { Button } from '~/ui/button';
import { Live } from '~/ui/live';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/note';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Sealed note · Counter · Nessmoor' }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  return { n: orNotFound(await noteFor(signedIn(context, request), params.id), 'This note') };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  if (form.get('act') === 'anew') {
    const result = await makeAnew(viewer, { id: params.id });
    return result.ok ? { anew: true as const } : refused(result, {});
  }
  const result = await openNote(viewer, { id: params.id });
  return result.ok ? { secrets: result.secrets } : refused(result, {});
}

type Note = Route.ComponentProps['loaderData']['n'];

export default function NotePage({ loaderData: { n }, ...props }: Route.ComponentProps) {
  const outcome = useOutcome(props.actionData);
  const busy = useNavigation().formMethod === 'POST';
  const secrets = outcome && 'secrets' in outcome ? outcome.secrets : undefined;
  return (
    <div className="max-w-2xl">
      <p className="flex gap-3 text-sm text-faint">
        {n.isTheirs ? (
          <Link to={`/counter/requests/${n.number}`} className="text-sea underline underline-offset-4">
            {n.item}, <span className="numbers">R-{n.number}</span>
          </Link>
        ) : (
          <span>
            {n.item}, <span className="numbers">R-{n.number}</span>
          </span>
        )}
        {n.anew === 'underWay' && n.isTheirs && <Live number={n.number} />}
      </p>
      <h1 className="font-serif text-2xl break-words">Sealed note: {noteWords(n.labels)}</h1>
      <p className="text-faint">
        {n.isMine ? 'For you' : `For ${n.who}`}, made <Time at={n.madeAt} />
      </p>
      <Refused sentence={outcome && 'refusal' in outcome ? outcome.refusal.sentence : undefined} />
      {secrets ? (
        <>
          <p role="status" className="mt-4">
            The note is open. This is the only time that it is shown: take it along before you leave this page.
          </p>
          <Secrets secrets={secrets} />
        </>
      ) : (
        <Standing n={n} busy={busy} />
      )}
      {!secrets && <Anew n={n} busy={busy} />}
    </div>
  );
}

/** What it waits for, or what became of it. */
function Standing({ n, busy }: { n: Note; busy: boolean }) {
  if (n.state === 'waits' && n.opens)
    return (
      <Form method="post" className="my-4 space-y-3">
        <p>
          It opens once, until <Time at={n.openUntil} />. Then it shows what it says, and never again to anybody.
          {!n.isMine && ` ${n.who} cannot sign in yet: open it when you are together.`}
        </p>
        <Button type="submit" name="act" value="open" weight="main" disabled={busy}>
          Open it, once
        </Button>
      </Form>
    );
  return (
    <p className="my-4 flex items-center gap-2">
      <StateMark kind={n.state === 'opened' ? 'done' : n.state === 'waits' ? 'empty' : 'lapsed'} size={14} />
      <span>
        {n.state === 'waits' && (
          <>
            It waits for {n.who} to open it, until <Time at={n.openUntil} />.
          </>
        )}
        {n.state === 'opened' && (
          <>
            Opened by {n.by}, <Time at={n.openedAt!} />. What it said is nowhere any more.
          </>
        )}
        {n.state === 'over' && (
          <>
            It was not opened until <Time at={n.openUntil} />, and does not open any more.
          </>
        )}
        {n.state === 'replaced' && 'Another note was made in its place.'}
      </span>
    </p>
  );
}

/** Whoever lost it has another made. */
function Anew({ n, busy }: { n: Note; busy: boolean }) {
  if (n.anew === undefined) return null;
  if (n.anew === 'underWay')
    return (
      <p role="status" className="my-4 flex items-center gap-2">
        <StateMark kind="half" size={14} />
        <span>It is being made anew. {n.isMine ? 'You are' : `${n.who} is`} told by mail when the new note is there.</span>
      </p>
    );
  return (
    <Form method="post" className="my-4 space-y-2 border-t pt-4">
      <p>Lost, or seen by somebody else? The system makes another, and the one before stops working.</p>
      <Button type="submit" name="act" value="anew" disabled={busy}>
        Have it made anew
      </Button>
    </Form>
  );
}
