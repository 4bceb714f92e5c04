import { useMemo, type ReactNode } from 'react';
import { Link } from 'react-router';
import { lists, writeAsked } from '../../core/lists/index.ts';
import { ListSheet, MarginLine, Place } from '~/ui/frame';
import { List, type ListOf } from '~/ui/list/list';
import { addressOf } from '~/ui/list/address';
import { KeptViews, type View } from '~/ui/list/views';

/** The lists of the Ledger that are narrowed by a state in the margin. */
const places = {
  ledger: { path: '/ledger', title: 'Requests', all: 'All requests' },
  tickets: { path: '/ledger/tickets', title: 'Tickets', all: 'All tickets' },
  decisions: { path: '/ledger/decisions', title: 'Decisions', all: 'All of them' },
  holdings: { path: '/ledger/holdings', title: 'Holdings', all: 'All of them' },
  differences: { path: '/ledger/differences', title: 'Differences', all: 'All of them' },
} as const;
type Name = keyof typeof places;

/** One of the lists of the Ledger: its states, the others and its kept views in the margin, and the list. */
export function LedgerSheet<Row extends object>({
  name,
  views,
  log = false,
  slip,
  foot,
  ...list
}: Omit<ListOf<Row>, 'name' | 'path' | 'title'> & {
  name: Name;
  views: View[];
  /** Whether whoever reads it may read the log of changes, too. */
  log?: boolean;
  /** What stands beside the list, of the row that is open. */
  slip?: ReactNode;
  /** What stands below it. */
  foot?: ReactNode;
}) {
  const { path, title, all } = places[name];
  const { asked } = list.of;
  const shape = lists[name];
  const only = useMemo(() => asked.wanted['state']?.join() ?? '', [asked]);
  const states = Object.entries({ '': all, ...shape.filters.state.options });
  const others = (Object.keys(places) as Name[]).filter((other) => other !== name && (other !== 'decisions' || log));
  return (
    <Place
      marginLabel={`${title} by state`}
      margin={
        <>
          <div className="flex flex-wrap py-2 md:block md:py-4">
            {states.map(([key, label]) => {
              const { state: _, ...rest } = asked.wanted;
              return (
                <MarginLine
                  key={key}
                  here={key === only}
                  to={`${path}?${writeAsked(shape, { ...asked, wanted: key ? { ...asked.wanted, state: [key] } : rest })}`}
                >
                  {label}
                </MarginLine>
              );
            })}
            {others.map((other, i) => (
              <OtherList key={other} to={places[other].path} first={i === 0}>
                {places[other].title}
              </OtherList>
            ))}
            {log && <OtherList to="/ledger/changes">Log of changes</OtherList>}
          </div>
          <KeptViews list={name} views={views} to={(address) => `${path}?${address}`} />
        </>
      }
    >
      <ListSheet closeTo={addressOf(path, writeAsked(shape, asked))} {...(slip && list.open !== undefined && { of: list.open, slip })}>
        <List name={name} path={path} title={title} {...list} />
        {foot}
      </ListSheet>
    </Place>
  );
}

const OtherList = ({ to, first = false, children }: { to: string; first?: boolean; children: string }) => (
  <Link to={to} className={`block border-l-3 border-transparent px-4 py-1.5 hover:text-sea ${first ? 'md:mt-4' : ''}`}>
    {children}
  </Link>
);
