import { Form, Link } from 'react-router';
import { dateWords } from '../../../core/calendar/index.ts';
import { GiveBack } from '../../../core/posts/index.ts';
import { notReceived, receive } from '../../../server/equipment/commands.ts';
import { toConfirm } from '../../../server/equipment/queries.ts';
import { giveBack } from '../../../server/holdings/commands.ts';
import { hasPeople, otherGroups, ownsGroups, thingsHeld, type WhoseThings } from '../../../server/holdings/queries.ts';
import { notesWaiting } from '../../../server/notes/queries.ts';
import { ToConfirm } from '~/equipment/to-confirm';
import { NotesWaiting } from '~/notes/waiting';
import { wordsOfThing } from '~/ui/holding-kind';
import { Button, ButtonLink } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Empty } from '~/ui/frame';
import { useOutcome } from '~/ui/outcome';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import type { Refusal } from '../../../server/refusal.ts';
import { asked, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/things';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'My things · Counter · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const wanted = asked(request, 'whose');
  const whose: WhoseThings = wanted === 'people' || wanted === 'owned' ? wanted : 'mine';
  const after = asked(request, 'after') || undefined;
  const [held, people, owns, others, notes, handed] = await Promise.all([
    thingsHeld(viewer, whose, after),
    hasPeople(viewer),
    ownsGroups(viewer),
    whose === 'mine' && after === undefined ? otherGroups(viewer) : [],
    whose === 'mine' && after === undefined ? notesWaiting(viewer) : [],
    whose === 'mine' && after === undefined ? toConfirm(viewer) : [],
  ]);
  return { ...held, whose, after, people, owns, others, notes, handed };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const [act, issue] = [form.get('act'), form.get('issue')];
  if (act === 'receive' || act === 'notReceived') {
    const told = act === 'receive' ? await receive(viewer, { issue }) : await notReceived(viewer, { issue, why: form.get('why') });
    return told.ok ? { of: issue } : refused(told, { of: issue });
  }
  const given = { id: form.get('id'), why: form.get('why') };
  const result = await giveBack(viewer, given);
  return result.ok ? { of: given.id } : refused(result, { of: given.id });
}

const titles: Record<WhoseThings, string> = { mine: 'My things', people: 'What my people hold', owned: 'Who is in my groups' };
const leads: Record<WhoseThings, string> = {
  mine: 'What you were given by a request: since when, and who agreed to it.',
  people: 'What those whose manager you are were given by a request.',
  owned: 'Whom a request has put into a group that you own: since when, and who agreed to it.',
};

type Row = Route.ComponentProps['loaderData']['rows'][number];

/** Gives it back, or takes it from whoever has it; while that goes on it says so. */
function Back({ row, mine, refusal }: { row: Row; mine: boolean; refusal: Refusal | undefined }) {
  const post = usePost(GiveBack, { refusal });
  const whose = mine ? 'mine' : 'theirs';
  const words = wordsOfThing(row.kind);
  if (row.endingAt)
    return (
      <p className="mt-1 flex items-center gap-2 text-sm">
        <StateMark kind="half" size={12} />
        <span>
          {words.back.under[whose]} since <Time at={row.endingAt} />
        </span>
      </p>
    );
  if (mine && row.byOthers) return <p className="mt-1 text-sm text-faint">Ended by your manager or the desk, not by yourself.</p>;
  return (
    <details className="mt-1 text-sm" open={refusal !== undefined || undefined}>
      <summary className="cursor-pointer py-0.5 text-sea">
        {words.back[whose]}
        <span className="sr-only">
          : {row.what}
          {!mine && `, ${row.who}`}
        </span>{' '}
        …
      </summary>
      <Form method="post" {...post.form} className="mt-1 space-y-2">
        <Refused sentence={post.sentence} />
        <input type="hidden" name="id" value={row.id} />
        <input type="hidden" name="whose" value={whose} />
        <Labelled label={mine ? 'Why, if it helps somebody to know' : 'Why'} required={!mine} problem={post.problem('why')}>
          {(ids) => <input {...ids} name="why" className="input" maxLength={500} autoComplete="off" />}
        </Labelled>
        <Button type="submit">{`${words.backOf[whose]} ${row.what}`}</Button>
      </Form>
    </details>
  );
}

