import { endApart, endException, exceptFrom, keepApart } from '../../../server/apart/commands.ts';
import { apartFor, mayKeepApart, seesApart } from '../../../server/apart/queries.ts';
import { Pair } from '~/apart/pair';
import { KeepThem } from '~/apart/keep-them';
import { Empty, Page } from '~/ui/frame';
import { useOutcome } from '~/ui/outcome';
import type { Refusal } from '../../../server/refusal.ts';
import { foundFrom } from '../counter/answers.server';
import { orNotFound, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/apart';

export { TroubleOnPage as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Kept apart · Desk · Nessmoor' }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const pairs = orNotFound((await seesApart(viewer)) ? await apartFor(viewer) : undefined, 'This page');
  return { pairs, mayKeep: mayKeepApart(viewer) };
}

/** What came of an act: of which pair, or `keep` of a new one; with what was typed and picked where it was refused. */
export interface ApartOutcome {
  of: string;
  refusal?: Refusal;
  typed?: { why: string; until?: string };
  picked?: Record<string, { id: string; name: string } | undefined>;
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const [act, id, why] = [form.get('act'), form.get('id'), form.get('why')];
  const found = (at: string, kind: 'person' | 'group') => foundFrom(viewer, form, at, kind);
  if (act === 'keep') {
    const picked = { one: await found('one', 'group'), other: await found('other', 'group') };
    const kept = await keepApart(viewer, { one: picked.one?.id ?? '', other: picked.other?.id ?? '', why, excepters: form.all('excepter') });
    return kept.ok ? ({ of: kept.id } satisfies ApartOutcome) : refused(kept, { of: 'keep', typed: { why }, picked } satisfies ApartOutcome);
  }
  if (act === 'except') {
    const [person, until] = [await found('person', 'person'), form.get('until')];
    const made = await exceptFrom(viewer, { id, person: person?.id ?? '', until, why });
    return made.ok
      ? ({ of: id } satisfies ApartOutcome)
      : refused(made, { of: id, typed: { why, until }, picked: { person } } satisfies ApartOutcome);
  }
  const done =
    act === 'endException' ? await endException(viewer, { id: form.get('exception') }) : await endApart(viewer, { id, again: act === 'again' });
  return done.ok ? ({ of: id } satisfies ApartOutcome) : refused(done, { of: id } satisfies ApartOutcome);
}

export default function Apart({ loaderData: { pairs, mayKeep }, ...props }: Route.ComponentProps) {
  const outcome = useOutcome<ApartOutcome>(props.actionData);
  const of = (id: string) => (outcome?.of === id ? outcome : undefined);
  return (
    <Page>
      <div className="max-w-3xl">
        <h1 className="mb-1 font-serif text-2xl">Kept apart</h1>
        <p className="mb-4 text-faint">
          Groups that are not to meet in one person. A request that would bring them together is refused with why, and with who can make an exception;
          what is known only on the way is stopped before the directory is asked.
        </p>
        {pairs.length === 0 && <Empty>No groups are kept apart yet.</Empty>}
        <ul aria-label="Groups kept apart" className={pairs.length > 0 ? 'border-t' : 'hidden'}>
          {pairs.map((pair) => (
            <Pair key={pair.id} pair={pair} mayKeep={mayKeep} outcome={of(pair.id)} />
          ))}
        </ul>
        {mayKeep && <KeepThem key={pairs.length} outcome={of('keep')} />}
      </div>
    </Page>
  );
}
