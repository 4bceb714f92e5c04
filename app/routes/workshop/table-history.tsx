import { keyWords } from '../../../core/tables/index.ts';
import { useState } from 'react';
import { Form, Link, redirect, useLocation, useNavigation } from 'react-router';
import { tableAt, tableHistory, takeChangeBack } from '../../../server/tables/history.ts';
import { tableOf } from '../../../server/tables/queries.ts';
import { changeWords } from '~/tables/change-words';
import { RowList } from '~/tables/row-list';
import { tableBase } from '~/tables/table-base';
import { TablePlace } from '~/tables/table-place';
import { Button, ButtonLink } from '~/ui/button';
import { DateField } from '~/ui/date-field';
import { Empty } from '~/ui/frame';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';
import { asked, isId, numberIn, orNotFound, posted, refused, signedIn } from '../session.server';
import { dateWords } from '../../../core/calendar/index.ts';
import type { Route } from './+types/table-history';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.table.definition.name ?? 'Table'} · Workshop · Nessmoor` }];

/** What was done to a table, act by act; or the rows as they stood on a day (`?day=`). */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const table = orNotFound(isId(params.id) ? await tableOf(viewer, params.id) : undefined, 'This table');
  const day = asked(request, 'day', 10);
  return {
    table,
    day,
    stood: day ? await tableAt(viewer, params.id, day) : undefined,
    history: orNotFound(await tableHistory(viewer, params.id, numberIn(asked(request, 'before')) || undefined), 'This table'),
    back: numberIn(asked(request, 'back')),
  };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const done = await takeChangeBack(viewer, { table: params.id, change: numberIn(form.get('change')) });
  return done.ok ? redirect(`${tableBase(new URL(request.url).pathname, params.id)}/history?back=${done.rows}`) : refused(done, {});
}

const rowsWords = (n: number) => (n === 1 ? '1 row' : `${n.toLocaleString('en')} rows`);

export default function TableHistory({ loaderData: { table, day, stood, history, back }, actionData }: Route.ComponentProps) {
  const base = tableBase(useLocation().pathname, table.id);
  const busy = useNavigation().formMethod === 'POST';
  const [typed, setTyped] = useState(day);
  const { definition } = table;
  const called = (key: string) => keyWords(definition, key, (_, id) => history.names[id]);
  return (
    <TablePlace table={table} at="history">
      <div className="min-h-0 grow overflow-y-auto py-3">
        <Form className="mb-4 flex flex-wrap items-end gap-2" role="search">
          <label className="w-52">
            <span className="block text-sm text-faint">As it stood at the end of</span>
            <DateField aria-label="As it stood at the end of" name="day" value={typed} onValue={setTyped} />
          </label>
          <Button type="submit">Show it</Button>
          {day && (
            <ButtonLink weight="quiet" to={`${base}/history`}>
              What was changed
            </ButtonLink>
          )}
        </Form>
        <Refused sentence={actionData?.refusal.sentence} />
        {back > 0 && (
          <p role="status" className="mb-4 max-w-3xl border-l-3 border-moss bg-moss-wash px-3 py-2">
            Taken back: {rowsWords(back)} {back === 1 ? 'is' : 'are'} as before.
          </p>
        )}
        {day && !stood && <p className="text-coral">“{day}” is not a day.</p>}
        {stood &&
          (stood.rows.length === 0 ? (
            <Empty>It had no rows on {dateWords(day)}.</Empty>
          ) : (
            <section aria-label={`The rows on ${dateWords(day)}`}>
              <p className="mb-2 text-faint">
                {rowsWords(stood.rows.length)} at the end of {dateWords(day)}
              </p>
              <RowList
                definition={definition}
                rows={stood.rows}
                names={stood.names}
                chosen={undefined}
                hrefOf={(key) => `${base}?row=${encodeURIComponent(key)}`}
              />
            </section>
          ))}
        {!day && history.acts.length === 0 && <Empty>Nothing was put in yet.</Empty>}
        {!day && (
          <ol className="max-w-4xl">
            {history.acts.map((a) => (
              <li key={a.id} className="flex gap-4 border-b py-2">
                <div className="min-w-0 grow">
                  <p className="text-sm text-faint">
                    <Time at={a.at} />
                    {a.by ? ` by ${a.by}` : ', as it was read'}, {rowsWords(a.rows)}
                  </p>
                  <ul>
                    {a.first.map((c) => (
                      <li key={c.id} className="break-words">
                        <Link to={`${base}?row=${encodeURIComponent(c.key)}`} className="hover:text-sea">
                          <span className="font-medium">{called(c.key)}</span>
                        </Link>
                        {': '}
                        {changeWords(c, definition, history.names)}
                      </li>
                    ))}
                    {a.changes > a.first.length && <li className="text-faint">and {(a.changes - a.first.length).toLocaleString('en')} more</li>}
                  </ul>
                </div>
                {!definition.from && (
                  <Form method="post" className="shrink-0" preventScrollReset>
                    <input type="hidden" name="change" value={a.id} />
                    <Button type="submit" weight="quiet" disabled={busy}>
                      Take it back<span className="sr-only"> ({called(a.first[0]?.key ?? '')})</span>
                    </Button>
                  </Form>
                )}
              </li>
            ))}
          </ol>
        )}
        {!day && history.next !== undefined && (
          <p className="py-3">
            <ButtonLink to={`${base}/history?before=${history.next}`}>What was changed before</ButtonLink>
          </p>
        )}
      </div>
    </TablePlace>
  );
}
