import { useState } from 'react';
import { Form, Link, useSearchParams } from 'react-router';
import { Button } from './button';
import { DateField } from './date-field';
import { Time } from './time';

interface Version {
  version: number;
  at: Date;
  by: string | null;
}

/** What stands above something that is shown as it was, and is not changed by that. */
export function AsItWas({ as, wanted }: { as: Version | undefined; wanted: boolean }) {
  if (!as)
    return wanted ? (
      <p role="status" className="my-3 border-l-3 border-ochre bg-ochre-wash px-3 py-2">
        Nothing is kept of then: this is how it stands now.
      </p>
    ) : null;
  return (
    <p role="status" className="my-3 border-l-3 border-ochre bg-ochre-wash px-3 py-2">
      As it was from <Time at={as.at} /> on{as.by && `, by ${as.by}`}. Nothing is changed by looking; saved, it is so again.{' '}
      <Link to="." className="text-sea underline underline-offset-4">
        As it stands now
      </Link>
    </p>
  );
}

/** The versions that something had, each to be looked at, and as it stood on any day. */
export function Versions({ versions, now }: { versions: Version[]; now: number }) {
  const [search] = useSearchParams();
  const [day, setDay] = useState(search.get('day') ?? '');
  const part = search.get('part');
  const to = (version: number) => `?${new URLSearchParams({ ...(part && { part }), as: String(version) }).toString()}`;
  return (
    <details className="mt-6 border-t py-3" open={search.has('as') || search.has('day')}>
      <summary className="cursor-pointer text-sea">History, {versions.length === 1 ? '1 version' : `${versions.length} versions`}</summary>
      <Form className="mt-3 flex flex-wrap items-end gap-2">
        {part && <input type="hidden" name="part" value={part} />}
        <label className="w-52">
          <span className="block text-sm text-faint">As it stood at the end of</span>
          <DateField aria-label="As it stood at the end of" name="day" value={day} onValue={setDay} />
        </label>
        <Button type="submit">Show it</Button>
      </Form>
      {versions.length === 0 && <p className="mt-2 text-faint">It has not been changed since it was begun.</p>}
      <ol className="mt-3 space-y-1">
        {versions.map((v) => (
          <li key={v.version}>
            <Link to={to(v.version)} className="hover:text-sea">
              <Time at={v.at} />
            </Link>{' '}
            <span className="text-faint">
              {v.by ?? 'Nessmoor'}
              {v.version === now && ', as it stands now'}
            </span>
          </li>
        ))}
      </ol>
    </details>
  );
}
