import type { Filed } from '../../server/letters/read.ts';
import { sizeWords } from '../../core/files/index.ts';
import { Time } from '~/ui/time';

/** The letters of a request, each with the versions before it. `led`: they can be had here. */
export function Letters({ letters, led = true, level = 'h2' }: { letters: readonly Filed[]; led?: boolean; level?: 'h2' | 'h3' }) {
  if (letters.length === 0) return null;
  const Title = level;
  return (
    <section aria-label="Letters" className="mb-6">
      <Title className={level === 'h2' ? 'mb-2 font-medium' : 'mb-2 text-sm text-faint'}>Letters</Title>
      <ul>
        {letters.map((l) => (
          <li key={l.id} className="mb-2 break-words">
            <FileName id={l.id} name={l.name} led={led} />{' '}
            <span className="text-sm text-faint">
              {l.before.length > 0 && `version ${l.version}, `}
              {sizeWords(l.size)}, <Time at={l.at} />
            </span>
            {l.before.length > 0 && (
              <details className="text-sm">
                <summary className="py-1">
                  {l.before.length === 1 ? 'The version before it' : `The ${l.before.length} versions before it`}
                  <span className="sr-only"> of {l.name}</span>
                </summary>
                <ul className="border-l pl-3">
                  {l.before.map((b) => (
                    <li key={b.id}>
                      <FileName id={b.id} name={`Version ${b.version}`} led={led} />{' '}
                      <span className="text-faint">
                        <Time at={b.at} />
                      </span>
                    </li>
                  ))}
                </ul>
              </details>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

const FileName = ({ id, name, led }: { id: string; name: string; led: boolean }) =>
  led ? (
    <a href={`/files/${id}`} className="text-sea underline underline-offset-4">
      {name}
    </a>
  ) : (
    <span>{name}</span>
  );
