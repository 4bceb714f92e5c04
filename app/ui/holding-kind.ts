interface Words {
  name: string;
  /** What its last day is called. */
  until: string;
  /** To let go of it oneself, to have somebody let go of it, and while that goes on. */
  back: { mine: string; theirs: string; under: { mine: string; theirs: string } };
  /** The same with what it is called. */
  backOf: { mine: string; theirs: string };
}
const thing = (name: string): Words => ({
  name,
  until: 'lent until',
  back: { mine: 'Give it back', theirs: 'Take it back', under: { mine: 'Being given back', theirs: 'Being taken back' } },
  backOf: { mine: 'Give back', theirs: 'Take back' },
});
/** What kinds of things people hold are called, and what letting go of them is. */
const kinds: Record<string, Words> = {
  group: thing('Group access'),
  machine: thing('Machine'),
  licence: thing('Licence'),
  account: {
    name: 'Account',
    until: 'open until',
    back: { mine: 'Close it', theirs: 'Close it', under: { mine: 'Being closed', theirs: 'Being closed' } },
    backOf: { mine: 'Close the account', theirs: 'Close the account' },
  },
  // Somebody answers for them, and has not been lent them.
  guest: {
    name: 'Guest',
    until: 'until',
    back: { mine: 'Send them home', theirs: 'Send them home', under: { mine: 'Being sent home', theirs: 'Being sent home' } },
    backOf: { mine: 'Send home', theirs: 'Send home' },
  },
};
export const wordsOfThing = (kind: string): Words => kinds[kind] ?? thing(kind.charAt(0).toUpperCase() + kind.slice(1));
