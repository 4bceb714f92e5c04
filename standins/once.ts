import type { Request, Response } from 'express';

/** What a stand-in answers to a call that changes something. */
export interface Answered {
  status: number;
  body: object;
}
export const refused = (status: number, detail: string): Answered => ({ status, body: { status, title: 'Refused', detail } });
export const problem = (res: Response, status: number, detail: string): void =>
  void res
    .status(status)
    .type('application/problem+json')
    .send(JSON.stringify(refused(status, detail).body));

/** A repeated call gets the answer it got, and changes nothing (Idempotency-Key). `before`: what was answered, by key. */
export const onceOnly =
  (before: Record<string, Answered>, save: () => void) =>
  (req: Request, res: Response, act: (key: string | undefined) => Answered): void => {
    const key = req.get('idempotency-key');
    const known = key === undefined ? undefined : before[key];
    const { status, body } = known ?? act(key);
    if (key !== undefined && !known && status < 400) {
      before[key] = { status, body };
      save();
    }
    res.status(status);
    if (status >= 400) res.type('application/problem+json');
    if (status === 202) res.set('retry-after', '1');
    res.send(JSON.stringify(body));
  };
