import { clsx } from 'clsx';
import { Link } from 'react-router';
import type { TableDefinition } from '../../core/tables/index.ts';
import { valueWords, type Value } from '../../core/values/index.ts';

/** The rows of a table, as many as the page has; the first cell of each opens it. */
export function RowList({
  definition,
  rows,
  names,
  chosen,
  hrefOf,
}: {
  definition: TableDefinition;
  rows: { key: string; cells: Record<string, Value> }[];
  names: Record<string, string>;
  chosen: string | undefined;
  hrefOf: (key: string) => string;
}) {
  const { columns } = definition;
  const right = (kind: string) => kind === 'number' || kind === 'money';
  return (
    <table className="w-full border-separate border-spacing-0 text-[13px]/[18px]">
      <thead>
        <tr>
          {columns.map((c) => (
            <th
              key={c.id}
              scope="col"
              className={clsx('sticky top-0 z-10 border-b bg-sheet px-2 py-1.5 font-medium', right(c.kind) ? 'text-right' : 'text-left')}
            >
              {c.label}
              {c.unit && c.kind === 'number' && <span className="font-normal text-faint"> ({c.unit})</span>}
              {definition.key.includes(c.id) && <span className="font-normal text-faint"> (key)</span>}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.key} data-row className={clsx(row.key === chosen ? 'bg-sea-wash' : 'hover:bg-paper')}>
            {columns.map((c, at) => {
              const words = valueWords(row.cells[c.id] ?? null, (_, id) => names[id], c.options);
              return (
                <td key={c.id} className={clsx('max-w-64 truncate border-b px-2 py-1', right(c.kind) && 'numbers text-right')} data-tip={words}>
                  {at === 0 ? (
                    <Link
                      to={hrefOf(row.key)}
                      preventScrollReset
                      aria-current={row.key === chosen ? true : undefined}
                      className="block truncate font-medium hover:text-sea"
                    >
                      {words || row.key}
                    </Link>
                  ) : (
                    words
                  )}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
