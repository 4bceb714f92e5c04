import { Link, NavLink } from 'react-router';
import { clsx } from 'clsx';
import { LogOut, Search, User } from 'lucide-react';
import { useEffect, useState } from 'react';
import { useHydrated } from './choices';
import { FindBox } from './find-box';
import { StateMark } from './state-mark';

/** The one bar: wordmark, the places the reader may enter, find-anything, whether the desk is open, the person. */
export function TopBar({
  viewer,
  places,
  desk,
}: {
  viewer: { name: string };
  places: { to: string; label: string }[];
  desk: { open: boolean; words: string } | undefined;
}) {
  const [finding, setFinding] = useState(false);
  const hydrated = useHydrated();
  useEffect(() => {
    const hear = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'k') {
        e.preventDefault();
        setFinding(true);
      }
    };
    window.addEventListener('keydown', hear);
    return () => window.removeEventListener('keydown', hear);
  }, []);
  return (
    <header className="flex h-12 items-center gap-1 overflow-x-auto border-b bg-paper px-3 md:gap-4 md:px-4 print:hidden">
      <Link to="/" className="mr-1 font-serif text-lg font-semibold tracking-tight md:mr-2">
        Nessmoor
      </Link>
      <nav aria-label="Places" className="flex h-full">
        {places.map((p) => (
          <NavLink
            key={p.to}
            to={p.to}
            className={({ isActive }) =>
              clsx(
                'flex h-full items-center border-y-2 border-t-transparent px-2 hover:text-sea md:px-3',
                isActive ? 'border-b-sea font-medium' : 'border-b-transparent',
              )
            }
          >
            {p.label}
          </NavLink>
        ))}
      </nav>
      <button
        type="button"
        onClick={() => setFinding(true)}
        className="ml-auto flex h-8 shrink-0 items-center gap-2 rounded border px-2 text-faint hover:text-sea lg:w-60"
      >
        <Search size={15} aria-hidden />
        <span className="sr-only lg:not-sr-only">Find anything</span>
        {/* Said once it is heard. */}
        {hydrated && <kbd className="numbers ml-auto hidden text-xs lg:inline">Ctrl K</kbd>}
      </button>
      {desk && (
        <span className="hidden shrink-0 items-center gap-1.5 text-sm text-faint xl:inline-flex">
          <StateMark kind={desk.open ? 'done' : 'held'} size={12} /> {desk.words}
        </span>
      )}
      <Link
        to="/account"
        className="flex h-8 shrink-0 items-center rounded px-2 text-sm hover:text-sea md:px-0"
        data-tip={`${viewer.name}: my account`}
      >
        <User size={16} aria-hidden className="text-faint md:hidden" />
        <span className="sr-only max-w-52 truncate md:not-sr-only">{viewer.name}</span>
      </Link>
      <form method="post" action="/sign-out" className="shrink-0">
        <button className="flex size-8 items-center justify-center rounded text-faint hover:text-sea" data-tip="Sign out">
          <LogOut size={16} aria-hidden />
          <span className="sr-only">Sign out {viewer.name}</span>
        </button>
      </form>
      <FindBox open={finding} onOpenChange={setFinding} />
    </header>
  );
}
