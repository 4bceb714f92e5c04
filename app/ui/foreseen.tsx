import type { Foreseen as Foreseeing } from '../../server/requests/foreseen.ts';

/** What the present answers cost, and ask others to agree to; beside the form, and above its end where the window is narrow: before it is sent. */
export function Foreseen({ agreed, price }: Pick<Foreseeing, 'agreed' | 'price'>) {
  return (
    <div className="space-y-6 self-start lg:sticky lg:top-4">
      {price && (
        <aside aria-label="What it costs" className="border-t-2 border-ink pt-3">
          <h2 className="font-medium">What it costs</h2>
          <div aria-live="polite" className="mt-2">
            {price.lines.length === 0 && price.open.length === 0 && <p>Nothing, as it is filled in now.</p>}
            <dl className="space-y-1">
              {price.lines.map((l) => (
                <div key={l.label} className="flex flex-wrap justify-between gap-x-3">
                  <dt className="text-faint">{l.label}</dt>
                  <dd className="numbers">{l.words}</dd>
                </div>
              ))}
            </dl>
            {price.totals.length > 0 && (price.lines.length > 1 || price.totals.length > 1) && (
              <p className="mt-2 flex justify-between gap-x-3 border-t pt-1 font-medium">
                Together
                <span className="numbers text-right">
                  {price.totals.map((t) => (
                    <span key={t} className="block">
                      {t}
                    </span>
                  ))}
                </span>
              </p>
            )}
            {price.open.length > 0 && <p className="mt-1 text-sm text-faint">Not priced yet: {price.open.join(', ')}.</p>}
          </div>
        </aside>
      )}
      <aside aria-label="What must be agreed" className="border-t-2 border-ochre pt-3">
        <h2 className="font-medium text-ochre">What must be agreed</h2>
        <div aria-live="polite" className="mt-2 space-y-2">
          {agreed.length === 0 ? (
            <p>Nobody has to agree; it is done as soon as you send it.</p>
          ) : (
            agreed.map((a) => (
              <p key={a.sentence}>
                {a.sentence}
                {a.why && <span className="block text-sm text-faint">{a.why}</span>}
              </p>
            ))
          )}
        </div>
      </aside>
    </div>
  );
}
