import { useState } from 'react';
import { data, Form, Link, redirect, useNavigation, useSearchParams } from 'react-router';
import { importBundle, readImport, takeImportBack, type Foreseen } from '../../../server/bundles/commands.ts';
import { importsLately } from '../../../server/bundles/queries.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { ListSheet, Place } from '~/ui/frame';
import { Picker, type Chosen } from '~/ui/picker';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';
import { WorkshopMargin } from '~/ui/workshop-margin';
import { orNotFound, posted, signedIn } from '../session.server';
import type { Route } from './+types/bring-in';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta = () => [{ title: 'Bring in an item · Workshop · Nessmoor' }];

/** What a file may hold at most, in bytes. */
const largest = 20_000_000;

export async function loader({ context, request }: Route.LoaderArgs) {
  return { lately: orNotFound(await importsLately(signedIn(context, request)), 'The Workshop') };
}

export async function action({ context, request }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request, largest);
  if (form.get('act') === 'back') {
    const back = await takeImportBack(viewer, form.get('import'));
    return back.ok
      ? redirect(`/workshop/bring-in?back=${encodeURIComponent(back.name)}${back.stays.map((s) => `&stays=${encodeURIComponent(s)}`).join('')}`)
      : data({ read: undefined, refusal: back.sentence, text: '' }, { status: 422 });
  }
  const text = form.get('file');
  const chosen = Object.fromEntries(form.entries().flatMap(([k, v]) => (/^meant\.[^.]+$/.test(k) ? [[k.slice(6), v]] : [])));
  // Sent back for a page without scripts, which keeps nothing by itself.
  const kept = text.length < 500_000 ? text : '';
  const refusal = form.get('act') === 'put' ? await importBundle(viewer, { text, chosen }) : undefined;
  if (refusal?.ok) return redirect(`/workshop/bring-in?in=${refusal.id ?? 'same'}&item=${refusal.item}`);
  // What it would do stays in sight, and who was chosen, where something is wanting still.
  const read = await readImport(viewer, { text, chosen });
  const sentence = refusal?.sentence ?? (read.ok ? undefined : read.sentence);
  return data({ read: read.ok ? read : undefined, refusal: sentence, text: kept }, { status: sentence === undefined ? 200 : 422 });
}

const what = { item: 'Item', part: 'Part', policy: 'Approval policy', table: 'Reference table', system: 'System' } as const;
const comes = {
  added: 'is made',
  changed: 'its draft becomes as it is in the file',
  same: 'is the same here; nothing changes',
  kept: 'is otherwise here, and stays as it is: it counts at once for all that uses it',
  missing: 'is not registered here; an administrator has to, and until then the check names what wants it',
} as const;
const kinds = { person: 'person', group: 'group', team: 'team', location: 'place' } as const;

