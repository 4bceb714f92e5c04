import type { ReactNode } from 'react';
import { Links, Meta, Outlet, Scripts, ScrollRestoration, useLocation, useRouteLoaderData, type ShouldRevalidateFunctionArgs } from 'react-router';
import { Toaster } from 'sonner';
import { deskOpen } from '../core/calendar/index.ts';
import { db } from '../server/db/database.ts';
import { calendarsOf } from '../server/hours/nearest.ts';
import { visitContext } from '../server/http/context.ts';
import type { Route } from './+types/root';
import './app.css';
import { useNonce } from './ui/nonce';
import { Tips } from './ui/tips';
import { TopBar } from './ui/top-bar';
import { Trouble } from './ui/trouble';

export const meta: Route.MetaFunction = () => [{ title: 'Nessmoor' }];

export async function loader({ context }: Route.LoaderArgs) {
  const { viewer } = context.get(visitContext);
  const now = new Date().toISOString();
  if (!viewer) return { viewer: undefined, now, desk: undefined, places: [] };
  const designs = viewer.roles.includes('designer');
  const reads = viewer.roles.length > 0;
  return {
    viewer: { name: viewer.name, zone: viewer.zone },
    now,
    desk: deskOpen(now, await calendarsOf(db()).of({ person: viewer.id, zone: viewer.zone })),
    places: [
      { to: '/counter', label: 'Counter' },
      { to: '/desk', label: 'Desk' },
      ...(designs
        ? [{ to: '/workshop', label: 'Workshop' }]
        : viewer.roles.includes('administrator')
          ? [{ to: '/workshop/systems', label: 'Workshop' }]
          : []),
      ...(reads ? [{ to: '/ledger', label: 'Ledger' }] : []),
    ],
  };
}

/**
 * Who is here, whether the desk is open, and what the time is, is asked again on another page, after a change, and where the
 * same page is read anew; not where a page only shows another part of itself.
 */
export const shouldRevalidate = ({ currentUrl, nextUrl, formMethod }: ShouldRevalidateFunctionArgs) =>
  formMethod !== undefined || currentUrl.pathname !== nextUrl.pathname || currentUrl.href === nextUrl.href;

export function Layout({ children }: { children: ReactNode }) {
  const nonce = useNonce();
  return (
    <html lang="en">
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <link rel="icon" href="/mark.svg" type="image/svg+xml" />
        <Meta />
        <Links />
      </head>
      <body>
        {children}
        <ScrollRestoration nonce={nonce} />
        <Scripts nonce={nonce} />
      </body>
    </html>
  );
}

export default function App({ loaderData }: Route.ComponentProps) {
  // Everybody sees what those from outside see as they do.
  const outside = useLocation().pathname.startsWith('/public/');
  return (
    <>
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:m-2 focus:bg-sheet focus:p-2">
        Skip to the content
      </a>
      {loaderData.viewer && !outside && <TopBar viewer={loaderData.viewer} places={loaderData.places} desk={loaderData.desk} />}
      <Outlet />
      <Tips />
      <Toaster
        // Where nothing is that people press: what was just done can be undone, and what is next is not covered.
        position="top-center"
        offset={50}
        toastOptions={{
          unstyled: true,
          classNames: {
            toast: 'flex items-center gap-4 rounded border bg-sheet px-4 py-3 text-base text-ink shadow-float',
            actionButton: 'font-medium text-sea underline underline-offset-4',
          },
        }}
      />
    </>
  );
}

export function ErrorBoundary() {
  const root = useRouteLoaderData<typeof loader>('root');
  return (
    <>
      {root?.viewer && <TopBar viewer={root.viewer} places={root.places} desk={root.desk} />}
      <Trouble />
    </>
  );
}
