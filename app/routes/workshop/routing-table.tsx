import { useEffect, useMemo, useRef, useState } from 'react';
import { Form, Link, useFetcher, useNavigation } from 'react-router';
import { toast } from 'sonner';
import { answerWords, choosings, factNames, routingFindings, RoutingTable, type RoutingFinding } from '../../../core/routing/index.ts';
import { idFrom } from '../../../core/values/index.ts';
import { changeRouting, routeTicketsBy } from '../../../server/routing/commands.ts';
import { routingOf, takenBy, wouldMove } from '../../../server/routing/queries.ts';
import { RoutingGrid, type Wrong } from '~/routing/grid';
import { dmnContext, factWords, readKnown, type Known, formsOf } from '~/routing/known';
import { RoutingTester } from '~/routing/tester';
import { useAnalysis } from '~/routing/use-analysis';
import { Button } from '~/ui/button';
import { Frame } from '~/ui/frame';
import { useOutcome } from '~/ui/outcome';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { Time } from '~/ui/time';
import { historyFor } from './history.server';
import { documentIn, orNotFound, posted, refused, signedIn } from '../session.server';
import { AsItWas, Versions } from '~/ui/versions';
import type { Route } from './+types/routing-table';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.of.definition.name ?? 'Routing'} · Workshop · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const of = orNotFound(await routingOf(viewer, params.id), 'This table');
  // Of a table by which no ticket goes it is of no interest how many it would take.
  return {
    of,
    taken: of.forTickets ? await takenBy(viewer, of.definition) : undefined,
    ...(await historyFor(viewer, request, 'routing', params.id)),
  };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request, 2_000_000);
  const definition = documentIn(form, 'definition');
  if (form.get('act') === 'would') {
    const read = RoutingTable.safeParse(definition);
    return { would: read.success ? await wouldMove(viewer, params.id, read.data) : undefined };
  }
  if (form.get('act') === 'tickets') {
    const done = await routeTicketsBy(viewer, params.id);
    return done.ok ? { said: 'Tickets go by this table from now on.' } : refused(done, {});
  }
  const result = await changeRouting(viewer, { id: params.id, version: Number(form.get('version')), definition });
  return result.ok ? { said: 'Saved. What comes in from now on goes by it.' } : refused(result, {});
}

const choosingWords: Record<RoutingTable['chooses'], string> = {
  nearest: 'the most specific row wins',
  first: 'the first row wins',
  unique: 'no two rows may match',
};

export default function RoutingTablePage({ loaderData, ...props }: Route.ComponentProps) {
  const outcome = useOutcome(props.actionData);
  return <Editor key={`${loaderData.of.id} ${loaderData.of.version} ${loaderData.as?.version}`} {...loaderData} outcome={outcome} />;
}

type Loaded = Route.ComponentProps['loaderData'];

