import { only, type Writer } from '../runtime/batch.ts';

/** What a plan tells somebody. */
export const tells: Writer = (_tx, batches) =>
  Promise.resolve(
    only(batches, 'message').map((e) => ({
      run: e.run,
      key: e.key,
      to: e.to,
      via: e.by ?? 'mail',
      content: { subject: e.subject, body: e.body },
      ...(e.files && { files: e.files }),
    })),
  );
