import { redirect } from 'react-router';
import { agreeToMoving, endCondition, keepCondition, letInAgain } from '../../../server/groups/commands.ts';
import type { Viewer } from '../../../server/auth/viewer.ts';
import type { Result } from '../../../server/refusal.ts';
import { groupFor } from '../../../server/groups/queries.ts';
import { ConditionForm } from '~/groups/condition-form';
import { EndIt } from '~/groups/end-it';
import { InItNow } from '~/groups/in-it-now';
import { NotIn } from '~/groups/not-in';
import { Page } from '~/ui/frame';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { asked, orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/group';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.group.name ?? 'Group'} · Desk · Nessmoor` }];

/** `?members=`: the condition that is tried, as JSON; without it, the one that is kept. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const tried = triedIn(asked(request, 'members'));
  return { group: orNotFound(await groupFor(viewer, params.id, tried), 'This group'), trying: tried !== undefined };
}

function triedIn(text: string): unknown {
  try {
    return text === '' ? undefined : JSON.parse(text);
  } catch {
    return undefined;
  }
}

type Act = (viewer: Viewer, of: { group: string; version: string; form: Awaited<ReturnType<typeof posted>> }) => Promise<Result>;
const acts = new Map<string, Act>([
  [
    'keep',
    (viewer, { group, version, form }) =>
      keepCondition(viewer, { group, version, members: form.get('members'), why: form.get('why'), in: form.get('in'), out: form.get('out') }),
  ],
  ['agree', (viewer, { group, form }) => agreeToMoving(viewer, { group, in: form.get('in'), out: form.get('out') })],
  ['letIn', (viewer, { group, form }) => letInAgain(viewer, { group, person: form.get('person') })],
  ['endStay', (viewer, { group, version }) => endCondition(viewer, { group, version, out: false })],
  ['endOut', (viewer, { group, version }) => endCondition(viewer, { group, version, out: true })],
]);

export async function action({ context, request, params: { id: group } }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const [act, version] = [form.get('act'), form.get('version')];
  const done = await acts.get(act)?.(viewer, { group, version, form });
  if (!done) throw new Response('Say what is to be done.', { status: 400 });
  if (!done.ok) return refused(done, { act, why: form.get('why') });
  return act === 'keep' ? redirect(`/desk/groups/${group}`) : null;
}

export default function Group({ loaderData: { group, trying }, ...props }: Route.ComponentProps) {
  const outcome = useOutcome(props.actionData);
  const keeping = outcome?.act === 'keep' ? outcome : undefined;
  const kept = group.kept && !group.kept.ended ? group.kept : undefined;
  return (
    <Page>
      <div className="max-w-3xl">
        <h1 className="font-serif text-2xl break-words">{group.name}</h1>
        <p className="mb-4 text-faint">
          {group.purpose && `${group.purpose.replace(/[.]$/, '')}. `}
          {group.owners.length > 0 ? `Owned by ${group.owners.join(', ')}.` : 'Nobody who works here owns it.'}
        </p>
        {!keeping && <Refused sentence={outcome?.refusal.sentence} />}
        <InItNow group={group} kept={kept} />
        <NotIn group={group} />
        {(group.mayKeep || kept) && <ConditionForm key={group.kept?.version ?? 0} group={group} trying={trying} refused={keeping} />}
        {group.mayKeep && kept && <EndIt version={kept.version} byIt={group.byIt} />}
      </div>
    </Page>
  );
}
