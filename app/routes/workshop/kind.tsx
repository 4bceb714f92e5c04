import { clsx } from 'clsx';
import { useMemo, useState } from 'react';
import { Form, Link, useNavigation, useSearchParams } from 'react-router';
import { mapSays, moveOf, statusOf, type StatusMap } from '../../../core/statuses/index.ts';
import type { TicketPromise } from '../../../core/targets/index.ts';
import { checkGates, checkKind, TicketKind } from '../../../core/tickets/index.ts';
import { idFrom } from '../../../core/values/index.ts';
import { changeKind } from '../../../server/kinds/commands.ts';
import { kindFor } from '../../../server/kinds/queries.ts';
import { placesByName } from '../../../server/people/find.ts';
import { useCatalogue } from '~/kinds/use-catalogue';
import { Described } from '~/kinds/described';
import { MapDrawing } from '~/kinds/map-drawing';
import { MoveGrid, type Chosen } from '~/kinds/move-grid';
import { Priorities } from '~/kinds/priorities';
import { Promises } from '~/kinds/promises';
import { SmallFields } from '~/sheet/small-fields';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Frame } from '~/ui/frame';
import { ListEditor } from '~/ui/list-editor';
import { useOutcome } from '~/ui/outcome';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { Switch } from '~/ui/switch';
import { historyFor } from './history.server';
import { documentIn, orNotFound, posted, refused, signedIn } from '../session.server';
import { AsItWas, Versions } from '~/ui/versions';
import type { Route } from './+types/kind';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.kind.definition.name ?? 'Ticket kind'} · Workshop · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const kind = orNotFound(await kindFor(viewer, params.id), 'This kind');
  return { kind, places: await placesByName(), ...(await historyFor(viewer, request, 'kind', params.id)) };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request, 1_000_000);
  const goes = Object.fromEntries(form.all('goes').map((pair) => pair.split('>') as [string, string]));
  const kept = await changeKind(viewer, { id: params.id, version: Number(form.get('version')), definition: documentIn(form, 'definition'), goes });
  return kept.ok ? { said: 'Saved. It counts for open tickets too.' } : refused(kept, {});
}

export default function KindPage({ loaderData, ...props }: Route.ComponentProps) {
  const outcome = useOutcome(props.actionData);
  return <Editor key={`${loaderData.kind.id} ${loaderData.kind.version} ${loaderData.as?.version}`} {...loaderData} outcome={outcome} />;
}

type Loaded = Route.ComponentProps['loaderData'];
const parts = { statuses: 'Statuses', form: 'Form', priority: 'Priority', promises: 'Promises' } as const;
type Part = keyof typeof parts;

