import { Form, Link, redirect, useNavigation, useRouteLoaderData } from 'react-router';
import { publish } from '../../../server/items/commands.ts';
import { useEditor } from '~/sheet/draft-editor';
import { FindingLine } from '~/sheet/finding-line';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';
import { orNotFound, isId, posted, refused, signedIn } from '../session.server';
import type { Route } from './+types/publish';
import type { loader as itemLoader } from './item';
import { stops } from '../../../core/checks/index.ts';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request);
  const note = form.get('note');
  orNotFound(isId(params.id) ? true : undefined, 'This item');
  const result = await publish(viewer, { id: params.id, version: Number(form.get('version')), note });
  return result.ok ? redirect(`/workshop/items/${params.id}/publish?published=${result.number}`) : refused(result, { note });
}

export default function Publish({ actionData, params }: Route.ComponentProps) {
  const editor = useEditor();
  const item = useRouteLoaderData<typeof itemLoader>('routes/workshop/item');
  const revisions = item?.revisions ?? [];
  const stopping = stops(editor.findings);
  const warnings = editor.findings.filter((f) => f.severity === 'warns');
  const busy = useNavigation().formMethod === 'POST';
  const next = (revisions[0]?.number ?? 0) + 1;
  const settled = editor.save.is === 'saved';
  const latest = revisions[0];
  const unchanged = item?.unchanged === true && editor.version === item.version && settled;
  return (
    <main id="main" className="grid min-h-[calc(100vh-94px)] bg-sheet lg:grid-cols-[minmax(0,1fr)_360px]">
      <div className="max-w-2xl px-4 py-5 md:px-8">
        <h2 className="font-serif text-2xl">Publish revision {next}</h2>
        <p className="mt-1 mb-4 text-faint">The Counter offers it from that moment on. Requests under way stay on the revision they began with.</p>
        {unchanged && latest && (
          <p role="status" className="mb-5 border-l-3 border-moss bg-moss-wash px-3 py-2">
            Revision {latest.number} is offered since <Time at={latest.at} />. Once something is changed, revision {next} can be published.
          </p>
        )}
        <Refused sentence={actionData?.refusal.sentence} />
        {stopping.length > 0 && (
          <section className="mb-5">
            <h3 className="mb-2 font-medium text-coral">{stopping.length === 1 ? 'One finding stops it' : `${stopping.length} findings stop it`}</h3>
            <ul className="space-y-2">
              {stopping.map((f, i) => (
                <FindingLine key={i} finding={f} to={f.step ? `../plan?step=${f.step}` : f.field ? `../ask?field=${f.field}` : '../plan'} />
              ))}
            </ul>
          </section>
        )}
        {warnings.length > 0 && (
          <section className="mb-5">
            <h3 className="mb-2 font-medium text-ochre">Worth a look</h3>
            <ul className="space-y-2">
              {warnings.map((f, i) => (
                <FindingLine key={i} finding={f} to={f.step ? `../plan?step=${f.step}` : '../ask'} />
              ))}
            </ul>
          </section>
        )}
        {editor.findings.length === 0 && <p className="mb-5 border-l-3 border-moss bg-moss-wash px-3 py-2">The check finds nothing.</p>}
        <Form key={next} method="post" action={`/workshop/items/${params.id}/publish`}>
          <input type="hidden" name="version" value={editor.version} />
          <Labelled label="What changed and why" help="Kept with the revision.">
            {(ids) => <textarea {...ids} name="note" rows={3} className="input" defaultValue={actionData?.note} maxLength={1000} />}
          </Labelled>
          <div className="mt-4 flex items-center gap-4">
            <Button type="submit" weight="main" disabled={busy || !settled || unchanged || stopping.length > 0}>
              Publish revision {next}
            </Button>
            <p className="text-sm text-faint">
              {stopping.length > 0
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
              <span className="numbers block truncate text-xs text-faint" title={r.contentHash}>
                {r.contentHash.slice(0, 16)}
              </span>
            </li>
          ))}
        </ol>
        <p className="mt-4">
          <Link to="../plan" className="text-sea underline underline-offset-4">
            Back to the plan
          </Link>
        </p>
      </aside>
    </main>
  );
}