export default function Things({ loaderData: { rows, next, whose, after, people, owns, others, notes, handed }, ...props }: Route.ComponentProps) {
  const outcome = useOutcome(props.actionData);
  const refusalOf = (id: string) => (outcome && 'refusal' in outcome && outcome.of === id ? outcome.refusal : undefined);
  const mine = whose === 'mine';
  return (
    <div className="max-w-4xl">
      <h1 className="font-serif text-2xl">{titles[whose]}</h1>
      <p className="text-faint">{leads[whose]}</p>
      <p className="mb-4 flex flex-wrap gap-x-4">
        {(['mine', ...(people ? (['people'] as const) : []), ...(owns ? (['owned'] as const) : [])] as const)
          .filter((other) => other !== whose)
          .map((other) => (
            <Link
              key={other}
              to={other === 'mine' ? '/counter/things' : `/counter/things?whose=${other}`}
              className="text-sea underline underline-offset-4"
            >
              {titles[other]}
            </Link>
          ))}
      </p>
      <NotesWaiting notes={notes} />
      <ToConfirm handed={handed} outcome={outcome} />
      {rows.length === 0 ? (
        <Empty act={mine && <ButtonLink to="/counter">Ask for something</ButtonLink>}>
          {after
            ? 'There is nothing older.'
            : mine
              ? 'Access, equipment and machines that you ask for stand here once you have them. There is nothing yet.'
              : whose === 'people'
                ? 'None of them was given anything by a request yet.'
                : 'No request has put anybody into a group of yours yet.'}
        </Empty>
      ) : (
        <ul aria-label={titles[whose]} className="border-t">
          {rows.map((r) => (
            <li key={r.id} className="grid gap-x-6 gap-y-2 border-b py-3 sm:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
              <div className="min-w-0">
                {!mine && (
                  <p className="text-sm">
                    {r.who}
                    {r.job && <span className="text-faint">, {r.job}</span>}
                    {r.hasLeft && <span className="text-ochre">, has left</span>}
                  </p>
                )}
                <p className="font-medium break-words">{r.what}</p>
                <p className="text-sm text-faint">
                  {wordsOfThing(r.kind).name}
                  {r.until && (
                    <>
                      , {wordsOfThing(r.kind).until} <span className="numbers">{dateWords(r.until)}</span>
                    </>
                  )}
                </p>
                {!mine && r.outgrown && <p className="text-sm text-ochre">From a job they had before: as they work now they could not ask for it.</p>}
                {r.ask.map((i) => (
                  <p key={i.id} className="mt-1 text-sm">
                    <Link to={`/counter/ask/${i.id}?holding=${r.id}`} className="text-sea underline underline-offset-4">
                      {i.name}
                      <span className="sr-only">
                        : {r.what}
                        {!mine && `, ${r.who}`}
                      </span>
                    </Link>
                  </p>
                ))}
                {(mine || r.item) && <Back row={r} mine={mine} refusal={refusalOf(r.id)} />}
              </div>
              <div className="min-w-0 text-sm">
                <p>
                  Since <Time at={r.since} /> by{' '}
                  {r.isTheirs ? (
                    <Link to={`/counter/requests/${r.number}`} className="text-sea underline underline-offset-4">
                      {r.item}, <span className="whitespace-nowrap">R-{r.number}</span>
                    </Link>
                  ) : (
                    <>
                      {r.item && `${r.item}, `}
                      <span className="numbers">R-{r.number}</span>
                    </>
                  )}
                </p>
                {r.costs.length > 0 && (
                  <p className="text-faint">
                    Costs <span className="numbers">{r.costs.join(' and ')}</span>
                  </p>
                )}
                {r.agreed.map((a) => (
                  <p key={`${a.name} ${a.at.toISOString()}`} className="text-faint">
                    {a.name} agreed{a.comment && `: “${a.comment}”`}
                  </p>
                ))}
              </div>
            </li>
          ))}
        </ul>
      )}
      {next && (
        <p className="mt-4">
          <ButtonLink to={`?${mine ? '' : `whose=${whose}&`}after=${next}`}>Older ones</ButtonLink>
        </p>
      )}
      {others.length > 0 && (
        <section aria-label="Other groups" className="mt-6">
          <h2 className="mb-1 font-medium">Other groups you are in</h2>
          <p className="mb-2 text-sm text-faint">The directory says so; no request here gave them.</p>
          <p className="break-words">{others.join(', ')}</p>
        </section>
      )}
    </div>
  );
}
