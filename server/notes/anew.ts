/** The key of a call that makes the secrets anew of what was given under this one, the nth time. It is none of its run's: nothing of that moves. */
export const anewKey = (given: string, n: number): string => `anew:${given}~${n}`;

/** What the secrets were given with that a call makes anew; undefined of any other call. */
export const anewOf = (key: string): string | undefined => /^anew:(.*)~\d+$/.exec(key)?.[1];