function Editor({ kind: loaded, places, as, wanted, versions, outcome }: Loaded & { outcome: Route.ComponentProps['actionData'] }) {
  const failed = outcome && 'refusal' in outcome ? outcome.refusal : undefined;
  const [search] = useSearchParams();
  const part: Part = Object.hasOwn(parts, search.get('part') ?? '') ? (search.get('part') as Part) : 'statuses';
  const [kind, setKind] = useState<TicketKind>(as?.definition ?? loaded.definition);
  const [past, setPast] = useState<TicketKind[]>([]);
  const [chosen, setChosen] = useState<Chosen>();
  const [goes, setGoes] = useState<Record<string, string>>({});
  const post = usePost(TicketKind, { refusal: failed, document: kind });
  const busy = useNavigation().formMethod === 'POST';
  const changed = JSON.stringify(kind) !== JSON.stringify(loaded.definition);
  const set = (next: Partial<TicketKind>) => {
    setPast((p) => [...p.slice(-99), kind]);
    setKind({ ...kind, ...next });
  };
  const { catalogue, learn } = useCatalogue(loaded.catalogue);
  const findings = useMemo(() => [...checkKind(kind), ...checkGates(kind, catalogue)], [kind, catalogue]);
  const stops = findings.some((f) => f.stops);
  // Statuses that are gone and in which tickets are open: each needs somewhere to go.
  const lost = Object.entries(loaded.openIn).filter(([id]) => !statusOf(kind.map, id));
  const move = chosen && 'from' in chosen ? chosen : undefined;
  return (
    <Frame
      {...(part === 'statuses' && {
        slip: (
          <aside aria-label="The drawn map" className="border-t bg-paper px-5 py-5 lg:border-t-0 lg:border-l">
            <h2 className="mb-4 text-sm text-faint">Drawn from the grid</h2>
            <MapDrawing map={kind.map} chosen={move} />
          </aside>
        ),
      })}
    >
      <p className="text-sm text-faint">
        <Link to="/workshop/kinds" className="text-sea underline underline-offset-4">
          Ticket kinds
        </Link>
      </p>
      <div className="flex flex-wrap items-baseline gap-x-5">
        <h1 className="font-serif text-2xl">{loaded.definition.name}</h1>
        <nav aria-label="Leaves of this kind" className="flex flex-wrap items-baseline gap-x-4 text-sm">
          <span className="text-faint">
            <span className="numbers">{loaded.open}</span> open
          </span>
          {(Object.keys(parts) as Part[]).map((p) => (
            <Link
              key={p}
              to={`?part=${p}`}
              aria-current={p === part ? 'page' : undefined}
              preventScrollReset
              className={clsx('py-1 hover:text-sea', p === part ? 'border-b-2 border-sea' : 'text-faint')}
            >
              {parts[p]}
            </Link>
          ))}
        </nav>
      </div>
      <Refused sentence={post.sentence} />
      <AsItWas as={as} wanted={wanted} />
      <div className="mt-4">
        {part === 'statuses' && (
          <>
            <MoveGrid map={kind.map} chosen={chosen} onChange={(map) => set({ map })} onChoose={setChosen} />
            <div className="mt-3 flex gap-2">
              <Button
                onClick={() => {
                  const map = withAnother(kind.map);
                  set({ map });
                  setChosen({ status: map.statuses.at(-1)!.id });
                }}
              >
                Add a status
              </Button>
              <Button
                weight="quiet"
                disabled={past.length === 0}
                onClick={() => {
                  const last = past.at(-1);
                  if (!last) return;
                  setPast(past.slice(0, -1));
                  setKind(last);
                }}
              >
                Take back
              </Button>
            </div>
            {chosen && (
              <div className="mt-5 border-t pt-4">
                <Described
                  kind={kind}
                  chosen={chosen}
                  catalogue={catalogue}
                  learn={learn}
                  onChange={(map, asks = []) =>
                    set({ map, ...(asks.length > 0 && { form: { ...kind.form, fields: [...kind.form.fields, ...asks] } }) })
                  }
                  onChoose={setChosen}
                />
              </div>
            )}
            <section aria-label="What the map says" className="mt-5 border-t pt-4">
              <h2 className="mb-2 font-medium">What the map says</h2>
              <ul className="space-y-1">
                {findings.map((f, i) => (
                  <li key={i} className="flex gap-2">
                    <span aria-hidden className={f.stops ? 'text-coral' : f.code === 'at-once' ? 'text-faint' : 'text-ochre'}>
                      {f.stops ? '×' : f.code === 'at-once' ? '✓' : '◐'}
                    </span>
                    <button
                      type="button"
                      className="text-left underline decoration-rule underline-offset-4 hover:text-sea"
                      onClick={() => setChosen(f.at)}
                    >
                      {f.sentence}
                    </button>
                  </li>
                ))}
                {!stops && (
                  <li className="flex gap-2">
                    <span aria-hidden className="text-moss">
                      ✓
                    </span>
                    Every status can be reached and leads to an end.
                  </li>
                )}
                {mapSays(kind.map).map((s) => (
                  <li key={s} className="text-faint">
                    {s}
                  </li>
                ))}
              </ul>
            </section>
          </>
        )}
        {part === 'form' && (
          <div className="max-w-2xl space-y-6">
            <Labelled label="Name" required problem={post.problem('name')}>
              {(ids) => <input {...ids} className="input" maxLength={60} value={kind.name} onChange={(e) => set({ name: e.target.value })} />}
            </Labelled>
            <Labelled label="What it is for, to whoever reports">
              {(ids) => <input {...ids} className="input" maxLength={300} value={kind.summary} onChange={(e) => set({ summary: e.target.value })} />}
            </Labelled>
            <label className="flex items-center gap-3">
              <Switch on={kind.offered} onTurned={(offered) => set({ offered })} /> People report it at the Counter
            </label>
            <fieldset>
              <legend className="mb-1 font-medium">Categories</legend>
              <ListEditor
                rows={kind.categories}
                keyOf={(_, at) => at}
                nameOf={(c) => `the category “${c}”`}
                addLabel="Add a category"
                make={() => ''}
                onChange={(categories) => set({ categories })}
              >
                {({ row, at, set: put }) => (
                  <input aria-label={`Category ${at + 1}`} className="input" maxLength={60} value={row} onChange={(e) => put(e.target.value)} />
                )}
              </ListEditor>
            </fieldset>
            <SmallFields label="Asked of whoever reports" fields={kind.form.fields} onChange={(fields) => set({ form: { ...kind.form, fields } })} />
            <SmallFields label="Filled in by the desk" fields={kind.desk} onChange={(desk) => set({ desk })} />
            <fieldset>
              <legend className="mb-1 font-medium">Ready words</legend>
              <ListEditor
                rows={kind.replies}
                keyOf={(_, at) => at}
                nameOf={(r) => `the ready words “${r.name}”`}
                addLabel="Add ready words"
                make={() => ({ name: '', words: '' })}
                onChange={(replies) => set({ replies })}
                ruled
              >
                {({ row, at, set: put }) => (
                  <div className="grow space-y-1">
                    <input
                      aria-label={`Ready words ${at + 1}: name`}
                      className="input"
                      maxLength={60}
                      value={row.name}
                      onChange={(e) => put({ ...row, name: e.target.value })}
                    />
                    <textarea
                      aria-label={`Ready words ${at + 1}: words`}
                      className="input"
                      rows={2}
                      maxLength={4000}
                      value={row.words}
                      onChange={(e) => put({ ...row, words: e.target.value })}
                    />
                  </div>
                )}
              </ListEditor>
            </fieldset>
          </div>
        )}
        {part === 'priority' && (
          <>
            <p className="mb-3 text-faint">Whoever reports says how many it concerns and how much it holds up; the cell gives the priority.</p>
            <Priorities
              grid={kind.priority}
              onChange={(priority) => {
                // A promise for a priority that is gone is for the others it names, or no more.
                const there = new Set(priority.priorities.map((l) => l.id));
                const promises = kind.promises.flatMap((p): TicketPromise[] => {
                  const priorities = p.priorities.filter((id) => there.has(id));
                  const { raise, ...late } = p.late;
                  const kept = { ...p, priorities, late: { ...late, ...(raise !== undefined && there.has(raise) && { raise }) } };
                  return p.priorities.length > 0 && priorities.length === 0 ? [] : [kept];
                });
                set({ priority, promises });
              }}
            />
          </>
        )}
        {part === 'promises' && (
          <>
            <p className="mb-3 text-faint">
              Counted in the working time of the team that has it, or round the clock; what is held does not count. The nearest place counts, then the
              first line.
            </p>
            <Promises promises={kind.promises} grid={kind.priority} places={places} onChange={(promises) => set({ promises })} />
          </>
        )}
      </div>
      <Form method="post" {...post.form} className="mt-6 border-t pt-4">
        <input type="hidden" name="version" value={loaded.version} />
        <input type="hidden" name="definition" value={JSON.stringify(kind)} />
        {lost.map(([id, n]) => (
          <div key={id} className="mb-3 flex flex-wrap items-center gap-3">
            <span>
              {n === 1 ? '1 open ticket is' : `${n} open tickets are`} in “{statusOf(loaded.definition.map, id)?.name ?? id}”, which is taken away.
            </span>
            <span className="w-56">
              <Select
                aria-label={`Where those in ${statusOf(loaded.definition.map, id)?.name ?? id} go`}
                value={goes[id] ?? ''}
                onValue={(to) => setGoes({ ...goes, [id]: to })}
              >
                <option value="">They go to …</option>
                {kind.map.statuses.map((s) => (
                  <option key={s.id} value={s.id}>
                    {s.name}
                  </option>
                ))}
              </Select>
            </span>
            {goes[id] && <input type="hidden" name="goes" value={`${id}>${goes[id]}`} />}
          </div>
        ))}
        <div className="flex flex-wrap items-center gap-3">
          <Button type="submit" weight="main" disabled={busy || !changed || stops}>
            Save the kind
          </Button>
          <span role="status" className="text-sm text-faint">
            {stops
              ? 'Not as it is: look at what the map says.'
              : changed
                ? 'Not saved yet.'
                : outcome && 'said' in outcome
                  ? outcome.said
                  : 'Everything is saved.'}
          </span>
        </div>
      </Form>
      <Versions versions={versions} now={loaded.version} />
    </Frame>
  );
}

/** The map with one status more, reached from where a ticket begins. */
function withAnother(map: StatusMap): StatusMap {
  const id = idFrom('status', new Set(map.statuses.map((s) => s.id)));
  const names = new Set(map.statuses.map((s) => s.name.toLowerCase()));
  let n = map.statuses.length + 1;
  while (names.has(`status ${n}`)) n++;
  const next = { ...map, statuses: [...map.statuses, { id, name: `Status ${n}`, words: '', clock: 'runs' as const, tells: [] }] };
  return moveOf(next, map.begin, id) ? next : { ...next, moves: [...map.moves, { from: map.begin, to: id, who: ['team'], needs: [] }] };
}
