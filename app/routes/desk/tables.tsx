import { Link } from 'react-router';
import { myTables } from '../../../server/tables/queries.ts';
import { Empty, Page } from '~/ui/frame';
import { signedIn } from '../session.server';
import type { Route } from './+types/tables';

export { TroubleInside as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = () => [{ title: 'Tables I keep · Desk · Nessmoor' }];

export const loader = async ({ context, request }: Route.LoaderArgs) => ({ tables: await myTables(signedIn(context, request)) });

/** The reference tables whose rows somebody keeps as one of the group that owns them. */
export default function Tables({ loaderData: { tables } }: Route.ComponentProps) {
  return (
    <Page>
      <h1 className="font-serif text-2xl">Tables I keep</h1>
      <p className="mb-4 text-faint">What stands in them counts from the next use on; nothing is published anew.</p>
      {tables.length === 0 ? (
        <Empty>No table is kept by a group you are in. A designer names the group under the table’s columns.</Empty>
      ) : (
        <ul className="max-w-3xl">
          {tables.map((t) => (
            <li key={t.id} className="border-b py-2">
              <Link to={`/desk/tables/${t.id}`} className="font-medium hover:text-sea">
                {t.name}
              </Link>
              <span className="numbers ml-2 text-sm text-faint">{t.rows}</span>
              {t.purpose && <span className="block text-sm text-faint">{t.purpose}</span>}
            </li>
          ))}
        </ul>
      )}
    </Page>
  );
}
