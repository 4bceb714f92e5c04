import { Link, useSearchParams } from 'react-router';
import type { Against } from './use-against';
import { Button } from '~/ui/button';
import { Popover } from '~/ui/popover';

const kinds = ['added', 'changed', 'moved'] as const;

/** What the draft says otherwise than a revision, in numbers; and what is not on the sheet any more. */
export function AgainstHead({ against: { number, steps, gone, failed } }: { against: Against }) {
  const [search] = useSearchParams();
  const rest = new URLSearchParams(search);
  rest.delete('against');
  const all = [...(steps?.values() ?? [])];
  const counts = kinds.flatMap((is) => {
    const n = all.filter((ds) => ds.some((d) => d.is === is)).length;
    return n > 0 ? [`${n} ${is}`] : [];
  });
  const words = gone.every((d) => d.is === 'gone') ? 'What is gone' : 'What else changed';
  const lost = gone.filter((d) => d.is === 'gone').length;
  return (
    <p role="status" className="flex flex-wrap items-center gap-x-3 border-b bg-sea-wash px-4 py-1 text-sm md:px-6 print:hidden">
      <span>
        Against revision {number}:{' '}
        {failed
          ? 'it could not be read.'
          : !steps
            ? 'reading …'
            : [...counts, ...(lost > 0 ? [`${lost} gone`] : [])].join(', ') || 'the plan says the same.'}
      </span>
      {gone.length > 0 && (
        <Popover label={words} opener={<Button weight="quiet">{words}</Button>}>
          <ul className="space-y-1">
            {gone.map((d, i) => (
              <li key={i} className="break-words">
                {d.sentence}
              </li>
            ))}
          </ul>
        </Popover>
      )}
      <Link to={`?${rest.toString()}`} replace preventScrollReset className="text-sea underline underline-offset-4">
        Without revision {number}
      </Link>
    </p>
  );
}
