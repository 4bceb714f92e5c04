import { Form, Link, useNavigation } from 'react-router';
import { SayComing } from '../../../core/posts/index.ts';
import { sayComing } from '../../../server/meetings/answer.ts';
import { meetingFor } from '../../../server/meetings/read.ts';
import type { Refusal } from '../../../server/refusal.ts';
import { Guests, MeetingTime } from '~/meetings/meetings';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { MessageWords } from '~/ui/rich-words';
import { usePost } from '~/ui/post';
import { orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/meeting';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Meeting · Counter · Nessmoor' }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  return { m: orNotFound(await meetingFor(signedIn(context, request), params.id), 'This meeting') };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const said = { says: form.get('says'), words: form.get('words'), sequence: form.get('sequence') };
  const result = await sayComing(viewer, { ...said, meetingId: params.id });
  return result.ok ? { said: true as const } : refused(result, { words: said.words });
}

type Meeting = Route.ComponentProps['loaderData']['m'];

/** A meeting, for somebody who is invited to it. */
export default function MeetingPage({ loaderData: { m }, ...props }: Route.ComponentProps) {
  const outcome = useOutcome(props.actionData);
  const failed = outcome && 'refusal' in outcome ? outcome : undefined;
  return (
    <div className="max-w-2xl">
      {m.request && (
        <p className="text-sm">
          <Link to={`/counter/requests/${m.request.number}`} className="text-sea underline underline-offset-4">
            {m.request.item}, <span className="numbers">R-{m.request.number}</span>
          </Link>
        </p>
      )}
      <h1 className="font-serif text-2xl break-words">{m.title}</h1>
      <p className="text-lg">
        <MeetingTime meeting={m} />
      </p>
      {m.place && <p className="break-words">{m.place}</p>}
      <Refused sentence={failed?.refusal.problems ? undefined : failed?.refusal.sentence} />
      <div className="my-4 break-words">
        <MessageWords content={m.words.rich} text={m.words.plain} />
      </div>
      <Standing m={m} />
      {m.status === 'planned' && !m.isOver && <Say m={m} typed={failed?.words} refusal={failed?.refusal} key={m.sequence} />}
      <h2 className="mt-6 mb-2 font-medium">Who is invited</h2>
      <Guests guests={m.guests} isOff={m.status === 'off' || m.status === 'failed'} />
    </div>
  );
}

const saidWords = { yes: 'You said that you come.', no: 'You said that you cannot come.', maybe: 'You said that you may come.' };

/** How it stands for them. */
function Standing({ m }: { m: Meeting }) {
  const says = m.mine?.says;
  if (m.status === 'seeking') return <p role="status">Another time is being looked for. You are told by mail when there is one.</p>;
  if (m.status !== 'planned') return <p role="status">This meeting does not take place. Nobody need come.</p>;
  if (m.isOver) return <p role="status">{says ? `${saidWords[says]} It has begun.` : 'It has begun.'}</p>;
  return says ? <p role="status">{saidWords[says]} You can change that until it begins.</p> : null;
}

function Say({ m, typed, refusal }: { m: Meeting; typed: string | undefined; refusal: Refusal | undefined }) {
  const post = usePost(SayComing, { refusal });
  const busy = useNavigation().formMethod === 'POST';
  return (
    <Form method="post" {...post.form} className="my-4 border-y py-4">
      <Refused sentence={post.problem('says') ?? post.problem('sequence')} />
      <input type="hidden" name="sequence" value={m.sequence} />
      <Labelled label="A word with it" help="All who are invited can read it. It can be left empty." problem={post.problem('words')}>
        {(ids) => <textarea {...ids} name="words" rows={2} maxLength={500} className="input" defaultValue={typed ?? m.mine?.words ?? ''} />}
      </Labelled>
      <div className="mt-3 flex flex-wrap gap-3">
        <Button type="submit" name="says" value="yes" weight="main" disabled={busy} className="min-h-10 grow sm:grow-0">
          I will come
        </Button>
        <Button type="submit" name="says" value="maybe" disabled={busy} className="min-h-10 grow sm:grow-0">
          I may come
        </Button>
        <Button type="submit" name="says" value="no" weight="decline" disabled={busy} className="min-h-10 grow sm:grow-0">
          I cannot come
        </Button>
      </div>
    </Form>
  );
}