function Editor({ of, taken, as, wanted, versions, outcome }: Loaded & { outcome: Route.ComponentProps['actionData'] }) {
  const failed = outcome && 'refusal' in outcome ? outcome : undefined;
  const busy = useNavigation().formMethod === 'POST';
  const [table, setTable] = useState<RoutingTable>(as?.definition ?? of.definition);
  const [wrong, setWrong] = useState<Wrong>(new Map());
  const [past, setPast] = useState<RoutingTable[]>([]);
  const [future, setFuture] = useState<RoutingTable[]>([]);
  const { names, domain, tree } = useMemo(() => readKnown(of.known, table.columns), [of.known, table.columns]);
  const looked = useAnalysis(table, domain, tree);
  const findings = useMemo(() => looked && routingFindings(looked.table, looked.found, names, looked.domain), [looked, names]);
  const [shown, setShown] = useState<RoutingFinding>();
  const changed = JSON.stringify(table) !== JSON.stringify(of.definition);
  const would = useWould(table, of.forTickets && changed && wrong.size === 0);
  const change = (next: RoutingTable, left: Wrong = wrong) => {
    if (next !== table) {
      setPast((p) => [...p.slice(-99), table]);
      setFuture([]);
    }
    setTable(next);
    setWrong(left);
    setShown(undefined);
  };
  const undo = (back: boolean) => {
    const [from, to] = back ? [past, future] : [future, past];
    const last = from.at(-1);
    if (!last) return;
    (back ? setPast : setFuture)(from.slice(0, -1));
    (back ? setFuture : setPast)([...to, table]);
    setTable(last);
  };
  const file = useRef<HTMLInputElement>(null);
  const bringIn = async (chosen: File | undefined) => {
    if (!chosen) return;
    const { readDmn, largestDmn } = await import('../../../core/formats/index.ts');
    const read = await readDmn(chosen.size > largestDmn * 4 ? ' '.repeat(largestDmn + 1) : await chosen.text(), dmnContext(of.known));
    if (!read.ok) return void toast(read.sentence);
    change({ ...read.table, name: table.name }, new Map());
    toast(
      `${read.table.rows.length === 1 ? '1 row' : `${read.table.rows.length} rows`} brought in. Nothing is saved yet; Take back brings back what was here.`,
    );
  };
  const leftOut = columnsLeft(table, of.known);
  return (
    <Frame>
      <div className="grid gap-8 xl:grid-cols-[minmax(0,1fr)_264px]">
        <div className="min-w-0">
          <p className="text-sm text-faint">
            <Link to="/workshop/routing" className="text-sea underline underline-offset-4">
              Routing
            </Link>
          </p>
          <div className="flex flex-wrap items-baseline gap-x-4">
            <h1 className="font-serif text-2xl">{of.definition.name}</h1>
            <span className="text-sm text-faint">
              {of.forTickets && 'routes tickets · '}changed <Time at={of.changedAt} relative />
            </span>
          </div>
          <div className="my-3 flex flex-wrap items-center gap-2">
            <Button onClick={() => change({ ...table, rows: [...table.rows, { id: freshId(table), cells: {}, answer: table.fallback }] })}>
              Add a row
            </Button>
            {leftOut.length > 0 && (
              <span className="w-48">
                <Select
                  aria-label="Add a column"
                  value=""
                  onValue={(v) => {
                    const [fact, field] = v.split('.') as [(typeof factNames)[number], string | undefined];
                    const id = idFrom(field ?? fact, new Set(table.columns.map((c) => c.id)));
                    change({ ...table, columns: [...table.columns, { id, fact, ...(field !== undefined && { field }) }] });
                  }}
                >
                  <option value="">Add a column …</option>
                  {leftOut.map((c) => (
                    <option key={c.value} value={c.value}>
                      {c.label}
                    </option>
                  ))}
                </Select>
              </span>
            )}
            <span className="w-56">
              <Select
                aria-label="Which row counts"
                value={table.chooses}
                onValue={(v) => change({ ...table, chooses: v as RoutingTable['chooses'] })}
              >
                {choosings.map((c) => (
                  <option key={c} value={c}>
                    {choosingWords[c]}
                  </option>
                ))}
              </Select>
            </span>
            <a
              href={`/workshop/routing/${of.id}/table.dmn`}
              download
              className="text-sea underline underline-offset-4"
              data-tip="The table as it was saved last, as DMN 1.3"
            >
              DMN file
            </a>
            <Button weight="quiet" onClick={() => file.current?.click()}>
              Bring in a DMN file
            </Button>
            <input
              ref={file}
              type="file"
              accept=".dmn,.xml"
              tabIndex={-1}
              aria-hidden
              className="sr-only"
              onChange={(e) => {
                void bringIn(e.target.files?.[0]);
                e.target.value = '';
              }}
            />
            <Button weight="quiet" disabled={past.length === 0} onClick={() => undo(true)}>
              Take back
            </Button>
            {taken && (
              <span className="ml-auto text-sm text-faint">
                {taken.tickets} tickets in 90 days{taken.bound && ', the newest'}
              </span>
            )}
          </div>
          <Refused sentence={failed?.refusal.sentence} />
          <AsItWas as={as} wanted={wanted} />
          <RoutingGrid
            table={table}
            names={names}
            wrong={wrong}
            taken={changed ? undefined : taken?.rows}
            shown={shown}
            onChange={change}
            onUndo={undo}
          />
          <p className="mt-2 text-sm text-faint">
            A cell is any, one or several with commas, nothing; a place is meant with all within it, “only” without. Behind a team: in turn, or least
            loaded.
          </p>
          <Form method="post" className="my-4 flex flex-wrap items-center gap-3 border-t pt-4">
            <input type="hidden" name="version" value={of.version} />
            <input type="hidden" name="definition" value={JSON.stringify(table)} />
            <Button type="submit" weight="main" disabled={busy || !changed || wrong.size > 0}>
              Save the table
            </Button>
            <span className="text-sm text-faint" role="status">
              {wrong.size > 0
                ? `${wrong.size === 1 ? '1 cell cannot' : `${wrong.size} cells cannot`} be read yet.`
                : changed
                  ? 'Not saved yet.'
                  : outcome && 'said' in outcome
                    ? outcome.said
                    : 'Everything is saved.'}
            </span>
          </Form>
          <section aria-label="What the table says">
            <h2 className="font-medium">
              What the table says{' '}
              {looked && looked.found.unknownColumns.length === 0 && (
                <span className="font-normal text-faint">
                  looked through exactly: {table.columns.length === 1 ? '1 column' : `${table.columns.length} columns`},{' '}
                  {looked.found.combinations.toLocaleString('en')} combinations
                </span>
              )}
            </h2>
            <ul className="mt-2 space-y-1.5">
              {would && would.moved > 0 && (
                <li className="flex gap-2">
                  <span aria-hidden className="text-sea">
                    →
                  </span>
                  <span>
                    <b className="font-medium">Open tickets stay where they are.</b> By this table{' '}
                    {would.moved === 1 ? '1 of them' : `${would.moved} of them`} would go elsewhere:{' '}
                    {would.some.map((s) => `T-${s.number} to ${answerWords(s.answer, names)}`).join('; ')}
                    {would.moved > would.some.length && ' …'}
                  </span>
                </li>
              )}
              {findings?.map((f, i) => (
                <li key={i} className="flex gap-2">
                  <span aria-hidden className={f.weight === 'wrong' ? 'text-coral' : f.weight === 'warns' ? 'text-ochre' : 'text-faint'}>
                    {f.weight === 'wrong' ? '×' : f.weight === 'warns' ? '◐' : '○'}
                  </span>
                  {f.rows.length > 0 ? (
                    <button
                      type="button"
                      className="text-left underline decoration-rule underline-offset-4 hover:text-sea"
                      onClick={() => setShown({ ...f })}
                    >
                      {f.sentence}
                    </button>
                  ) : (
                    <span>{f.sentence}</span>
                  )}
                </li>
              ))}
              {findings?.length === 0 && <li className="text-moss">Every combination has its row, and no two rows disagree.</li>}
              {!findings && <li className="text-faint">Looking through it …</li>}
            </ul>
          </section>
          {!of.forTickets && (
            <Form method="post" className="mt-6 flex flex-wrap items-center gap-3 border-t pt-4">
              <Button type="submit" name="act" value="tickets" disabled={busy || changed}>
                Route tickets by this table
              </Button>
              <span className="text-sm text-faint">
                {of.ticketsBy === undefined ? 'No table routes them now.' : `They go by “${of.ticketsBy}” now, which is kept.`}
                {changed && ' Save what you changed first.'}
              </span>
            </Form>
          )}
          <Versions versions={versions} now={of.version} />
        </div>
        <aside className="min-w-0 xl:border-l xl:pl-6">
          <RoutingTester table={table} known={of.known} names={names} tree={tree} />
        </aside>
      </div>
    </Frame>
  );
}

