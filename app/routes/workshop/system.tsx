import { data, Link, redirect } from 'react-router';
import { has } from '../../../server/auth/viewer.ts';
import { setSystemOwners } from '../../../server/consents/commands.ts';
import { keepWebSystem } from '../../../server/systems/commands.ts';
import { directoryId } from '../../../server/systems/directory/id.ts';
import { keepUserNames, userNamesFor } from '../../../server/systems/directory/user-name-rule.ts';
import { systemFor } from '../../../server/systems/queries.ts';
import { Owners } from '~/systems/owners';
import { SystemEditor } from '~/systems/system-editor';
import { UserNames } from '~/systems/user-names';
import { Frame } from '~/ui/frame';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { StateMark } from '~/ui/state-mark';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { documentIn, orNotFound, isId, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/system';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.system?.name ?? 'Register a system'} · Workshop · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const mayKeep = has(viewer, 'administrator');
  // One that is not registered yet is there for whoever may register it.
  const system = params.id === 'new' && mayKeep ? undefined : orNotFound(await systemFor(viewer, params.id), 'This system');
  const names = params.id === directoryId ? await userNamesFor(viewer) : undefined;
  return { system, mayKeep, names, designs: has(viewer, 'designer') };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  if (form.get('act') === 'owners') {
    const owned = await setSystemOwners(viewer, { system: params.id, people: form.all('owner') });
    return owned.ok ? { said: 'The owners are saved.' } : refused(owned, { of: 'owners' as const });
  }
  if (form.get('act') === 'userNames') {
    if (params.id !== directoryId) throw data('Only the directory makes user names.', { status: 400 });
    const [way, most, domain] = [form.get('form'), form.get('most'), form.get('domain')];
    const rule = { form: way, most: /^\d{1,3}$/.test(most.trim()) ? Number(most) : Number.NaN, domain };
    const kept = await keepUserNames(viewer, { version: Number(form.get('version')), rule });
    return kept.ok ? { said: 'New accounts are named so from now on.' } : refused(kept, { of: 'names' as const, typed: { form: way, most, domain } });
  }
  const isNew = params.id === 'new';
  if (!isNew && !isId(params.id)) throw data('This system is built in: only its owners and how it names people can be changed.', { status: 400 });
  const definition = documentIn(form, 'definition');
  const result = await keepWebSystem(viewer, {
    id: isNew ? undefined : params.id,
    definition,
    secret: form.get('secret'),
    answerKey: form.get('answerKey'),
  });
  if (!result.ok) return refused(result, { of: 'system' as const });
  return isNew ? redirect(`/workshop/systems/${result.id}`) : { said: 'The system is saved. Plans act by it from the next call on.' };
}

export default function System({ loaderData: { system, mayKeep, names, designs }, ...props }: Route.ComponentProps) {
  const outcome = useOutcome(props.actionData);
  const refusal = (of: 'owners' | 'system' | 'names') => (outcome && 'refusal' in outcome && outcome.of === of ? outcome.refusal : undefined);
  return (
    <Frame marginLabel="Workshop" margin={<WorkshopMargin at="systems" designs={designs} />}>
      <Link to="/workshop/systems" className="text-sea underline underline-offset-4">
        Systems
      </Link>
      <h1 className="mt-2 mb-4 font-serif text-2xl">{system?.name ?? 'Register a system'}</h1>
      {outcome && 'said' in outcome && (
        <p role="status" className="mb-4 flex items-center gap-2 text-moss">
          <StateMark kind="done" size={12} /> {outcome.said}
        </p>
      )}
      {system && (
        <>
          <Refused sentence={refusal('owners')?.sentence} />
          <Owners key={system.owners.map((o) => o.id).join()} name={system.name} owners={system.owners} mayKeep={mayKeep} />
        </>
      )}
      {names && (
        <UserNames
          key={names.version}
          names={names}
          typed={outcome && 'typed' in outcome ? outcome.typed : undefined}
          mayKeep={mayKeep}
          refusal={refusal('names')}
        />
      )}
      {mayKeep && (!system || system.definition) ? (
        <div className="mt-4">
          <SystemEditor
            key={system?.id ?? 'new'}
            start={system?.definition}
            hasSecret={system?.hasSecret ?? false}
            hasAnswerKey={system?.hasAnswerKey ?? false}
            refusal={refusal('system')}
          />
        </div>
      ) : (
        system && (
          <>
            <p className="numbers mt-4 text-sm text-faint">{system.definition?.address ?? 'Built in'}</p>
            <h2 className="mt-4 mb-1 font-medium">Actions</h2>
            {system.actions.length === 0 && <p className="text-faint">None yet.</p>}
            <ul className="max-w-3xl">
              {system.actions.map((label) => (
                <li key={label} className="border-b py-1.5">
                  {label}
                </li>
              ))}
            </ul>
            {system.lists.length > 0 && (
              <>
                <h2 className="mt-4 mb-1 font-medium">Lists that tables can be read from</h2>
                <ul className="max-w-3xl">
                  {system.lists.map((label) => (
                    <li key={label} className="border-b py-1.5">
                      {label}
                    </li>
                  ))}
                </ul>
              </>
            )}
          </>
        )
      )}
    </Frame>
  );
}
