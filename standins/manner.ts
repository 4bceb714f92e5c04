import type { RequestHandler } from 'express';
import { z } from 'zod';

/**
 * How a stand-in behaves at present (poisonous: it answers what nobody can keep; forgetful: the directory keeps no keys, and does what is
 * sent again once more); tests tell it over `POST /_manner`.
 */
export const Manner = z.object({
  manner: z.enum(['well', 'slow', 'failing', 'refusing', 'poisonous', 'forgetful']),
  /** Of slow: how long each answer takes. */
  delayMs: z.number().int().min(0).max(60_000).default(3000),
});
export type Manner = z.infer<typeof Manner>;

export interface Mannered {
  now: Manner;
}
export const mannered = (): Mannered => ({ now: { manner: 'well', delayMs: 0 } });

/** Sets and shows the manner. */
export function mannerRoute(state: Mannered): RequestHandler {
  return (req, res) => {
    if (req.method === 'POST') {
      const wanted = Manner.safeParse(req.body);
      if (!wanted.success) {
        res.status(400).json({ error: 'Say {"manner": "well" | "slow" | "failing" | "refusing" | "poisonous" | "forgetful"}.' });
        return;
      }
      state.now = wanted.data;
    }
    res.json(state.now);
  };
}

export const pause = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