const freshId = (table: RoutingTable): string => idFrom(`row ${table.rows.length + 1}`, new Set(table.rows.map((r) => r.id)));

/** What could be a column and is none yet. */
function columnsLeft(table: RoutingTable, known: Known): { value: string; label: string }[] {
  const has = new Set(table.columns.map((c) => (c.fact === 'answer' ? `answer.${c.field}` : c.fact)));
  const facts = factNames
    .filter((f) => f !== 'answer' && (f !== 'item' || known.items.length > 0))
    .map((f) => ({ value: f as string, label: factWords[f] }));
  const fields = formsOf(known).flatMap((k) => k.fields.map((f) => ({ value: `answer.${f.id}`, label: `${f.label} (${k.name})` })));
  // One field of several forms that has the same key is one column.
  return [...new Map([...facts, ...fields].toReversed().map((c) => [c.value, c])).values()].toReversed().filter((c) => !has.has(c.value));
}

/** What of the open tickets a table that is not saved yet would send elsewhere; asked for once the typing rests. */
function useWould(table: RoutingTable, wanted: boolean) {
  const { submit, data } = useFetcher<typeof action>();
  const definition = JSON.stringify(table);
  useEffect(() => {
    if (!wanted) return;
    const wait = setTimeout(() => void submit({ act: 'would', definition }, { method: 'post' }), 500);
    return () => clearTimeout(wait);
  }, [definition, wanted, submit]);
  return wanted && data && 'would' in data ? data.would : undefined;
}
