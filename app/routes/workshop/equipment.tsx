import { useState } from 'react';
import { Form, Link, useNavigation } from 'react-router';
import { EquipmentKind, StockPlace } from '../../../core/posts/index.ts';
import { has } from '../../../server/auth/viewer.ts';
import { addEquipmentKind, keepStockAt, setStockLevel } from '../../../server/equipment/arrange.ts';
import { stockArrangement } from '../../../server/equipment/queries.ts';
import { teamChoices } from '../../../server/people/find.ts';
import type { Refusal } from '../../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Checkbox } from '~/ui/checkbox';
import { Labelled } from '~/ui/field';
import { Empty, Frame } from '~/ui/frame';
import { useOutcome } from '~/ui/outcome';
import { Picker, type Chosen } from '~/ui/picker';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { StateMark } from '~/ui/state-mark';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { foundFrom } from '../counter/answers.server';
import { orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/equipment';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Equipment · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const arranged = orNotFound(await stockArrangement(viewer), 'This page');
  return { ...arranged, teams: await teamChoices(), designs: has(viewer, 'designer') };
}

interface Outcome {
  of: string;
  refusal?: Refusal;
  typed?: Record<string, string>;
  picked?: Chosen | undefined;
  said?: string;
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const of = form.get('act');
  if (of === 'kind') {
    const typed = { name: form.get('name'), marked: form.get('marked') };
    const made = await addEquipmentKind(viewer, { name: typed.name, marked: typed.marked });
    return made.ok
      ? ({ of, said: `“${typed.name}” can be handed out from now on.` } satisfies Outcome)
      : refused(made, { of, typed } satisfies Outcome);
  }
  if (of === 'place') {
    const place = await foundFrom(viewer, form, 'place', 'location');
    const team = form.get('team');
    const told = form.get('told');
    const kept = await keepStockAt(viewer, { place: place?.id ?? '', team, told });
    return kept.ok
      ? ({ of, said: 'Equipment stands there from now on.' } satisfies Outcome)
      : refused(kept, { of, typed: { team, told }, picked: place } satisfies Outcome);
  }
  const [kind, at] = [form.get('kind'), form.get('at')];
  const typed = { least: form.get('least'), upTo: form.get('upTo') };
  const set = await setStockLevel(viewer, { kind, place: at, least: typed.least, upTo: typed.upTo });
  const line = `${kind} ${at}`;
  return set.ok ? ({ of: line, said: 'It is kept so from now on.' } satisfies Outcome) : refused(set, { of: line, typed } satisfies Outcome);
}

export default function Equipment({ loaderData: { kinds, places, levels, teams, designs }, ...props }: Route.ComponentProps) {
  const outcome = useOutcome<Outcome>(props.actionData);
  const of = (id: string) => (outcome?.of === id ? outcome : undefined);
  const levelOf = (kind: string, place: string) => levels.find((l) => l.kind === kind && l.place === place);
  return (
    <Frame marginLabel="Workshop" margin={<WorkshopMargin at="equipment" designs={designs} />}>
      <div className="max-w-4xl">
        <h1 className="mb-1 font-serif text-2xl">Equipment</h1>
        <p className="mb-4 text-faint">
          What plans can hand out with the action “Hand out equipment”: its kinds, the places where it stands, the teams that keep it there, and when
          more is to be ordered.{' '}
          <Link to="/desk/equipment/pieces" className="text-sea underline underline-offset-4">
            All pieces
          </Link>
        </p>
        {outcome?.said && (
          <p role="status" className="mb-4 flex items-center gap-2 text-moss">
            <StateMark kind="done" size={12} /> {outcome.said}
          </p>
        )}
        <div className="grid gap-x-10 gap-y-8 lg:grid-cols-2">
          <section aria-label="Kinds">
            <h2 className="mb-1 font-medium">Kinds</h2>
            {kinds.length === 0 ? (
              <Empty>No kind of equipment yet. Name the first one below.</Empty>
            ) : (
              <ul className="mb-4 border-t">
                {kinds.map((k) => (
                  <li key={k.id} className="flex items-baseline gap-3 border-b py-1.5">
                    <span className="min-w-0 break-words">
                      {k.name} <span className="text-sm text-faint">{k.marked ? 'with serial numbers' : 'only counted'}</span>
                    </span>
                    <span className="numbers ml-auto text-sm text-faint">
                      {k.pieces} {k.pieces === 1 ? 'piece' : 'pieces'}
                    </span>
                  </li>
                ))}
              </ul>
            )}
            <NewKind key={kinds.length} outcome={of('kind')} />
          </section>
          <section aria-label="Places">
            <h2 className="mb-1 font-medium">Places</h2>
            {places.length === 0 ? (
              <Empty>Equipment stands nowhere yet. Say where, and who keeps it.</Empty>
            ) : (
              <ul className="mb-4 border-t">
                {places.map((p) => (
                  <li key={p.id} className="border-b py-1.5">
                    {p.name}{' '}
                    <span className="text-sm text-faint">
                      kept by {p.team}
                      {p.told && ', who are told by mail of each piece to be picked'}
                    </span>
                  </li>
                ))}
              </ul>
            )}
            <NewPlace key={places.map((p) => `${p.teamId} ${p.told}`).join()} teams={teams} outcome={of('place')} />
          </section>
        </div>
        {kinds.length > 0 && places.length > 0 && (
          <section aria-label="When more is ordered" className="mt-8">
            <h2 className="mb-1 font-medium">When more is ordered</h2>
            <p className="mb-2 text-sm text-faint">
              Where fewer than the least are free, an order up to so many is due with the team that keeps the place. Left empty, none ever is.
            </p>
            <ul className="border-t">
              {kinds.flatMap((k) =>
                places.map((p) => {
                  const id = `${k.id} ${p.id}`;
                  const level = levelOf(k.id, p.id);
                  return <Level key={`${id} ${level?.least} ${level?.upTo}`} kind={k} place={p} level={level} outcome={of(id)} />;
                }),
              )}
            </ul>
          </section>
        )}
      </div>
    </Frame>
  );
}

