import { createHash, randomBytes, randomUUID } from 'node:crypto';
import express, { type Express } from 'express';
import { z } from 'zod';
import { guarded } from './guarded.ts';
import { keep } from './keep.ts';
import { mannered, mannerRoute, pause } from './manner.ts';
import { onceOnly, problem, refused, type Answered } from './once.ts';
import { robotsApi } from './robots-api.ts';
import { signedPost } from './signed-post.ts';

const ResetPassword = z.object({ account: z.email().max(200) });
/** What can be started, with the parameters that each wants. */
const robots = [
  { id: 'reset-password', does: 'Set a new password for an account', wants: ResetPassword, stages: ['Signing in', 'Setting the password'] },
];

interface Job {
  id: string;
  robot: string;
  account: string;
  at: number;
  readyAt: number;
  ends: Ends;
  /** What came of it; it stands in the answer only. */
  password: string;
}
/** How a job ends: well, never, with a failure; well and told twice. */
const Ends = z.enum(['well', 'never', 'failed', 'twice']);
type Ends = z.infer<typeof Ends>;

interface Kept {
  jobs: Record<string, Job>;
  answered: Record<string, Answered>;
  /** The passwords that accounts have, as their SHA-256. */
  accounts: Record<string, string>;
  journal: { at: string; change: string; id: string; account: string; key?: string }[];
}

/**
 * A desk of robots: jobs with named parameters, done one after another as a person would do them. JSON over HTTP, as `openapi.json`
 * describes it. A job is accepted at once and takes its time; it is asked about, or told where to post what came of it, signed
 * (HTTP Message Signatures, RFC 9421).
 */
export function robotDesk({ token, answerKey, file }: { token: string; answerKey: string; file?: string }): Express {
  const { data, save } = keep<Kept>(file, () => ({ jobs: {}, answered: {}, accounts: {}, journal: [] }));
  const manner = mannered();
  const work: { ms: number; ends: Ends } = { ms: 2000, ends: 'well' };
  const once = onceOnly(data.answered, save);
  const app = express();
  app.disable('x-powered-by');
  app.use(express.json({ limit: '100kb' }));
  app.all('/_manner', mannerRoute(manner));
  app.all('/_work', (req, res) => {
    const wanted = z.object({ ms: z.number().int().min(0).max(3_600_000), ends: Ends }).safeParse(req.method === 'POST' ? req.body : work);
    if (!wanted.success) return void res.status(400).json({ error: 'Say {"ms": 2000, "ends": "well" | "never" | "failed" | "twice"}.' });
    res.json(Object.assign(work, wanted.data));
  });
  /** Whatever runs, and would for ever, is done now. */
  app.post('/_hurry', (_req, res) => {
    for (const job of Object.values(data.jobs)) {
      if (shown(job).state !== 'running') continue;
      Object.assign(job, { ends: 'well', readyAt: Date.now() });
      finish(job, undefined);
    }
    save();
    res.json({ done: true });
  });
  app.get('/_journal', (_req, res) => void res.json(data.journal));
  /** Whether this is the password that an account has now. */
  app.post('/_opens', (req, res) => {
    const asked = z.object({ account: z.string(), password: z.string() }).safeParse(req.body);
    res.json({ opens: asked.success && data.accounts[asked.data.account] === hashed(asked.data.password) });
  });
  app.get(
    '/openapi.json',
    (_req, res) => void res.json(robotsApi(robots.map(({ id, does, wants }) => ({ id, does, parameters: z.toJSONSchema(wants) })))),
  );

  app.use(
    '/desk',
    guarded(manner, token, {
      failing: 'The robots rest.',
      refusing: 'The robots refuse this.',
      poison: '{"id":"\\u0000","state":{"x":[]},"result":"\\ud800"}',
    }),
  );
  app.post('/desk/robots/:robot/jobs', (req, res) =>
    once(req, res, (key) => {
      const robot = robots.find((r) => r.id === req.params.robot);
      if (!robot) return refused(404, 'There is no such robot.');
      const wanted = robot.wants.safeParse(req.body);
      if (!wanted.success) return refused(422, wanted.error.issues.map((i) => `${i.path.join('.')}: ${i.message}`).join('; '));
      const at = Date.now();
      const job: Job = {
        id: `j-${randomUUID().slice(0, 8)}`,
        robot: robot.id,
        account: wanted.data.account,
        at,
        readyAt: at + work.ms,
        ends: work.ends,
        password: randomBytes(9).toString('base64url'),
      };
      data.jobs[job.id] = job;
      note('started', job, key);
      setTimeout(() => finish(job, req.get('nessmoor-answer-to')), work.ms).unref();
      return { status: 202, body: shown(job) };
    }),
  );
  app.get('/desk/jobs/:id', (req, res) => {
    const found = data.jobs[req.params.id];
    if (!found) return problem(res, 404, 'There is no such job.');
    finish(found, undefined);
    const answer = shown(found);
    res.status(answer.state === 'done' || answer.state === 'failed' ? 200 : 202).json(answer);
  });

  function shown(job: Job) {
    const share = Math.min(1, (Date.now() - job.at) / Math.max(1, job.readyAt - job.at));
    const { stages } = robots.find((r) => r.id === job.robot)!;
    const { id, robot } = job;
    if (job.ends === 'never' || share < 1)
      return { id, robot, state: 'running' as const, progress: stages[Math.min(stages.length - 1, Math.floor(share * stages.length))] };
    if (job.ends === 'failed') return { id, robot, state: 'failed' as const, cause: 'The account is locked' };
    return { id, robot, state: 'done' as const, result: { password: job.password } };
  }
  /** What it came to do is done, once, and whoever wants to be told is. */
  function finish(job: Job, tell: string | undefined): void {
    const stands = shown(job);
    if (stands.state === 'running') return;
    if (
      stands.state === 'done' &&
      data.accounts[job.account] !== hashed(job.password) &&
      !data.journal.some((j) => j.id === job.id && j.change === 'done')
    ) {
      data.accounts[job.account] = hashed(job.password);
      note('done', job, undefined);
    }
    if (tell !== undefined) void post(tell, job, 8);
  }
  async function post(to: string, job: Job, left: number): Promise<void> {
    let went = true;
    for (let i = 0; i < (job.ends === 'twice' ? 2 : 1); i++) went = (await signedPost(to, shown(job), answerKey, 'robots')) && went;
    if (went || left === 0) return;
    await pause(1000);
    return post(to, job, left - 1);
  }
  function note(change: string, job: Job, key: string | undefined): void {
    data.journal.push({ at: new Date().toISOString(), change, id: job.id, account: job.account, ...(key && { key }) });
    save();
  }
  return app;
}

const hashed = (password: string): string => createHash('sha256').update(password).digest('hex');
