import { only, type Writer } from '../runtime/batch.ts';

/** What a plan tells somebody. */
export const tells: Writer = (_tx, _run, effects) =>
  Promise.resolve(
    only(effects, 'message').map((e) => ({ key: e.key, to: e.to, via: e.by ?? 'mail', content: { subject: e.subject, body: e.body } })),
  );
