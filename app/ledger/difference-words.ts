import { dateWords } from '../../core/calendar/index.ts';
import type { settledHow } from '../../core/posts/index.ts';
import type { differenceFor } from '../../server/differences/list.ts';

/** A difference as the Ledger shows it. */
export type Difference = NonNullable<Awaited<ReturnType<typeof differenceFor>>>;

/** What differs, as a sentence. */
export function differsWords(d: Difference): string {
  if (d.is === 'missing') return `${d.who ?? 'Somebody'} holds it here; ${d.systemName} has it not.`;
  if (d.is === 'unknown') return `${d.systemName} has it${d.who ? ` for ${d.who}` : ', and does not say whose it is'}; nobody was given it here.`;
  return `${d.systemName} lends it ${day(d.until)}; here it is lent ${day(d.held)}.`;
}
const day = (of: string | null) => (of === null ? 'for good' : `until ${dateWords(of)}`);
/** Until when it is lent there, and here. */
export const lentWords = (d: Pick<Difference, 'until' | 'held'>): string => `${day(d.until)} there, ${day(d.held)} here`;

type How = (typeof settledHow)[number];
/** What can be decided of it: what it is called, what it does, and the words on the button. */
export function waysOf(d: Difference): { how: How; label: string; does: string; button: string }[] {
  const leave = {
    how: 'leave',
    label: 'Leave it as it is',
    does: 'Nothing changes. It is told of again only when it says something else.',
    button: 'Leave it as it is',
  } as const;
  if (d.is === 'missing')
    return [
      {
        how: 'end',
        label: 'It is gone',
        does: 'Nobody holds it here any more. Nothing is asked of the system.',
        button: `Take it off ${d.who ?? 'whoever holds it'}`,
      },
      leave,
    ];
  if (d.is === 'unknown')
    return [
      {
        how: 'takeOver',
        label: 'Take it over',
        does: 'Somebody holds it from now on, by a request in your name, and can give it back.',
        button: 'Take it over',
      },
      {
        how: 'takeBack',
        label: 'Take it back',
        does: `${d.systemName} takes it back. Whoever has it is told why.`,
        button: 'Take it back',
      },
      leave,
    ];
  return [
    {
      how: 'follow',
      label: `Lend it as ${d.systemName} does`,
      does: d.until === null ? 'It is lent for good.' : `It is lent until ${dateWords(d.until)} here, too.`,
      button: d.until === null ? 'Lend it for good' : `Lend it until ${dateWords(d.until)}`,
    },
    leave,
  ];
}

/** What became of it, in words. */
export const settledWords: Record<How, string> = {
  end: 'Taken off whoever held it',
  takeOver: 'Taken over',
  takeBack: 'Taken back',
  follow: 'Lent as the system does',
  leave: 'Left as it is',
};
