import { randomInt } from 'node:crypto';
import { z } from 'zod';
import type { ActionSpec } from '../../core/plans/index.ts';
import { seal, unseal } from '../auth/seal.ts';

/** A secret, and what it is called for whoever reads it. It is never written anywhere but sealed. */
export interface Secret {
  label: string;
  value: string;
}

/** No letter that is taken for another. */
const letters = 'abcdefghjkmnpqrstuvwxyz23456789';

/** A secret to be typed: four groups of four, each of 31 signs: 79 bits. */
const newSecret = (): string =>
  Array.from({ length: 4 }, () => Array.from({ length: 4 }, () => letters[randomInt(letters.length)]!).join('')).join('-');

const Made = z.record(z.string(), z.object({ label: z.string(), value: z.string() }));

/** The secrets that this action wants made for a call, sealed; undefined where it wants none. */
export function madeFor(spec: ActionSpec | undefined): string | undefined {
  const made = (spec?.inputs ?? []).filter((i) => i.made).map(({ name, label }) => [name, { label, value: newSecret() }] as const);
  return made.length > 0 ? seal(JSON.stringify(Object.fromEntries(made))) : undefined;
}

/** The secrets that were made for a call, by the names of its inputs. */
export const madeIn = (sealedMade: string | null): Record<string, Secret> => (sealedMade === null ? {} : Made.parse(JSON.parse(unseal(sealedMade))));
