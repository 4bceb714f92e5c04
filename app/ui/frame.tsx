import type { ReactNode } from 'react';
import { NavLink } from 'react-router';
import { clsx } from 'clsx';

/** A place's frame: lists in the left margin, the work on the sheet, details in a slip at the right. */
export function Frame({ margin, marginLabel, children, slip }: { margin?: ReactNode; marginLabel?: string; children: ReactNode; slip?: ReactNode }) {
  return (
    <div
      className={clsx(
        'grid min-h-[calc(100vh-49px)] grid-cols-1',
        margin && 'grid-rows-[auto_1fr] md:grid-cols-[216px_minmax(0,1fr)] md:grid-rows-1',
      )}
    >
      {margin && (
        <nav aria-label={marginLabel} className="border-b md:border-r md:border-b-0">
          {margin}
        </nav>
      )}
      <div className={clsx('grid min-w-0 bg-sheet', slip && 'lg:grid-cols-[minmax(0,1fr)_360px]')}>
        <main id="main" className="min-w-0 px-4 py-5 md:px-8">
          {children}
        </main>
        {slip}
      </div>
    </div>
  );
}

export function MarginLink({ to, end = false, children }: { to: string; end?: boolean; children: ReactNode }) {
  return (
    <NavLink
      to={to}
      end={end}
      className={({ isActive }) =>
        clsx('block border-l-3 px-4 py-1.5 hover:text-sea', isActive ? 'border-sea bg-sea-wash font-medium' : 'border-transparent')
      }
    >
      {children}
    </NavLink>
  );
}

/** An empty list says what belongs there and offers the first act. */
export function Empty({ children, act }: { children: ReactNode; act?: ReactNode }) {
  return (
    <div className="border-y py-10 text-center text-faint">
      <p className="mx-auto mb-4 max-w-md">{children}</p>
      {act}
    </div>
  );
}
