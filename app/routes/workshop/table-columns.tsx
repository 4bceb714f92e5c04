import { useState } from 'react';
import { Form, Link, redirect, useNavigation } from 'react-router';
import { checkTable, named, type TableDefinition } from '../../../core/tables/index.ts';
import { changeTable } from '../../../server/tables/commands.ts';
import { itemsForRows, listsOffered } from '../../../server/tables/lists.ts';
import { ownersName, tableOf, tableUses } from '../../../server/tables/queries.ts';
import { Columns } from '~/sheet/small-fields';
import { AskingSetting } from '~/tables/asking-setting';
import { FromSetting } from '~/tables/from-setting';
import { TablePlace } from '~/tables/table-place';
import { Button } from '~/ui/button';
import { Checkbox } from '~/ui/checkbox';
import { Labelled } from '~/ui/field';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { Picker, type Chosen } from '~/ui/picker';
import { StateMark } from '~/ui/state-mark';
import { documentIn, isId, orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/table-columns';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.table.definition.name ?? 'Table'} · Workshop · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const [table, uses] = await Promise.all([tableOf(viewer, params.id), tableUses(viewer, params.id)]);
  const found = orNotFound(table, 'This table');
  const [owners, systems, follows] = await Promise.all([ownersName(found.definition), listsOffered(viewer), itemsForRows(viewer, params.id)]);
  return { table: found, uses: orNotFound(uses, 'This table'), owners, systems: systems ?? [], follows };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  orNotFound(isId(params.id) ? true : undefined, 'This table');
  const result = await changeTable(viewer, { id: params.id, version: Number(form.get('version')), definition: documentIn(form, 'definition') });
  return result.ok ? redirect(`/workshop/tables/${params.id}/columns`) : refused(result, {});
}

export default function TableColumns({ loaderData, actionData }: Route.ComponentProps) {
  return <Editor key={loaderData.table.version} loaded={loaderData} refusal={actionData?.refusal.sentence} />;
}

