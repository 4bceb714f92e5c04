import type { RequestHandler } from 'express';
import { pause, type Mannered } from './manner.ts';
import { problem } from './once.ts';

/** What stands before all that a stand-in answers: its manner at present, and the bearer token it wants. `poison`: what nobody can keep. */
export const guarded =
  (manner: Mannered, token: string, says: { failing: string; refusing: string; poison: string }): RequestHandler =>
  async (req, res, next) => {
    if (manner.now.manner === 'slow') await pause(manner.now.delayMs);
    if (manner.now.manner === 'failing') return problem(res, 503, says.failing);
    if (manner.now.manner === 'refusing') return problem(res, 403, says.refusing);
    if (manner.now.manner === 'poisonous') return void res.type('application/json').send(says.poison);
    if (req.headers.authorization !== `Bearer ${token}`) return problem(res, 401, 'The bearer token is missing or wrong.');
    next();
  };
