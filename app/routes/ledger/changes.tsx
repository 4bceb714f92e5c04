import { Form, Link } from 'react-router';
import { changes, verifyLog } from '../../../server/changes/queries.ts';
import { Button, ButtonLink } from '~/ui/button';
import { Empty, Frame } from '~/ui/frame';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { asked, orNotFound, numberIn, posted, signedIn } from '../session.server';
import type { Route } from './+types/changes';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Log of changes · Ledger · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const object = /^[a-z-]{1,30}$/.exec(asked(request, 'object'))?.[0];
  const page = await changes(signedIn(context, request), { object, before: numberIn(asked(request, 'before')) || undefined });
  return { ...orNotFound(page, 'The log of changes'), object };
}

/** Walking the whole chain takes a while: it is asked for, not done at every look. */
export async function action({ context, request }: Route.ActionArgs) {
  orNotFound(await changes(signedIn(context, request), { before: 1 }), 'The log of changes');
  await posted(request, 1000);
  return { verified: await verifyLog() };
}

export default function Changes({ loaderData: { rows, next, object }, actionData }: Route.ComponentProps) {
  const v = actionData?.verified;
  return (
    <Frame>
      <Link to="/ledger" className="text-sea underline underline-offset-4">
        Ledger
      </Link>
      <div className="mt-2 mb-4 flex flex-wrap items-start gap-4">
        <div>
          <h1 className="font-serif text-2xl">Log of changes</h1>
          <p className="max-w-2xl text-faint">
            Who did what to which object. Entries are only ever added, and each carries a hash over itself and the one before.
          </p>
        </div>
        <Form method="post" className="ml-auto">
          <Button type="submit">Verify the chain</Button>
        </Form>
      </div>
      {v && (
        <p role="status" className={`mb-4 border-l-3 px-3 py-2 ${v.ok ? 'border-moss bg-moss-wash' : 'border-coral bg-coral-wash'}`}>
          <StateMark kind={v.ok ? 'done' : 'failed'} size={12} />{' '}
          {v.ok ? (
            <>
              All {v.entries.toLocaleString('en')} entries are as they were written. The chain ends with{' '}
              <span className="numbers text-sm break-all">{v.head}</span>; noted elsewhere, it also shows whether entries are cut off later.
            </>
          ) : (
            `The chain breaks at link ${v.at}: ${v.sentence}`
          )}
        </p>
      )}
      {object && (
        <p className="mb-3">
          Only what was done to: {object}.{' '}
          <Link to="/ledger/changes" className="text-sea underline underline-offset-4">
            Show everything
          </Link>
        </p>
      )}
      {rows.length === 0 ? (
        <Empty>Nothing stands here.</Empty>
      ) : (
        <div className="overflow-x-auto">
          <table className="w-full text-sm">
            <thead>
              <tr className="border-b text-left text-faint">
                <th className="py-1 pr-4 font-normal">When</th>
                <th className="py-1 pr-4 font-normal">Who</th>
                <th className="py-1 pr-4 font-normal">Did</th>
                <th className="py-1 pr-4 font-normal">To</th>
                <th className="py-1 font-normal">More</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => (
                <tr key={r.id} className="border-b align-top">
                  <td className="numbers py-1 pr-4 whitespace-nowrap">
                    <Time at={r.at} />
                  </td>
                  <td className="py-1 pr-4">{r.who ?? 'Nessmoor itself'}</td>
                  <td className="py-1 pr-4">{r.action}</td>
                  <td className="py-1 pr-4 whitespace-nowrap">
                    <Link to={`?object=${r.object}`} className="hover:text-sea">
                      {r.object}
                    </Link>{' '}
                    <span className="numbers text-xs text-faint">{r.objectId.slice(0, 8)}</span>
                  </td>
                  <td className="py-1 wrap-anywhere text-faint">{detailWords(r.detail)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {next && (
        <p className="mt-4">
          <ButtonLink to={`?${object ? `object=${object}&` : ''}before=${next}`}>Earlier changes</ButtonLink>
        </p>
      )}
    </Frame>
  );
}

/** What an entry adds, name by name. A hash by its beginning, as everywhere; nothing for what is not there. */
const detailWords = (detail: Record<string, unknown>): string =>
  Object.entries(detail)
    .filter(([, x]) => x !== null && x !== '')
    .map(([name, x]) => {
      const said = typeof x === 'string' ? (/^[0-9a-f]{64}$/.test(x) ? x.slice(0, 16) : x) : JSON.stringify(x);
      return `${name.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`)}: ${said}`;
    })
    .join(' · ')
    .slice(0, 300);