function Editor({
  loaded: { table, uses, owners, systems, follows },
  refusal,
}: {
  loaded: Route.ComponentProps['loaderData'];
  refusal: string | undefined;
}) {
  const [definition, setDefinition] = useState(table.definition);
  const [keeper, setKeeper] = useState<Chosen>();
  const busy = useNavigation().formMethod === 'POST';
  const changed = JSON.stringify(definition) !== JSON.stringify(table.definition);
  const wrong = checkTable(definition);
  const { columns, key } = definition;
  return (
    <TablePlace table={table} at="columns">
      <div className="min-h-0 grow overflow-y-auto py-4">
        <Refused sentence={refusal} />
        <Form method="post" className="max-w-3xl space-y-5 pb-6">
          <input type="hidden" name="version" value={table.version} />
          <input type="hidden" name="definition" value={JSON.stringify(named(table.definition, definition))} />
          <div className="grid gap-4 sm:grid-cols-2">
            <Labelled label="Name" required>
              {(ids) => (
                <input
                  {...ids}
                  className="input"
                  maxLength={80}
                  value={definition.name}
                  onChange={(e) => setDefinition({ ...definition, name: e.target.value })}
                />
              )}
            </Labelled>
            <Labelled label="What it is for">
              {(ids) => (
                <input
                  {...ids}
                  className="input"
                  maxLength={300}
                  value={definition.purpose}
                  onChange={(e) => setDefinition({ ...definition, purpose: e.target.value })}
                />
              )}
            </Labelled>
          </div>
          <Labelled
            label="Kept by"
            help={
              definition.from
                ? 'The people of this group see its rows under “Tables I keep” at the Desk, and have them read.'
                : 'The people of this group change its rows without being designers, under “Tables I keep” at the Desk.'
            }
          >
            {(ids) => (
              <Picker
                {...ids}
                kind="group"
                chosen={definition.owners && { id: definition.owners.group, name: keeper?.name ?? owners ?? '' }}
                onChoose={(c) => {
                  setKeeper(c);
                  setDefinition({ ...definition, owners: c ? { group: c.id } : undefined });
                }}
              />
            )}
          </Labelled>
          <FromSetting definition={definition} systems={systems} onChange={setDefinition} />
          <Columns label="Columns" fields={columns} onChange={(next) => setDefinition(withColumns(definition, next))} />
          <fieldset>
            <legend className="font-medium">Key</legend>
            <p className="mb-1 text-sm text-faint">
              {table.offered
                ? 'Requests and items name its rows by this key, so it stays what it is.'
                : 'What tells a row from all others. Two rows with the same cannot be kept.'}
            </p>
            {columns.map((c) => (
              <label key={c.id} className="flex items-center gap-2 py-0.5">
                <Checkbox
                  checked={key.includes(c.id)}
                  disabled={table.offered}
                  onChecked={(on) =>
                    setDefinition({ ...definition, key: columns.map((x) => x.id).filter((id) => (id === c.id ? on : key.includes(id))) })
                  }
                />
                {c.label || 'Unnamed column'}
              </label>
            ))}
          </fieldset>
          <fieldset>
            <legend className="font-medium">When its rows are offered</legend>
            <p className="mb-1 text-sm text-faint">
              A row whose days are past, or to come, is not offered and not found. What has picked it goes on showing it.
            </p>
            <div className="grid gap-4 sm:grid-cols-2">
              {(['from', 'until'] as const).map((bound) => (
                <Labelled key={bound} label={bound === 'from' ? 'First day' : 'Last day'}>
                  {(ids) => (
                    <Select
                      {...ids}
                      value={definition.validity?.[bound] ?? ''}
                      onValue={(id) => setDefinition(withBound(definition, bound, id || undefined))}
                    >
                      <option value="">{bound === 'from' ? 'From when it is put in' : 'Until it is taken off'}</option>
                      {columns
                        .filter((c) => c.kind === 'date')
                        .map((c) => (
                          <option key={c.id} value={c.id}>
                            {c.label || 'Unnamed column'}
                          </option>
                        ))}
                    </Select>
                  )}
                </Labelled>
              ))}
            </div>
          </fieldset>
          {definition.from && <AskingSetting definition={definition} items={follows?.items ?? []} orBy={follows?.orBy} onChange={setDefinition} />}
          <ul className="space-y-1">
            {wrong.map((w) => (
              <li key={w} className="flex gap-2">
                <StateMark kind="failed" /> {w}
              </li>
            ))}
          </ul>
          <div className="flex items-center gap-3 border-t pt-4">
            <Button type="submit" weight="main" disabled={busy || !changed || wrong.length > 0}>
              Change the table
            </Button>
            <p role="status" className="text-sm text-faint">
              {busy ? 'Keeping …' : changed ? '' : 'Everything is kept.'}
            </p>
          </div>
        </Form>
        <h2 className="font-medium">Read by</h2>
        {uses.length === 0 && <p className="text-faint">Nothing yet. Add a field “Table row” to a form and choose this table.</p>}
        <ul className="max-w-3xl">
          {uses.map((u) => (
            <li key={u.id} className="border-b py-1.5">
              <Link to={`/workshop/items/${u.id}/plan`} className="text-sea underline underline-offset-4">
                {u.name}
              </Link>
              <span className="block text-sm text-faint">
                {u.columns.length === 0
                  ? 'Offers its rows; reads none of its columns.'
                  : `Reads ${table.definition.columns
                      .filter((c) => u.columns.includes(c.id))
                      .map((c) => c.label)
                      .join(', ')}`}
              </span>
            </li>
          ))}
        </ul>
      </div>
    </TablePlace>
  );
}

/** The table with other columns; what was said of those that went goes with them. */
function withColumns(definition: TableDefinition, columns: TableDefinition['columns']): TableDefinition {
  const there = (id: string) => columns.some((c) => c.id === id);
  const { from, until } = definition.validity ?? {};
  const read = definition.from && { ...definition.from, columns: definition.from.columns.filter((r) => there(r.column)) };
  const next = { ...definition, columns, key: definition.key.filter(there), ...(read && { from: read }) };
  const kept = from !== undefined && !there(from) ? withBound(next, 'from', undefined) : next;
  return until !== undefined && !there(until) ? withBound(kept, 'until', undefined) : kept;
}

/** The table with one bound of its rows' days set, or none. */
function withBound(definition: TableDefinition, bound: 'from' | 'until', id: string | undefined): TableDefinition {
  const { [bound]: _, ...other } = definition.validity ?? {};
  const validity = { ...other, ...(id !== undefined && { [bound]: id }) };
  return { ...definition, validity: Object.keys(validity).length > 0 ? validity : undefined };
}
