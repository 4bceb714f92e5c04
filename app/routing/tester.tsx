import { useState } from 'react';
import {
  answerWords,
  cellHolds,
  factKey,
  placesAround,
  rowFor,
  triedRow,
  type PlaceTree,
  type RoutingFacts,
  type RoutingNames,
  type RoutingTable,
} from '../../core/routing/index.ts';
import { Labelled } from '~/ui/field';
import { Select } from '~/ui/select';
import { choicesFor, type Known } from './known';

/** The kind that the first row is for. */
const firstKind = (table: RoutingTable): string | undefined => {
  const column = table.columns.find((c) => c.fact === 'kind');
  const cell = column && table.rows[0]?.cells[column.id];
  return cell?.is === 'oneOf' ? cell.values[0] : undefined;
};

/** A case to try: what is known of it, and each row answering cell by cell. */
export function RoutingTester({ table, known, names, tree }: { table: RoutingTable; known: Known; names: RoutingNames; tree: PlaceTree }) {
  const [given, setGiven] = useState((): Record<string, string> =>
    known.items.length > 0 ? {} : { kind: firstKind(table) ?? known.kinds[0]?.id ?? '', priority: 'medium' },
  );
  const facts: RoutingFacts = new Map(
    table.columns.map((c) => {
      const value = given[factKey(c)] ?? '';
      return [
        factKey(c),
        value === '' ? null : c.fact === 'group' ? [value] : c.fact === 'answer' && Number.isFinite(Number(value)) ? Number(value) : value,
      ];
    }),
  );
  const what = known.items.length > 0 && !table.columns.some((c) => c.fact === 'kind') ? 'Try a request' : 'Try a ticket';
  const winner = rowFor(table, facts, tree);
  const place = facts.get('place');
  const around = typeof place === 'string' ? placesAround(tree, place) : [];
  const shown = table.rows.slice(0, 200);
  return (
    <section aria-label={what}>
      <h2 className="font-medium">{what}</h2>
      <p className="mb-3 text-sm text-faint">Give facts; each row answers.</p>
      <div className="space-y-3">
        {table.columns.map((c) => {
          const key = factKey(c);
          const choices = choicesFor(c, known);
          const some =
            c.fact === 'category'
              ? choices.filter((x) => known.kinds.find((k) => k.id === given['kind'])?.categories.includes(x.id) ?? true)
              : choices;
          return (
            <Labelled key={c.id} label={names.column(c)}>
              {(ids) =>
                choices.length > 0 ? (
                  <Select {...ids} value={given[key] ?? ''} onValue={(v) => setGiven((g) => ({ ...g, [key]: v }))}>
                    <option value="">nothing</option>
                    {some.map((x) => (
                      <option key={x.id} value={x.id}>
                        {x.name}
                      </option>
                    ))}
                  </Select>
                ) : (
                  <input {...ids} className="input" value={given[key] ?? ''} onChange={(e) => setGiven((g) => ({ ...g, [key]: e.target.value }))} />
                )
              }
            </Labelled>
          );
        })}
      </div>
      <p role="status" className="mt-4 border-t pt-3">
        <span className="font-serif text-xl">{answerWords(winner === undefined ? table.fallback : table.rows[winner]!.answer, names)}</span>
        <span className="block text-sm text-faint">{winner === undefined ? 'as no row takes it' : `by row ${winner + 1}`}</span>
      </p>
      <table aria-label="What each row answers" className="mt-3 w-full text-sm">
        <thead>
          <tr className="border-b border-ink text-left text-faint">
            <th scope="col" className="py-1 font-normal">
              row
            </th>
            {table.columns.map((c) => (
              <th key={c.id} scope="col" className="py-1 font-normal">
                {names.column(c).toLowerCase()}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map((row, i) => (
            <tr key={row.id} className={i === winner ? 'border-b bg-moss-wash' : 'border-b'}>
              <th scope="row" className="numbers py-1 text-left font-normal">
                {i + 1}
              </th>
              {triedRow(table, i, (cell, c) => cellHolds(cell, facts.get(factKey(c)), tree)).map((so, n) => (
                <td key={n} className={so === false ? 'text-coral' : 'text-moss'}>
                  {so === undefined ? (
                    <span className="sr-only">not looked at</span>
                  ) : (
                    <span aria-label={so ? 'holds' : 'does not hold'}>{so ? '✓' : '×'}</span>
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {around.length > 1 && (
        <p className="mt-3 text-sm text-faint">Place climbs: {[...around.map((p) => names.of('place', p) ?? p), 'everywhere'].join(', ')}.</p>
      )}
    </section>
  );
}
