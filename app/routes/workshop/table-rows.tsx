import { Form, Link, redirect, useLocation, useSearchParams } from 'react-router';
import { askTableRead, bringRowsBack, saveRow, takeRowsOff } from '../../../server/tables/commands.ts';
import { readingOf, rowOf, rowsOf, tableOf } from '../../../server/tables/queries.ts';
import { Grid } from '~/tables/grid/grid';
import { RowList } from '~/tables/row-list';
import { RowSlip, type SlipRow } from '~/tables/row-slip';
import { TableReading } from '~/tables/table-reading';
import { tableBase } from '~/tables/table-base';
import { TablePlace } from '~/tables/table-place';
import { Button, ButtonLink } from '~/ui/button';
import { useHydrated } from '~/ui/choices';
import { Empty } from '~/ui/frame';
import { answersFrom } from '../counter/answers.server';
import { asked, isId, orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/table-rows';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.table.definition.name ?? 'Table'} · Workshop · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  // First how its reading stands: of one that has ended the rows then are what it read.
  const reading = await readingOf(viewer, params.id);
  const table = orNotFound(isId(params.id) ? await tableOf(viewer, params.id) : undefined, 'This table');
  const words = asked(request, 'q', 100);
  const off = asked(request, 'off') !== '';
  const key = asked(request, 'row', 300);
  const [list, row] = await Promise.all([
    rowsOf(viewer, params.id, { words, off, after: asked(request, 'after', 2000) || undefined }),
    key ? rowOf(viewer, params.id, key) : undefined,
  ]);
  return {
    table,
    words,
    off,
    list: orNotFound(list, 'This table'),
    row: key ? orNotFound(row, 'This row') : undefined,
    isNew: asked(request, 'new') !== '',
    reading,
  };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const { definition } = orNotFound(isId(params.id) ? await tableOf(viewer, params.id) : undefined, 'This table');
  const key = form.get('key').slice(0, 300);
  const to = new URL(request.url).searchParams;
  const onwards = (row: string | undefined) => {
    for (const name of ['row', 'new', 'index']) to.delete(name);
    if (row !== undefined) to.set('row', row);
    return redirect(`${tableBase(new URL(request.url).pathname, params.id)}?${to}`);
  };
  const act = form.get('act');
  if (act === 'read') {
    const wanted = await askTableRead(viewer, { table: params.id });
    return wanted.ok ? null : refused(wanted, { cells: undefined, names: {} });
  }
  if (act === 'off' || act === 'back') {
    const done = await (act === 'off' ? takeRowsOff : bringRowsBack)(viewer, { table: params.id, keys: [key] });
    if (!done.ok) return refused(done, { cells: undefined, names: {} });
    to.delete('off');
    return onwards(key);
  }
  const { answers, names } = await answersFrom(viewer, form, { fields: definition.columns });
  const saved = await saveRow(viewer, { table: params.id, cells: answers, row: key ? { key, version: Number(form.get('version')) } : undefined });
  return saved.ok ? onwards(saved.key) : refused(saved, { cells: answers, names });
}

export default function TableRows({ loaderData, actionData }: Route.ComponentProps) {
  const { table, words, off, list, row, isNew, reading } = loaderData;
  const hydrated = useHydrated();
  const base = tableBase(useLocation().pathname, table.id);
  const [search] = useSearchParams();
  const address = (change: Record<string, string | undefined>) => {
    const to = new URLSearchParams(search);
    for (const [name, value] of Object.entries({ row: undefined, new: undefined, ...change }))
      if (value === undefined) to.delete(name);
      else to.set(name, value);
    return `?${to}`;
  };
  const open: SlipRow | undefined = row
    ? { ...row, retired: row.retiredAt !== null }
    : isNew
      ? { key: '', version: undefined, cells: {}, names: {}, retired: false, changes: [], asked: [] }
      : undefined;
  const typed = actionData?.cells ? { ...open, cells: actionData.cells, names: { ...open?.names, ...actionData.names } } : undefined;
  const shown = open && ({ ...open, ...typed } as SlipRow);
  const problems = Object.fromEntries((actionData?.refusal.problems ?? []).map((p) => [p.field, p.sentence]));
  return (
    <TablePlace
      table={table}
      at="rows"
      closeTo={address({})}
      of={open && `${open.key} ${open.version ?? 'new'}`}
      slip={
        shown && (
          <RowSlip
            key={`${shown.key} ${shown.version ?? 'new'} ${actionData?.cells ? 'again' : ''}`}
            definition={table.definition}
            isRead={reading !== undefined}
            row={shown}
            problems={problems}
            refusal={actionData?.refusal.sentence}
          />
        )
      }
    >
      {reading && <TableReading reading={reading} refusal={shown ? undefined : actionData?.refusal.sentence} />}
      {hydrated && !off && !reading ? (
        <Grid
          key={`${table.id} ${table.version}`}
          table={table}
          base={base}
          rowHref={`${address({})}&row=`}
          empty={table.rows === 0 && <ButtonLink to={`${base}/sheet`}>Paste cells from a spreadsheet</ButtonLink>}
          beside={
            <Link to={address({ off: '1' })} className="text-sea underline underline-offset-4">
              Rows taken off
            </Link>
          }
        />
      ) : (
        <>
          <div className="flex flex-wrap items-center gap-2 py-3">
            <Form className="flex gap-2" role="search">
              {off && <input type="hidden" name="off" value="1" />}
              <input
                name="q"
                aria-label="Find in the rows"
                placeholder="Find in the rows"
                className="input w-64"
                maxLength={100}
                defaultValue={words}
                key={words}
              />
              <Button type="submit">Find</Button>
            </Form>
            <ButtonLink weight="quiet" to={address({ off: off ? undefined : '1', after: undefined })}>
              {off ? 'Rows that are offered' : 'Rows taken off'}
            </ButtonLink>
            {!reading && (
              <ButtonLink weight="main" to={address({ new: '1', off: undefined })} className="ml-auto" preventScrollReset>
                Add a row
              </ButtonLink>
            )}
          </div>
          <div className="min-h-0 grow overflow-auto">
            {list.rows.length === 0 ? (
              <Empty act={!words && !off && !reading && <ButtonLink to={`${base}/sheet`}>Paste cells from a spreadsheet</ButtonLink>}>
                {words
                  ? `No row says “${words}”.`
                  : off
                    ? 'No row was taken off.'
                    : reading
                      ? reading.endedAt
                        ? 'The list has no rows at present.'
                        : 'No row was read yet.'
                      : 'No row yet. Add one, or put in many at once.'}
              </Empty>
            ) : (
              <RowList definition={table.definition} rows={list.rows} names={list.names} chosen={row?.key} hrefOf={(key) => address({ row: key })} />
            )}
            {list.next !== undefined && (
              <p className="py-3">
                <ButtonLink to={address({ after: list.next })}>The next rows</ButtonLink>
              </p>
            )}
          </div>
        </>
      )}
    </TablePlace>
  );
}
