import type { ReactNode } from 'react';

/** Something of a step that is opened to be read. */
export function More({ summary, colour, children }: { summary: string; colour: string; children: ReactNode }) {
  return (
    <details className="mt-1 text-sm">
      <summary className={`py-1 ${colour}`}>{summary}</summary>
      <div className="my-1 border-l pl-3">{children}</div>
    </details>
  );
}