function NewKind({ outcome }: { outcome: Outcome | undefined }) {
  const post = usePost(EquipmentKind, { refusal: outcome?.refusal });
  const busy = useNavigation().state !== 'idle';
  return (
    <Form method="post" {...post.form} className="space-y-3">
      <Refused sentence={post.sentence} />
      <input type="hidden" name="act" value="kind" />
      <Labelled label="Another kind" help="Plans state it by this name, so it stays." problem={post.problem('name')}>
        {(ids) => <input {...ids} name="name" className="input" maxLength={80} autoComplete="off" defaultValue={outcome?.typed?.['name']} />}
      </Labelled>
      <Labelled label="What tells its pieces apart" problem={post.problem('marked')}>
        {(ids) => (
          <Select {...ids} name="marked" defaultValue={outcome?.typed?.['marked'] || 'each'}>
            <option value="each">A serial number or tag on each</option>
            <option value="none">Nothing: they are only counted</option>
          </Select>
        )}
      </Labelled>
      <Button type="submit" disabled={busy}>
        Add this kind
      </Button>
    </Form>
  );
}

function NewPlace({ teams, outcome }: { teams: { id: string; name: string }[]; outcome: Outcome | undefined }) {
  const post = usePost(StockPlace, { refusal: outcome?.refusal });
  const busy = useNavigation().state !== 'idle';
  const [place, setPlace] = useState<Chosen | undefined>(outcome?.picked);
  const [told, setTold] = useState(outcome?.typed ? outcome.typed['told'] === 'on' : true);
  return (
    <Form method="post" {...post.form} className="space-y-3">
      <Refused sentence={post.sentence} />
      <input type="hidden" name="act" value="place" />
      <Labelled label="A place where equipment stands" help="One that is there already is kept so from then on." problem={post.problem('place')}>
        {(ids) => <Picker {...ids} kind="location" name="place" chosen={place} onChoose={setPlace} />}
      </Labelled>
      <Labelled label="The team that keeps it" problem={post.problem('team')}>
        {(ids) => (
          <Select {...ids} name="team" defaultValue={outcome?.typed?.['team'] ?? ''}>
            <option value="">Choose …</option>
            {teams.map((t) => (
              <option key={t.id} value={t.id}>
                {t.name}
              </option>
            ))}
          </Select>
        )}
      </Labelled>
      <label className="flex items-center gap-2">
        <Checkbox name="told" checked={told} onChecked={setTold} /> The team is told by mail of each piece to be picked
      </label>
      <Button type="submit" disabled={busy}>
        Keep equipment there
      </Button>
    </Form>
  );
}

interface LevelOf {
  kind: { id: string; name: string };
  place: { id: string; name: string };
  level: { least: number; upTo: number } | undefined;
  outcome: Outcome | undefined;
}

/** Of how many free ones on more of a kind are ordered for a place. */
function Level({ kind, place, level, outcome }: LevelOf) {
  const busy = useNavigation().state !== 'idle';
  const called = `${kind.name}, ${place.name}`;
  const problem = (field: string) => outcome?.refusal?.problems?.find((p) => p.field === field)?.sentence;
  const box = (name: 'least' | 'upTo', label: string) => (
    <>
      <input
        name={name}
        aria-label={`${label} of ${called}`}
        aria-invalid={problem(name) ? true : undefined}
        inputMode="numeric"
        maxLength={4}
        className="numbers input w-16"
        defaultValue={outcome?.typed?.[name] ?? level?.[name] ?? ''}
      />
    </>
  );
  const wrong = problem('least') ?? problem('upTo') ?? outcome?.refusal?.sentence;
  return (
    <li className="border-b py-1.5">
      <Form method="post" className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <input type="hidden" name="act" value="level" />
        <input type="hidden" name="kind" value={kind.id} />
        <input type="hidden" name="at" value={place.id} />
        <span className="min-w-0 grow basis-60 break-words">
          {kind.name} <span className="text-faint">at {place.name}</span>
        </span>
        <span className="text-sm text-faint">fewer than</span>
        {box('least', 'Fewest free')}
        <span className="text-sm text-faint">free, up to</span>
        {box('upTo', 'Ordered up to')}
        <Button type="submit" disabled={busy}>
          Set<span className="sr-only"> ({called})</span>
        </Button>
      </Form>
      {wrong && (
        <p role="alert" className="mt-1 text-sm text-coral">
          {wrong}
        </p>
      )}
    </li>
  );
}
