import type { ReactNode } from 'react';
import { ReaderZone } from '~/ui/now';

/** A page for those from outside, who have no places to go to. Times are said in UTC, since nobody knows where they read. */
export const OutsidePage = ({ children }: { children: ReactNode }) => (
  <main id="main" className="mx-auto min-h-screen max-w-2xl bg-sheet px-4 py-8 sm:px-8">
    <p className="mb-6 font-serif text-lg font-semibold tracking-tight">Nessmoor</p>
    <ReaderZone.Provider value="UTC">{children}</ReaderZone.Provider>
  </main>
);

/** A link that leads nowhere (any more). */
export const LinkOver = ({ children }: { children: ReactNode }) => (
  <OutsidePage>
    <h1 className="font-serif text-2xl">This link leads nowhere</h1>
    <p className="my-4">{children}</p>
  </OutsidePage>
);
