import { clsx } from 'clsx';
import { Redo2, Undo2 } from 'lucide-react';
import { useEffect } from 'react';
import { Link, NavLink, Outlet, useMatch, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { draftOf } from '../../../server/items/queries.ts';
import { DraftProvider, useDraftEditor, type DraftEditor, type SaveState } from '~/sheet/draft-editor';
import { Button, ButtonLink } from '~/ui/button';
import { orNotFound, isId, signedIn } from '../session.server';
import type { Route } from './+types/item';
import { stops } from '../../../core/checks/index.ts';
import { study } from '../../../core/items/index.ts';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.draft.name ?? 'Item'} · Workshop · Nessmoor` }];

export async function loader({ context, request, params }: Route.LoaderArgs) {
  const loaded = orNotFound(isId(params.id) ? await draftOf(signedIn(context, request), params.id) : undefined, 'This item');
  // The page can be drawn from this at once; what is worked out later comes from its web worker.
  const step = new URL(request.url).searchParams.get('step') ?? undefined;
  return { ...loaded, studied: study(loaded.kind, loaded.draft, loaded.catalogue, step) };
}

/** The editor holds the draft while it is open; only a publication makes the rest of this page stale. */
export const shouldRevalidate = ({
  formMethod,
  currentParams,
  nextParams,
}: {
  formMethod?: string;
  currentParams: { id?: string };
  nextParams: { id?: string };
}) => formMethod !== undefined || currentParams.id !== nextParams.id;

export default function Item({ loaderData }: Route.ComponentProps) {
  return <Editor key={loaderData.id} loaded={loaderData} />;
}

function Editor({ loaded }: { loaded: Route.ComponentProps['loaderData'] }) {
  const [search] = useSearchParams();
  const editor = useDraftEditor(loaded, search.get('step') ?? undefined);
  const { undo, redo } = editor;
  const publishing = useMatch('/workshop/items/:id/publish');
  useEffect(() => {
    const hear = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.altKey || inText(e.target)) return;
      const key = e.key.toLowerCase();
      if (key !== 'z' && key !== 'y') return;
      e.preventDefault();
      const back = key === 'z' && !e.shiftKey;
      const did = back ? undo() : redo();
      if (did) toast(`${back ? 'Undone' : 'Done again'}: ${did}`, { duration: 2000 });
    };
    window.addEventListener('keydown', hear);
    return () => window.removeEventListener('keydown', hear);
  }, [undo, redo]);
  const stopping = stops(editor.findings).length;
  const next = (loaded.revisions[0]?.number ?? 0) + 1;
  return (
    <DraftProvider value={editor}>
      <section aria-label="The item" className="flex flex-wrap items-stretch gap-x-5 border-b bg-paper px-4 md:px-6 print:hidden">
        <Link
          to={loaded.kind === 'part' ? '/workshop/items?kind=part' : '/workshop/items'}
          className="-mr-2 self-center text-sm text-sea underline underline-offset-4"
        >
          {loaded.kind === 'part' ? 'Parts' : 'Items'}
        </Link>
        <h1 className="max-w-[50%] min-w-0 truncate py-2 font-serif text-xl" data-tip={editor.draft.name}>
          {editor.draft.name}
        </h1>
        <nav aria-label="Leaves of the item" className="flex">
          {[
            ['ask', loaded.kind === 'part' ? 'Given' : 'Ask'],
            ['plan', 'Plan'],
          ].map(([to, label]) => (
            <NavLink
              key={to}
              to={to!}
              className={({ isActive }) =>
                clsx('-mb-px flex items-center border-b-2 px-3 hover:text-sea', isActive ? 'border-sea font-medium' : 'border-transparent')
              }
            >
              {label}
            </NavLink>
          ))}
        </nav>
        <div className="ml-auto flex items-center gap-1 py-1">
          <SaveWords save={editor.save} />
          <Button
            weight="quiet"
            onClick={() => undo()}
            disabled={!editor.canUndo}
            data-tip={editor.canUndo ? `Undo: ${editor.canUndo} (Ctrl Z)` : 'Nothing to undo'}
          >
            <Undo2 size={16} aria-hidden />
            <span className="sr-only">Undo</span>
          </Button>
          <Button
            weight="quiet"
            onClick={() => redo()}
            disabled={!editor.canRedo}
            data-tip={editor.canRedo ? `Do again: ${editor.canRedo} (Ctrl Y)` : 'Nothing to do again'}
          >
            <Redo2 size={16} aria-hidden />
            <span className="sr-only">Redo</span>
          </Button>
          {!publishing && (
            <ButtonLink to="publish" weight={stopping ? 'plain' : 'main'} className="ml-2">
              Publish revision {next} …
            </ButtonLink>
          )}
        </div>
      </section>
      <Conflict editor={editor} />
      <noscript>
        <p className="m-4 border-l-3 border-ochre bg-ochre-wash px-3 py-2">Designing needs scripts; asking and approving do not.</p>
      </noscript>
      <Outlet />
    </DraftProvider>
  );
}

const inText = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    target instanceof HTMLTextAreaElement ||
    (target instanceof HTMLInputElement && !['checkbox', 'radio', 'button'].includes(target.type)));

function SaveWords({ save }: { save: SaveState }) {
  const words = { saved: 'Draft saved', saving: 'Saving …', conflict: 'Not saved', refused: 'Not saved', unreachable: 'Not saved yet' }[save.is];
  return (
    <span role="status" className={clsx('text-sm', save.is === 'saved' || save.is === 'saving' ? 'text-faint' : 'text-coral')}>
      {words}
    </span>
  );
}

function Conflict({ editor }: { editor: DraftEditor }) {
  const { save } = editor;
  if (save.is === 'saved' || save.is === 'saving') return null;
  return (
    <div role="alert" className="flex flex-wrap items-center gap-3 border-b border-coral bg-coral-wash px-6 py-2">
      <p>{save.sentence}</p>
      {save.is === 'conflict' && (
        <>
          <Button onClick={() => void editor.resolve('theirs')}>Take theirs (mine is one undo away)</Button>
          <Button onClick={() => void editor.resolve('ours')}>Put mine over theirs</Button>
        </>
      )}
    </div>
  );
}
