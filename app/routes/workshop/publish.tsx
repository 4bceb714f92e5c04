import { useState } from 'react';
import { Minus, MoveVertical, Pencil, Plus } from 'lucide-react';
import { Form, Link, redirect, useNavigation, useRouteLoaderData } from 'react-router';
import { RevisionNote } from '../../../core/posts/index.ts';
import { publish } from '../../../server/items/commands.ts';
import { differencesBetween, releaseOf, wantsSecondDesigner } from '../../../server/items/queries.ts';
import { agreeRelease, planRelease, takeReleaseBack } from '../../../server/items/releases.ts';
import { closePublicLink, makePublicLink, publicLinkOf } from '../../../server/outside/links.ts';
import { goOver, requestsBehind, underWayBy } from '../../../server/items/going-over.ts';
import { toast } from 'sonner';
import type { ItemDefinition } from '../../../core/items/index.ts';
import { useEditor } from '~/sheet/draft-editor';
import { FindingLine } from '~/sheet/finding-line';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { Time } from '~/ui/time';
import { placeOf } from '~/ask/finding-place';
import { PublicLink } from './public-link';
import { PublishWhen, Release } from './release';
import { RequestsBehind } from './requests-behind';
import type { Refusal } from '../../../server/refusal.ts';
import { asked, orNotFound, isId, numberIn, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/publish';
import type { loader as itemLoader } from './item';
import { instantIn } from '../../../core/calendar/index.ts';
import { stops } from '../../../core/checks/index.ts';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

/**
 * What two revisions, or one and the draft, do not have in common, where that is asked for (`?from=1&to=2`); and which requests are
 * under way on earlier ones (`?behind=0`, those after that number).
 */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const [from, to] = [numberIn(asked(request, 'from')), numberIn(asked(request, 'to'))];
  const id = isId(params.id) ? params.id : undefined;
  const after = new URL(request.url).searchParams.get('behind');
  return {
    compared: from && id ? await differencesBetween(viewer, id, from, to || undefined) : undefined,
    underWay: id ? await underWayBy(viewer, id) : {},
    release: id ? await releaseOf(viewer, id) : undefined,
    wantsSecond: wantsSecondDesigner(),
    publicLink: id ? await publicLinkOf(viewer, id) : undefined,
    behind: after !== null && id ? await requestsBehind(viewer, id, numberIn(after) || 0) : undefined,
  };
}

/** The page again, with why not, and what was typed. */
const again = (refusal: Refusal, note = '', typed?: { day: string; time: string }) => refused(refusal, { note, typed });

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const note = form.get('note');
  orNotFound(isId(params.id) ? true : undefined, 'This item');
  if (form.get('act') === 'go-over') {
    const gone = await goOver(viewer, { itemId: params.id, to: Number(form.get('to')) });
    return gone.ok ? redirect(`/workshop/items/${params.id}/publish?behind=0&moved=${gone.moved}`) : again(gone);
  }
  if (form.get('link')) {
    const done = await (form.get('link') === 'close' ? closePublicLink : makePublicLink)(viewer, params.id);
    return done.ok ? redirect(`/workshop/items/${params.id}/publish`) : again(done);
  }
  const release = form.get('release');
  if (release) {
    const done = form.get('act') === 'agree' ? await agreeRelease(viewer, release) : await takeReleaseBack(viewer, release);
    if (!done.ok) return again(done);
    return redirect(`/workshop/items/${params.id}/publish${'number' in done && done.number ? `?published=${String(done.number)}` : ''}`);
  }
  const version = Number(form.get('version'));
  const later = form.get('when') === 'later';
  if (later || wantsSecondDesigner()) {
    const at = later ? instantIn(form.get('day'), form.get('time'), viewer.zone) : undefined;
    const planned = await planRelease(viewer, { id: params.id, version, note, at });
    const typed = { day: form.get('day').slice(0, 10), time: form.get('time').slice(0, 5) };
    return planned.ok ? redirect(`/workshop/items/${params.id}/publish`) : again(planned, note, later ? typed : undefined);
  }
  const result = await publish(viewer, { id: params.id, version, note });
  return result.ok ? redirect(`/workshop/items/${params.id}/publish?published=${result.number}`) : again(result, note);
}

