import { clsx } from 'clsx';
import { Paperclip } from 'lucide-react';
import { minutesWords } from '../../core/calendar/index.ts';
import { sizeWords } from '../../core/files/index.ts';
import type { Said } from '../../server/conversation/read.ts';
import { RichWords } from '~/ui/rich-words';
import { Time } from '~/ui/time';

interface Held {
  from: Date;
  to: Date | undefined;
  why: string;
  minutes: number;
}

const ways: Record<Said['via'], string> = { screen: '', mail: ', by mail', chat: ', in chat', phone: ', by telephone', system: '' };

/** What was said about a case in its order; with what was held between, where the desk reads it. */
export function Conversation({
  words,
  held = [],
  waitsFor,
  of,
  opensFiles = true,
}: {
  words: Said[];
  held?: Held[];
  waitsFor?: string;
  /** Whether whoever reads it can open files: not from outside. */
  opensFiles?: boolean;
  /** The ticket whose page it is: what was said of another that went into it says so. */
  of?: number;
}) {
  const entries = [...words.map((word) => ({ at: word.at, word })), ...held.map((hold) => ({ at: hold.from, hold }))].sort(
    (a, b) => a.at.getTime() - b.at.getTime() || ('hold' in a ? 1 : -1),
  );
  if (entries.length === 0) return null;
  return (
    <ol aria-label="Conversation" className="space-y-3">
      {entries.map((e) =>
        'hold' in e ? (
          <li key={`held ${e.at.toISOString()}`} className="border-l-3 pl-2.5 text-sm text-faint">
            {e.hold.to ? 'Held from ' : 'Held since '}
            <Time at={e.hold.from} />
            {e.hold.to && (
              <>
                {' '}
                to <Time at={e.hold.to} />
              </>
            )}
            , {e.hold.why.toLowerCase() === 'waiting for you' && waitsFor ? `waiting for ${waitsFor}` : e.hold.why}:{' '}
            {e.hold.minutes >= 1
              ? `${minutesWords(e.hold.minutes)} of working time that ${e.hold.minutes === 1 ? 'does' : 'do'} not count.`
              : 'outside working time.'}
          </li>
        ) : (
          <li key={e.word.id} className={clsx('break-words', e.word.inside && 'bg-ochre-wash px-2.5 py-2')}>
            <p className="text-sm">
              <span className="font-medium">{e.word.inside ? `Note, ${e.word.by ?? 'the desk'}` : (e.word.by ?? 'The desk')}</span>{' '}
              <span className="text-faint">
                <Time at={e.word.at} />
                {ways[e.word.via]}
                {of !== undefined && e.word.of !== of && (
                  <>
                    , of <span className="numbers">T-{e.word.of}</span>
                  </>
                )}
              </span>
            </p>
            {e.word.content ? <RichWords text={e.word.content} /> : <p className="whitespace-pre-wrap">{e.word.text}</p>}
            {e.word.there.map((t, n) => (
              <p key={n} className={clsx('text-sm', t.is === 'not taken' ? 'text-coral' : 'text-faint')}>
                {t.is === 'not taken'
                  ? `${t.system} did not take it. ${t.why ?? ''}`
                  : t.is === 'there'
                    ? `Also at ${t.system}`
                    : `On its way to ${t.system}`}
              </p>
            ))}
            {e.word.stands && <p className="text-sm text-ochre">{e.word.stands === 'asked' ? 'Not answered yet.' : 'Not needed any more.'}</p>}
            {e.word.files.map((f) => (
              <p key={f.id} className="flex items-center gap-1.5 text-sm">
                <Paperclip size={13} aria-hidden className="shrink-0 text-faint" />
                {opensFiles ? (
                  <a href={`/files/${f.id}`} className="min-w-0 truncate text-sea underline underline-offset-4">
                    {f.name}
                  </a>
                ) : (
                  f.name
                )}
                <span className="numbers shrink-0 text-faint">{sizeWords(f.size)}</span>
              </p>
            ))}
          </li>
        ),
      )}
    </ol>
  );
}
