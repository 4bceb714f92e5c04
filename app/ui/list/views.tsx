import { Bookmark, X } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { Link, useFetcher, useLocation } from 'react-router';
import { toast } from 'sonner';
import { KeptView } from '../../../core/posts/index.ts';
import { writeAsked, type ListAsked, type ListShape } from '../../../core/lists/index.ts';
import type { action } from '~/routes/views';
import { Button } from '../button';
import { useHydrated } from '../choices';
import { Labelled } from '../field';
import { Popover } from '../popover';
import { usePost } from '../post';

/** Keeps the list as it is asked now under a name; `now` says how that is, also while the address is still on its way there. */
export function KeepView({ list, shape, now }: { list: string; shape: ListShape; now: () => ListAsked }) {
  const fetcher = useFetcher<typeof action>();
  const hydrated = useHydrated();
  const asked = useRef<HTMLInputElement>(null);
  // Opened on an answer, it closes on the next that is good.
  const [opened, setOpened] = useState<{ on: typeof fetcher.data }>();
  const open = opened !== undefined && !(fetcher.data?.ok && fetcher.data !== opened.on);
  useEffect(() => {
    if (fetcher.data?.ok && fetcher.data.kept) toast(`Kept as “${fetcher.data.name}”`);
  }, [fetcher.data]);
  const post = usePost(KeptView, { refusal: fetcher.data && !fetcher.data.ok && fetcher.data !== opened?.on ? fetcher.data.refusal : undefined });
  return (
    <Popover
      label="Keep this view"
      open={open}
      onOpenChange={(o) => setOpened(o ? { on: fetcher.data } : undefined)}
      opener={
        <Button weight="quiet" className="size-8 px-0!" data-tip="Keep this view" disabled={!hydrated}>
          <Bookmark size={16} aria-hidden />
          <span className="sr-only">Keep this view</span>
        </Button>
      }
    >
      <fetcher.Form
        method="post"
        action="/views"
        {...post.form}
        onSubmit={(event) => {
          post.form.onSubmit(event);
          if (asked.current) asked.current.value = writeAsked(shape, now());
        }}
      >
        <input type="hidden" name="list" value={list} />
        <input ref={asked} type="hidden" name="asked" />
        <Labelled label="Keep this view as" help="Its filters, order and columns; for you only." problem={post.problem('name') ?? post.sentence}>
          {(ids) => <input {...ids} name="name" className="input" maxLength={60} autoComplete="off" />}
        </Labelled>
        <Button type="submit" weight="main" className="mt-3" disabled={fetcher.state !== 'idle'}>
          Keep
        </Button>
      </fetcher.Form>
    </Popover>
  );
}

export interface View {
  id: string;
  name: string;
  asked: string;
}

/** Whether two addresses ask the same, however they are written. */
function sameAddress(a: string, b: string): boolean {
  const [pathA, askedA] = a.split('?', 2);
  const [pathB, askedB] = b.split('?', 2);
  return pathA === pathB && new URLSearchParams(askedA).toString() === new URLSearchParams(askedB).toString();
}

/** The views that somebody kept of a list, in the margin. */
export function KeptViews({
  list,
  views,
  to,
  title = 'Kept views',
}: {
  list: string;
  views: View[];
  /** The address of the list that is asked this. */
  to: (asked: string) => string;
  title?: string;
}) {
  const here = useLocation();
  const fetcher = useFetcher<typeof action>();
  if (views.length === 0) return null;
  const forget = (view: View) => {
    void fetcher.submit({ act: 'forget', id: view.id }, { method: 'post', action: '/views' });
    toast(`“${view.name}” is not kept any more`, {
      action: {
        label: 'Undo',
        onClick: () => void fetcher.submit({ list, asked: view.asked, name: view.name }, { method: 'post', action: '/views' }),
      },
    });
  };
  return (
    <div className="max-md:hidden">
      <h2 className="px-4 pt-4 pb-1 text-sm text-faint">{title}</h2>
      <ul>
        {views.map((v) => {
          const isHere = sameAddress(here.pathname + here.search, to(v.asked));
          return (
            <li key={v.id} className="group flex items-center">
              <Link
                to={to(v.asked)}
                aria-current={isHere ? 'page' : undefined}
                className={`min-w-0 grow truncate border-l-3 px-4 py-1.5 hover:text-sea ${isHere ? 'border-sea bg-sea-wash font-medium' : 'border-transparent'}`}
              >
                {v.name}
              </Link>
              <button
                type="button"
                onClick={() => forget(v)}
                className="mr-1 flex size-6 shrink-0 items-center justify-center text-faint opacity-0 group-hover:opacity-100 hover:text-coral focus-visible:opacity-100"
              >
                <X size={13} aria-hidden />
                <span className="sr-only">Forget the view “{v.name}”</span>
              </button>
            </li>
          );
        })}
      </ul>
    </div>
  );
}