export default function Publish({ actionData, loaderData, params }: Route.ComponentProps) {
  const { compared, underWay, behind, release, wantsSecond, publicLink } = loaderData;
  const editor = useEditor();
  const item = useRouteLoaderData<typeof itemLoader>('routes/workshop/item');
  const revisions = item?.revisions ?? [];
  const stopping = stops(editor.findings);
  const warnings = editor.findings.filter((f) => f.severity === 'warns');
  const busy = useNavigation().formMethod === 'POST';
  const typed = actionData?.typed;
  const [later, setLater] = useState(typed !== undefined);
  const post = usePost(RevisionNote, { refusal: actionData?.refusal });
  const next = (revisions[0]?.number ?? 0) + 1;
  const waits = release !== undefined && release.stopped === undefined;
  const settled = editor.save.is === 'saved';
  const latest = revisions[0];
  /** The draft is then as that revision was; what it was before is one undo away. */
  const goBack = async (number: number) => {
    const answer = await fetch(`/workshop/items/${params.id}/revisions/${number}`).catch(() => undefined);
    if (!answer?.ok) return void toast(`Revision ${number} could not be read. The draft is as it was.`);
    const { draft, people } = (await answer.json()) as { draft: ItemDefinition; people: Record<string, { name: string }> };
    for (const [id, { name }] of Object.entries(people)) editor.learn(id, name);
    editor.change(draft, `Go back to revision ${number}`);
    toast(`The draft is as revision ${number} was`, { action: { label: 'Undo', onClick: () => void editor.undo() } });
  };
  const unchanged = item?.unchanged === true && editor.version === item.version && settled;
  return (
    <main id="main" className="grid min-h-[calc(100vh-94px)] bg-sheet lg:grid-cols-[minmax(0,1fr)_360px]">
      <div className="max-w-2xl px-4 py-5 md:px-8">
        <h2 className="font-serif text-2xl">Publish revision {next}</h2>
        <p className="mt-1 mb-4 text-faint">
          The Counter offers it from that moment on. Requests under way stay on the revision they began with, unless they are moved.
        </p>
        {unchanged && latest && (
          <p role="status" className="mb-5 border-l-3 border-moss bg-moss-wash px-3 py-2">
            Revision {latest.number} is offered since <Time at={latest.at} />. Once something is changed, revision {next} can be published.
          </p>
        )}
        {compared && <Compared {...compared} />}
        {behind && <RequestsBehind {...behind} />}
        {release && <Release {...release} action={`/workshop/items/${params.id}/publish`} />}
        <Refused sentence={post.sentence} />
        {stopping.length > 0 && (
          <section className="mb-5">
            <h3 className="mb-2 font-medium text-coral">{stopping.length === 1 ? 'One finding stops it' : `${stopping.length} findings stop it`}</h3>
            <ul className="space-y-2">
              {stopping.map((f, i) => (
                <FindingLine key={i} finding={f} to={placeOf(f)} />
              ))}
            </ul>
          </section>
        )}
        {warnings.length > 0 && (
          <section className="mb-5">
            <h3 className="mb-2 font-medium text-ochre">Worth a look</h3>
            <ul className="space-y-2">
              {warnings.map((f, i) => (
                <FindingLine key={i} finding={f} to={placeOf(f)} />
              ))}
            </ul>
          </section>
        )}
        {editor.findings.length === 0 && <p className="mb-5 border-l-3 border-moss bg-moss-wash px-3 py-2">The check finds nothing.</p>}
        <Form key={next} method="post" {...post.form} action={`/workshop/items/${params.id}/publish`}>
          <input type="hidden" name="version" value={editor.version} />
          <Labelled label="What changed and why" help="Kept with the revision." problem={post.problem('note')}>
            {(ids) => <textarea {...ids} name="note" rows={3} className="input" defaultValue={actionData?.note} maxLength={1000} />}
          </Labelled>
          <PublishWhen later={later} typed={typed} problem={post.problem('at')} onLater={setLater} />
          <div className="mt-4 flex items-center gap-4">
            <Button type="submit" weight="main" disabled={busy || !settled || unchanged || stopping.length > 0 || waits}>
              {wantsSecond ? 'Ask a second designer to publish' : 'Publish'} revision {next}
              {later && ' on that day'}
            </Button>
            <p className="text-sm text-faint">
              {waits
                ? 'Take back what is to be published first.'
                : stopping.length > 0
                  ? 'Mend what stops it first.'
                  : !settled
                    ? 'The draft is still being saved.'
                    : unchanged
                      ? 'Nothing has changed since the last revision.'
                      : ''}
            </p>
          </div>
        </Form>
      </div>
      <aside aria-label="Revisions" className="border-l bg-paper px-5 py-5">
        <h3 className="mb-2 font-medium">Revisions</h3>
        {revisions.length > 0 && (
          <Compare revisions={revisions.map((r) => r.number)} from={compared?.from ?? revisions[0]!.number} to={compared?.to} />
        )}
        {revisions.length === 0 && <p className="text-faint">None yet. This will be the first.</p>}
        <ol>
          {revisions.map((r) => (
            <li key={r.number} className="border-b py-2">
              <span className="font-medium">Revision {r.number}</span>{' '}
              {r.number === item?.published && <span className="text-moss">· offered now</span>}
              <span className="block text-sm text-faint">
                <Time at={r.at} /> by {r.by}
              </span>
              {r.note && <span className="block">{r.note}</span>}
              {(underWay[r.number] ?? 0) > 0 && (
                <span className="block text-sm">
                  {underWay[r.number] === 1 ? '1 request' : `${underWay[r.number]} requests`} under way on it
                  {r.number !== item?.published && (
                    <>
                      {' · '}
                      <Link to="?behind=0" preventScrollReset className="text-sea underline underline-offset-4">
                        Which can go over to revision {item?.published}
                      </Link>
                    </>
                  )}
                </span>
              )}
              {!(unchanged && r === latest) && (
                <button type="button" className="text-sm text-sea underline underline-offset-4" onClick={() => void goBack(r.number)}>
                  Put revision {r.number} into the draft
                </button>
              )}
              <span className="numbers block truncate text-xs text-faint" data-tip={r.contentHash}>
                {r.contentHash.slice(0, 16)}
              </span>
            </li>
          ))}
        </ol>
        {publicLink && (publicLink.offered || publicLink.link !== undefined) && (
          <PublicLink {...publicLink} action={`/workshop/items/${params.id}/publish`} />
        )}
        {editor.kind === 'item' && (
          <p className="mt-4 text-sm">
            <a href={`/workshop/items/${params.id}/bundle.json`} className="text-sea underline underline-offset-4">
              Take it as one file
            </a>
            , or{' '}
            <a href={`/workshop/items/${params.id}/bundle.json?rows`} className="text-sea underline underline-offset-4">
              with the rows of its tables
            </a>
            <span className="block text-faint">The draft with the parts, policies and tables it uses, to be brought in elsewhere.</span>
          </p>
        )}
        <p className="mt-4">
          <Link to="../plan" className="text-sea underline underline-offset-4">
            Back to the plan
          </Link>
        </p>
      </aside>
    </main>
  );
}

