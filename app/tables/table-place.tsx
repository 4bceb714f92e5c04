import { clsx } from 'clsx';
import type { ReactNode } from 'react';
import { Link, useLocation } from 'react-router';
import { ListSheet, Place } from '~/ui/frame';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { tableBase } from './table-base';

const sides = [
  { at: 'rows', path: '', label: 'Rows' },
  { at: 'columns', path: '/columns', label: 'Columns and key' },
  { at: 'sheet', path: '/sheet', label: 'As a sheet of cells' },
  { at: 'history', path: '/history', label: 'What was changed' },
] as const;

/** A reference table: its name, the ways to look at it, and beside them what is open. */
export function TablePlace({
  table,
  at,
  slip,
  closeTo = '',
  of,
  children,
}: {
  table: { id: string; definition: { name: string; purpose: string }; rows: number };
  at: (typeof sides)[number]['at'];
  slip?: ReactNode;
  closeTo?: string;
  of?: string | undefined;
  children: ReactNode;
}) {
  const { pathname } = useLocation();
  const base = tableBase(pathname, table.id);
  const designs = base.startsWith('/workshop');
  const sheet = (
    <ListSheet slip={slip} closeTo={closeTo} {...(of !== undefined && { of })}>
      <header>
        <h1 className="font-serif text-2xl">{table.definition.name}</h1>
        {table.definition.purpose && <p className="max-w-2xl text-faint">{table.definition.purpose}</p>}
        <nav aria-label="This table" className="mt-2 flex gap-5 border-b">
          {sides
            .filter((s) => designs || s.at !== 'columns')
            .map((s) => (
              <Link
                key={s.at}
                to={`${base}${s.path}`}
                aria-current={s.at === at ? 'page' : undefined}
                className={clsx('-mb-px border-b-2 py-1.5 hover:text-sea', s.at === at ? 'border-sea font-medium' : 'border-transparent')}
              >
                {s.label}
                {s.at === 'rows' && <span className="numbers ml-2 text-sm font-normal text-faint">{table.rows}</span>}
              </Link>
            ))}
        </nav>
      </header>
      {children}
    </ListSheet>
  );
  // At the Desk the margin is there already.
  if (!designs) return sheet;
  return (
    <Place marginLabel="Workshop" margin={<WorkshopMargin at="tables" />}>
      {sheet}
    </Place>
  );
}