export default function BringIn({ loaderData: { lately }, actionData }: Route.ComponentProps) {
  const [search] = useSearchParams();
  const [text, setText] = useState(actionData?.text ?? '');
  /** What was read stands for what stands in the box, and no longer than that. */
  const [readFor, setReadFor] = useState<string>();
  const busy = useNavigation().formMethod === 'POST';
  const read = actionData?.read && (readFor === undefined || readFor === text) ? actionData.read : undefined;
  const done = lately.find((l) => l.id === search.get('in'));
  const some = read?.entries.some((e) => e.is === 'added' || e.is === 'changed') === true;
  return (
    <Place marginLabel="Workshop" margin={<WorkshopMargin at="items" />}>
      <ListSheet>
        <div className="min-h-0 max-w-3xl grow space-y-5 overflow-y-auto pb-6">
          <h1 className="font-serif text-2xl">Bring in an item</h1>
          <p className="text-faint">
            A file that was taken from an item here or elsewhere: the item, and the parts, policies and tables it uses. What it brings are drafts;
            nothing is offered before it is published.
          </p>
          {done && !done.takenBackAt && (
            <Form method="post" className="flex flex-wrap items-center gap-4 border-l-3 border-moss bg-moss-wash px-3 py-2">
              <span role="status">“{done.name}” was taken in.</span>
              <Link to={`/workshop/items/${done.itemId}/plan`} className="text-sea underline underline-offset-4">
                Look at it
              </Link>
              <input type="hidden" name="import" value={done.id} />
              <Button type="submit" name="act" value="back" disabled={busy}>
                Take it back
              </Button>
            </Form>
          )}
          {search.get('in') === 'same' && (
            <p role="status" className="border-l-3 border-moss bg-moss-wash px-3 py-2">
              Everything in this file is here already; nothing was changed.
            </p>
          )}
          {search.has('back') && (
            <p role="status" className="border-l-3 border-moss bg-moss-wash px-3 py-2">
              “{search.get('back')}” was taken back.
              {search.getAll('stays').map((s) => ` The approval policy “${s}” stays, unused: what policies said is never deleted.`)}
            </p>
          )}
          <Refused sentence={actionData?.refusal} />
          <Form method="post" className="space-y-4" onSubmit={() => setReadFor(text)}>
            <Labelled label="The file" help="JSON, as “Take it as one file” writes it.">
              {(ids) => (
                <input
                  {...ids}
                  type="file"
                  accept=".json,application/json"
                  className="file-input"
                  onChange={(e) => {
                    const [file] = e.target.files ?? [];
                    if (file) void file.text().then(setText);
                  }}
                />
              )}
            </Labelled>
            <Labelled label="Or what stands in it" required>
              {(ids) => (
                <textarea
                  {...ids}
                  name="file"
                  rows={text ? 4 : 2}
                  className="input font-mono text-[13px]/[18px]"
                  spellCheck={false}
                  value={text}
                  onChange={(e) => setText(e.target.value)}
                />
              )}
            </Labelled>
            {read && <Read read={read} />}
            <div className="flex gap-2">
              <Button type="submit" name="act" value="read" disabled={busy} weight={read ? 'plain' : 'main'}>
                {busy ? 'Reading …' : 'Say what it would do'}
              </Button>
              {read && some && read.problem === undefined && (
                <Button type="submit" name="act" value="put" weight="main" disabled={busy}>
                  {`Take in “${read.name}”`}
                </Button>
              )}
            </div>
          </Form>
          {lately.length > 0 && (
            <section aria-label="Taken in lately">
              <h2 className="mb-1 border-b pb-1 text-sm text-faint">Taken in lately</h2>
              <ul>
                {lately.map((l) => (
                  <li key={l.id} className="flex flex-wrap items-center gap-x-3 border-b py-1.5">
                    <span className="font-medium">{l.name}</span>
                    <span className="text-sm text-faint">
                      <Time at={l.at} /> by {l.by}
                      {l.takenBackAt && (
                        <>
                          , taken back <Time at={l.takenBackAt} />
                        </>
                      )}
                    </span>
                    {!l.takenBackAt && l.id !== done?.id && (
                      <Form method="post" className="ml-auto">
                        <input type="hidden" name="import" value={l.id} />
                        <Button type="submit" weight="quiet" name="act" value="back" disabled={busy}>
                          Take it back<span className="sr-only"> ({l.name})</span>
                        </Button>
                      </Form>
                    )}
                  </li>
                ))}
              </ul>
            </section>
          )}
        </div>
      </ListSheet>
    </Place>
  );
}

/** What a file would do here, and who or what is meant by what is not found. */
function Read({ read }: { read: Foreseen }) {
  const [meant, setMeant] = useState<Record<string, Chosen | undefined>>({});
  return (
    <div className="space-y-4">
      <section aria-label="What it would do">
        <h2 className="mb-1 font-medium">
          “{read.name}”, written <Time at={read.made} />
        </h2>
        <ul>
          {read.entries.map((e) => (
            <li key={`${e.what} ${e.name}`} className="border-b py-1.5">
              <span className="text-faint">{what[e.what]}</span> <span className="font-medium">{e.name}</span> {comes[e.is]}
              {e.is === 'added' && e.words.length > 0 ? `, ${e.words.join(' ')}` : ''}.
              {e.is !== 'added' && e.words.length > 0 && (
                <ul className="mt-1 ml-4 list-disc text-sm text-faint">
                  {e.words.slice(0, 20).map((w, i) => (
                    <li key={i}>{w}</li>
                  ))}
                  {e.words.length > 20 && <li>and {e.words.length - 20} more</li>}
                </ul>
              )}
            </li>
          ))}
        </ul>
      </section>
      {read.problem !== undefined && <Refused sentence={read.problem} />}
      {read.unmatched.length > 0 && (
        <fieldset>
          <legend className="mb-1 font-medium">Not found here: say who or what is meant</legend>
          <div className="space-y-3">
            {read.unmatched.map((n) => (
              <Labelled key={n.id} label={n.name} help={[`a ${kinds[n.kind]}`, n.mail].filter(Boolean).join(', ')} required>
                {(ids) => (
                  <Picker
                    {...ids}
                    kind={n.kind}
                    name={`meant.${n.id}`}
                    chosen={meant[n.id]}
                    onChoose={(c) => setMeant((all) => ({ ...all, [n.id]: c }))}
                  />
                )}
              </Labelled>
            ))}
          </div>
        </fieldset>
      )}
    </div>
  );
}