/** Which two are compared: revisions, or one and the draft. */
function Compare({ revisions, from, to }: { revisions: number[]; from: number; to: number | undefined }) {
  const choices = revisions.map((n) => (
    <option key={n} value={String(n)}>
      {`Revision ${n}`}
    </option>
  ));
  return (
    <Form method="get" className="mb-3 flex flex-wrap items-end gap-2 border-b pb-3" preventScrollReset>
      <label className="min-w-0 grow">
        <span className="block text-sm text-faint">What changed from</span>
        <Select aria-label="What changed from" name="from" defaultValue={String(from)} key={`from ${from}`}>
          {choices}
        </Select>
      </label>
      <label className="min-w-0 grow">
        <span className="block text-sm text-faint">to</span>
        <Select aria-label="What changed to" name="to" defaultValue={to === undefined ? '' : String(to)} key={`to ${to}`}>
          <option value="">The draft</option>
          {choices}
        </Select>
      </label>
      <Button type="submit">Compare</Button>
    </Form>
  );
}

const heads = { form: 'The form', plan: 'The plan', item: 'The item' } as const;
const marks = { added: Plus, gone: Minus, changed: Pencil, moved: MoveVertical } as const;

function Compared({ from, to, differences }: NonNullable<Route.ComponentProps['loaderData']['compared']>) {
  const later = to === undefined ? 'the draft' : `revision ${to}`;
  return (
    <section aria-label={`From revision ${from} to ${later}`} className="mb-6 border-b pb-4">
      <h3 className="mb-2 font-medium">
        From revision {from} to {later}
      </h3>
      {differences.length === 0 && <p className="text-faint">Nothing is different.</p>}
      {to === undefined && differences.some((d) => d.of === 'plan') && (
        <p className="mb-2">
          <Link to={`../plan?against=${from}`} className="text-sea underline underline-offset-4">
            See it on the sheet
          </Link>
        </p>
      )}
      {(['item', 'form', 'plan'] as const).map((of) => {
        const here = differences.filter((d) => d.of === of);
        if (here.length === 0) return null;
        return (
          <div key={of} className="mb-3">
            <h4 className="text-sm text-faint">{heads[of]}</h4>
            <ul>
              {here.map((d, i) => {
                const Mark = marks[d.is];
                return (
                  <li key={i} className="flex gap-2 py-0.5">
                    <Mark size={13} aria-hidden className="mt-1 shrink-0 text-faint" />
                    <span className="min-w-0 break-words">
                      {to === undefined && d.is !== 'gone' && (d.step ?? d.field) ? (
                        <Link to={d.step ? `../plan?step=${d.step}` : `../ask?field=${d.field}`} className="hover:text-sea">
                          {d.sentence}
                        </Link>
                      ) : (
                        d.sentence
                      )}
                    </span>
                  </li>
                );
              })}
            </ul>
          </div>
        );
      })}
    </section>
  );
}
