import { hash, verify } from '@node-rs/argon2';
import { newToken } from './token.ts';

/** Shortest and longest password. Source: NIST SP 800-63B, section 5.1.1.2 (at least 8; at least 64 must be allowed). */
export const passwordLength = { min: 8, max: 128 };

// argon2id is the library's default; the settings are OWASP's first (19 MiB, two passes), from memory.
const hashing = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };
export const hashPassword = (password: string): Promise<string> => hash(password, hashing);

/** Verified against when nobody has that name, so that the time taken tells nothing. */
let nobody: Promise<string> | undefined;
/** Whether a password is the one kept; without one kept it takes as long, and is not. */
export async function isRight(kept: string | null | undefined, password: string): Promise<boolean> {
  const right = await verify(kept ?? (await (nobody ??= hashPassword(newToken()))), password);
  return right && typeof kept === 'string';
}

let guesser: Promise<{ check: (password: string, more: string[]) => { score: number } }> | undefined;
async function makeGuesser() {
  const [{ ZxcvbnFactory }, common] = await Promise.all([import('@zxcvbn-ts/core'), import('@zxcvbn-ts/language-common')]);
  return new ZxcvbnFactory({ dictionary: common.dictionary, graphs: common.adjacencyGraphs });
}

/**
 * Why a password will not do; undefined when it will. Refused are those that are too short or long, and those that are
 * commonly used or made of the person's own name, which are guessed first (NIST SP 800-63B, 5.1.1.2); no rules of
 * composition.
 */
export async function weakness(password: string, about: string[]): Promise<string | undefined> {
  const length = [...password].length;
  if (length < passwordLength.min || length > passwordLength.max) return `A password has ${passwordLength.min} to ${passwordLength.max} characters.`;
  const own = [...about.flatMap((a) => a.toLowerCase().split(/[\s@.]+/)), 'nessmoor'].filter((word) => word.length > 2);
  // What is left when one's own names are taken out has to be something by itself.
  const rest = own.reduce((left, word) => left.replaceAll(word, ''), password.toLowerCase()).replace(/[^\p{L}\p{N}]/gu, '');
  const { score } = (await (guesser ??= makeGuesser())).check(password, own);
  return score < 2 || [...rest].length < 4
    ? 'This password is among the first that are guessed. Choose another; a few words that do not belong together are good.'
    : undefined;
}
