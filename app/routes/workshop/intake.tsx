import { Form, useNavigation } from 'react-router';
import type { IntakeWay } from '../../../core/intake/index.ts';
import { changeWay, closeWay, openWay } from '../../../server/intake/commands.ts';
import { waysListed } from '../../../server/intake/ways.ts';
import { allKinds } from '../../../server/kinds/queries.ts';
import { WayForm } from '~/intake/way-form';
import { Button } from '~/ui/button';
import { Empty, Page, Place } from '~/ui/frame';
import { Refused } from '~/ui/problem';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { orNotFound, posted, refused, signedIn, type Posted } from '../session.server';
import type { Route } from './+types/intake';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Intake · Workshop · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const listed = orNotFound(await waysListed(signedIn(context, request)), 'The Workshop');
  const kinds = (await allKinds()).map((k) => ({ id: k.id, name: k.definition.name, categories: k.definition.categories }));
  return { ...listed, kinds };
}

const wayIn = (form: Posted) => ({
  via: form.get('via'),
  name: form.get('name'),
  kind: form.get('kind'),
  category: form.get('category') || null,
  ...(form.get('via') === 'mail' && { unknown: form.get('unknown'), automatic: form.get('automatic') }),
});

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const [act, id] = [form.get('act'), form.get('id')];
  if (act === 'close') {
    const closed = await closeWay(viewer, { id });
    return closed.ok ? { closed: closed.was } : refused(closed, { at: id, way: undefined });
  }
  const way = wayIn(form);
  const result = act === 'change' ? await changeWay(viewer, { id, version: Number(form.get('version')), way }) : await openWay(viewer, way);
  return result.ok
    ? { said: act === 'change' ? 'It is kept so from now on.' : 'It is open: what comes in by it is a ticket from now on.' }
    : refused(result, { at: id || way.via, way });
}

export default function Intake({ loaderData: { ways, domain, mail, chat, kinds }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().formMethod === 'POST';
  const failed = actionData && 'refusal' in actionData ? actionData : undefined;
  const closed = actionData && 'closed' in actionData ? actionData.closed : undefined;
  const nameOf = (way: { via: string; name: string }) => (way.via === 'mail' ? `${way.name}@${domain}` : `#${way.name}`);
  /** What was typed and refused, else a beginning. */
  const fresh = (via: 'mail' | 'chat'): IntakeWay => {
    const typed = failed?.at === via ? failed.way : undefined;
    const opens = { name: typed?.name ?? '', kind: typed?.kind ?? kinds[0]?.id ?? '', category: typed?.category ?? null };
    const mailed = (typed ?? {}) as { unknown?: string; automatic?: string };
    return via === 'chat'
      ? { via, ...opens }
      : { via, ...opens, unknown: mailed.unknown === 'take' ? 'take' : 'refuse', automatic: mailed.automatic === 'take' ? 'take' : 'leave' };
  };
  return (
    <Place marginLabel="Workshop" margin={<WorkshopMargin at="intake" />}>
      <Page>
        <div className="max-w-3xl">
          <h1 className="font-serif text-2xl">Intake</h1>
          <p className="mt-1 mb-5 text-faint">
            How tickets come in besides the Counter. Whoever writes has the number in the same thread; what they answer there stands with the ticket.
          </p>
          {actionData && 'said' in actionData && (
            <p role="status" className="mb-3 flex items-center gap-2 text-moss">
              <StateMark kind="done" size={12} /> {actionData.said}
            </p>
          )}
          {closed && (
            <Form method="post" role="status" className="mb-3 flex flex-wrap items-center gap-3">
              <span>{nameOf(closed)} is closed: what comes there is refused with a sentence.</span>
              {Object.entries(closed).map(([name, value]) => (
                <input key={name} type="hidden" name={name} value={value ?? ''} />
              ))}
              <Button type="submit" name="act" value="open" disabled={busy}>
                Open it again
              </Button>
            </Form>
          )}
          {failed && !failed.way && <Refused sentence={failed.refusal.sentence} />}
          {ways.length === 0 ? (
            <Empty>Nothing comes in but by the Counter. Begin with an address that people write to already.</Empty>
          ) : (
            <ul className="border-t">
              {ways.map((w) => (
                <li key={`${w.id} ${w.version}`} className="border-b py-2">
                  <details open={failed?.at === w.id}>
                    <summary className="cursor-pointer">
                      <span className="numbers font-medium">{nameOf(w.definition)}</span>{' '}
                      <span className="text-sm text-faint">
                        opens {w.kind}
                        {w.definition.category !== null && `, ${w.definition.category}`}
                        {w.definition.via === 'mail' && w.definition.unknown === 'take' && ' · also from outside'}
                        {w.definition.via === 'mail' && w.definition.automatic === 'take' && ' · also from programs'} · changed{' '}
                        <Time at={w.changedAt} relative />
                        {w.changedBy && ` by ${w.changedBy}`}
                      </span>
                    </summary>
                    <WayForm
                      way={failed?.at === w.id && failed.way ? ({ ...w.definition, ...failed.way } as IntakeWay) : w.definition}
                      kept={w}
                      kinds={kinds}
                      domain={domain}
                      refusal={failed?.at === w.id ? failed.refusal : undefined}
                    />
                  </details>
                </li>
              ))}
            </ul>
          )}
          <details className="mt-5" open={failed?.at === 'mail'}>
            <summary className="cursor-pointer text-sea">Take in mail to an address</summary>
            {mail ? (
              <WayForm way={fresh('mail')} kinds={kinds} domain={domain} refusal={failed?.at === 'mail' ? failed.refusal : undefined} />
            ) : (
              <p className="py-2 text-faint">No mail comes in here: the host has not set MAIL_IN_PORT.</p>
            )}
          </details>
          <details className="mt-3" open={failed?.at === 'chat'}>
            <summary className="cursor-pointer text-sea">Take in what is said in a channel</summary>
            {chat ? (
              <WayForm way={fresh('chat')} kinds={kinds} domain={domain} refusal={failed?.at === 'chat' ? failed.refusal : undefined} />
            ) : (
              <p className="py-2 text-faint">No chat is set up here: the host has not set CHAT_URL.</p>
            )}
          </details>
        </div>
      </Page>
    </Place>
  );
}
