import { randomBytes, randomUUID } from 'node:crypto';
import express, { type Express, type Request } from 'express';
import { z } from 'zod';
import { guarded } from './guarded.ts';
import { keep } from './keep.ts';
import { mannered, mannerRoute, pause } from './manner.ts';
import { machinesApi } from './machines-api.ts';
import { onceOnly, problem, refused } from './once.ts';
import { paged } from './paged.ts';
import { signedPost } from './signed-post.ts';

/** The sizes there are at first, what a day of each costs in euro, where each runs, and for how many days one is lent at first at most. */
const shippedSizes = [
  { id: 'Small', processors: 1, memoryGb: 4, dayEur: '0.00', region: 'hall', mostDays: 180 },
  { id: 'Medium', processors: 2, memoryGb: 16, dayEur: '1.60', region: 'hall', mostDays: 180 },
  { id: 'Large', processors: 4, memoryGb: 32, dayEur: '3.20', region: 'hall', mostDays: 120 },
  { id: 'Large, much memory', processors: 4, memoryGb: 128, dayEur: '5.75', region: 'lunnick', mostDays: 90 },
  { id: 'Very large', processors: 16, memoryGb: 128, dayEur: '12.80', region: 'lunnick', mostDays: 60 },
];
const images = [
  { id: 'tide-models', name: 'Tide models' },
  { id: 'plain', name: 'Plain' },
];
/** How many processors a region has to give. */
const regions = [
  { id: 'hall', name: 'Machine hall at Quay House', processors: 400, network: 'science' },
  { id: 'lunnick', name: 'Lunnick Station', processors: 160, network: 'station' },
];
const longestLease = 180;
const newSignIn = () => randomBytes(12).toString('base64url');
const stages = ['Finding room for it', 'Copying the image', 'Starting it', 'Waiting for its first sign of life'];

const Size = z.object({
  id: z.string().min(1).max(80),
  processors: z.number().int().min(1).max(400),
  memoryGb: z.number().min(1).max(10_000),
  dayEur: z.string().regex(/^\d{1,6}\.\d\d$/),
  region: z.enum(regions.map((r) => r.id)),
  mostDays: z.number().int().min(1).max(longestLease).default(longestLease),
});
const Wanted = z.object({
  size: z.string().max(80),
  region: z.enum(regions.map((r) => r.id)),
  image: z.enum(images.map((i) => i.id)).default('plain'),
  days: z.number().int().min(1).max(longestLease),
  owner: z.string().max(200).optional(),
  purpose: z.string().max(4000).optional(),
  costCentre: z.string().max(40).optional(),
});
interface Machine extends z.infer<typeof Wanted> {
  id: string;
  processors: number;
  at: number;
  /** When what is under way is over. */
  readyAt: number;
  ends: Ends;
  /** When it was asked to be taken down. */
  downAt?: number;
  /** It stands still, and keeps its place. */
  stopped?: boolean;
  /** It is to have another size, or had one: the last time. */
  resize?: { size: string; processors: number; at: number; readyAt: number; ends: Ends };
  /** It is gone without anybody here having asked for it. */
  lost?: boolean;
  /** With what its owner signs in to it. */
  signIn: string;
}
/** How building ends: well, never, half way with a failure; well and told twice. */
const Ends = z.enum(['well', 'never', 'halfway', 'twice']);
type Ends = z.infer<typeof Ends>;

interface Kept {
  sizes: z.infer<typeof Size>[];
  machines: Record<string, Machine>;
  answered: Record<string, { status: number; body: object }>;
  journal: { at: string; change: string; id: string; key?: string }[];
  /** Whom to tell once a machine is ready or down. */
  tells: { machine: string; to: string; left: number }[];
}

/**
 * A machine park: machines of given sizes in given regions, lent for days. JSON over HTTP, as `openapi.json` describes it. Making one and
 * taking one down are accepted at once and take their time; it is asked, or told where to post that it is done, signed
 * (HTTP Message Signatures, RFC 9421).
 */
export function machines({ token, answerKey, file }: { token: string; answerKey: string; file?: string }): Express {
  const { data, save } = keep<Kept>(file, () => ({ sizes: shippedSizes, machines: {}, answered: {}, journal: [], tells: [] }));
  const manner = mannered();
  const build: { ms: number; ends: Ends } = { ms: 4000, ends: 'well' };
  const once = onceOnly(data.answered, save);
  const app = express();
  app.disable('x-powered-by');
  app.use(express.json({ limit: '100kb' }));
  app.all('/_manner', mannerRoute(manner));
  app.all('/_build', (req, res) => {
    const wanted = z.object({ ms: z.number().int().min(0).max(3_600_000), ends: Ends }).safeParse(req.method === 'POST' ? req.body : build);
    if (!wanted.success) return void res.status(400).json({ error: 'Say {"ms": 4000, "ends": "well" | "never" | "halfway" | "twice"}.' });
    res.json(Object.assign(build, wanted.data));
  });
  app.get('/_journal', (_req, res) => void res.json(data.journal));
  /** Somebody pulls the plug: what is there is gone. */
  app.post('/_lose/:id', (req, res) => {
    const found = data.machines[req.params.id];
    if (found) found.lost = true;
    save();
    res.json({ lost: found !== undefined });
  });
  /** Somebody gives it a push: what was to be built, or to get another size, is ready now. */
  app.post('/_hurry/:id', (req, res) => {
    const { id } = req.params;
    const wanted = Object.values(data.machines).filter((m) => (m.id === id || id === 'all') && standing(m).state === 'building');
    for (const m of wanted) Object.assign(m, { readyAt: Date.now(), ends: 'well' });
    for (const m of Object.values(data.machines))
      if (m.resize && (m.id === id || id === 'all') && sizing(m)?.state === 'resizing')
        Object.assign(m.resize, { readyAt: Date.now(), ends: 'well' });
    save();
    res.json({ hurried: wanted.length });
  });
  /** The park has other sizes from now on. */
  app.post('/_sizes', (req, res) => {
    const wanted = z.array(Size).min(1).max(100).safeParse(req.body);
    if (!wanted.success) return void res.status(400).json({ error: 'Say [{"id", "processors", "memoryGb", "dayEur", "region"}].' });
    data.sizes = wanted.data;
    save();
    res.json({ sizes: data.sizes });
  });
  app.get('/openapi.json', (_req, res) => void res.json(machinesApi({ sizes: data.sizes, images, regions, longestLease })));

  app.use(
    '/park',
    guarded(manner, token, {
      failing: 'The park is down.',
      refusing: 'The park refuses this.',
      poison: '{"id":"\\u0000","state":{"x":[]},"detail":"\\ud800"}',
    }),
  );
  app.get('/park/sizes', (_req, res) => void res.json({ sizes: data.sizes }));
  app.get('/park/images', (_req, res) => void res.json({ images }));
  app.get('/park/regions', (_req, res) => void res.json({ regions }));
  /** A page of them, in order of what they are called; `next` is the path of the page after it. */
  app.get('/park/machines', (req, res) => {
    const there = Object.values(data.machines).filter((m) => !['deleted', 'failed'].includes(standing(m).state));
    res.json(paged(req, 'machines', there, (m) => m.id, shown));
  });
  app.post('/park/machines', (req, res) =>
    once(req, res, (key) => {
      const wanted = Wanted.safeParse(req.body);
      if (!wanted.success) return refused(422, wanted.error.issues.map((i) => `${i.path.join('.')}: ${i.message}`).join('; '));
      const size = data.sizes.find((s) => s.id === wanted.data.size);
      if (!size) return refused(422, `size: there is no “${wanted.data.size}”.`);
      const region = regions.find((r) => r.id === wanted.data.region)!;
      const full = tooMuch(region, size.processors);
      if (full) return refused(409, full);
      if (wanted.data.days > size.mostDays) return refused(422, `days: ${size.id} is lent for ${size.mostDays} days at most.`);
      const at = Date.now();
      const made: Machine = {
        ...wanted.data,
        processors: size.processors,
        id: `m-${randomUUID().slice(0, 8)}`,
        at,
        readyAt: at + build.ms,
        ends: build.ends,
        signIn: newSignIn(),
      };
      data.machines[made.id] = made;
      note('made', made.id, key);
      tellLater(req, made);
      return { status: 202, body: shown(made) };
    }),
  );
  app.get('/park/machines/:id', (req, res) => {
    const found = data.machines[req.params.id];
    if (!found || found.lost) return problem(res, 404, 'There is no such machine.');
    const { state } = standing(found);
    res.status(state === 'building' || state === 'going' ? 202 : 200).json(shown(found));
  });
  app.patch('/park/machines/:id', (req, res) =>
    once(req, res, (key) => {
      const found = there(req);
      const wanted = z.object({ days: z.number().int().min(1).max(longestLease) }).safeParse(req.body);
      if (!found) return refused(404, 'There is no such machine.');
      if (!wanted.success) return refused(422, `A machine is lent for 1 to ${longestLease} days.`);
      found.days = wanted.data.days;
      note('extended', found.id, key);
      return { status: 200, body: shown(found) };
    }),
  );
  app.post('/park/machines/:id/sign-in', (req, res) =>
    once(req, res, (key) => {
      const found = data.machines[String(req.params['id'])];
      if (!found || standing(found).state !== 'running') return refused(404, 'There is no such machine that runs.');
      found.signIn = newSignIn();
      note('sign-in made anew', found.id, key);
      return { status: 200, body: shown(found) };
    }),
  );
  for (const [what, stopped] of [
    ['stop', true],
    ['start', false],
  ] as const)
    app.post(`/park/machines/:id/${what}`, (req, res) =>
      once(req, res, (key) => {
        const found = there(req);
        if (!found) return refused(404, 'There is no such machine.');
        if ((found.stopped ?? false) !== stopped) {
          found.stopped = stopped;
          note(stopped ? 'stopped' : 'started', found.id, key);
        }
        return { status: 200, body: shown(found) };
      }),
    );
  app.post('/park/machines/:id/size', (req, res) =>
    once(req, res, (key) => {
      const found = there(req);
      const wanted = z.object({ size: z.string().max(80) }).safeParse(req.body);
      const size = wanted.success ? data.sizes.find((s) => s.id === wanted.data.size) : undefined;
      if (!found) return refused(404, 'There is no such machine.');
      const region = regions.find((r) => r.id === found.region)!;
      if (!size) return refused(422, 'size: there is no such size.');
      if (size.region !== region.id) return refused(422, `size: there is no “${size.id}” in ${region.name}.`);
      if (sizing(found)?.state === 'resizing') return refused(409, 'It is just getting another size.');
      const full = tooMuch(region, size.processors - found.processors);
      if (full) return refused(409, full);
      const at = Date.now();
      found.resize = { size: size.id, processors: size.processors, at, readyAt: at + build.ms, ends: build.ends };
      note('asked to resize', found.id, key);
      return { status: 202, body: sizing(found)! };
    }),
  );
  app.get('/park/machines/:id/size', (req, res) => {
    const found = there(req);
    const stands = found && sizing(found);
    if (!stands) return problem(res, 404, 'There is no such machine, or it never got another size.');
    res.status(stands.state === 'resizing' ? 202 : 200).json(stands);
  });
  app.delete('/park/machines/:id', (req, res) =>
    once(req, res, (key) => {
      const found = data.machines[String(req.params['id'])];
      // What is gone is gone: whoever wants it gone has what they want.
      if (!found) return refused(404, 'There is no such machine.');
      if (found.downAt === undefined) {
        found.downAt = Date.now();
        note('taken down', found.id, key);
        tellLater(req, found);
      }
      return { status: 202, body: shown(found) };
    }),
  );

  /** Why so many more processors are not to be had of a region. */
  function tooMuch(region: (typeof regions)[number], wants: number): string | undefined {
    const used = Object.values(data.machines)
      .filter((m) => m.region === region.id && !['deleted', 'failed'].includes(standing(m).state))
      .reduce((n, m) => n + Math.max(m.processors, m.resize?.processors ?? 0), 0);
    if (used + wants <= region.processors) return undefined;
    return `${region.name} has ${region.processors - used} of its ${region.processors} processors left, and ${wants} are wanted.`;
  }
  /** The machine a path names, where it runs or stands still. */
  function there(req: Request): Machine | undefined {
    const found = data.machines[String(req.params['id'])];
    return found && ['running', 'stopped'].includes(standing(found).state) ? found : undefined;
  }
  /** How far a machine has come with its other size, which it has from then on. */
  function sizing(m: Machine): { id: string; state: 'resizing' | 'resized' | 'failed'; size: string; progress?: string; cause?: string } | undefined {
    const { resize } = m;
    if (!resize) return undefined;
    const over = resize.ends !== 'never' && Date.now() >= resize.readyAt;
    if (over && resize.ends === 'halfway') {
      resize.processors = 0;
      return { id: m.id, state: 'failed', size: m.size, cause: 'It did not start with the other size, and has the one it had' };
    }
    if (over && m.size !== resize.size) {
      Object.assign(m, { size: resize.size, processors: resize.processors });
      note('resized', m.id, undefined);
    }
    return over ? { id: m.id, state: 'resized', size: m.size } : { id: m.id, state: 'resizing', size: m.size, progress: 'Moving it to more room' };
  }
  function standing(m: Machine): { state: 'building' | 'running' | 'stopped' | 'failed' | 'going' | 'deleted'; progress?: string; cause?: string } {
    const now = Date.now();
    if (m.lost) return { state: 'deleted' };
    if (m.downAt !== undefined) return now < m.downAt + build.ms / 2 ? { state: 'going', progress: 'Taking it down' } : { state: 'deleted' };
    const share = now >= m.readyAt ? 1 : (now - m.at) / (m.readyAt - m.at);
    const stage = stages[Math.min(stages.length - 1, Math.floor(share * stages.length))]!;
    if (m.ends === 'never') return { state: 'building', progress: stage };
    if (m.ends === 'halfway' && share >= 0.5) return { state: 'failed', cause: 'The image could not be copied' };
    return share < 1 ? { state: 'building', progress: stage } : { state: m.stopped ? 'stopped' : 'running' };
  }

  const shown = (m: Machine) => {
    const stands = standing(m);
    sizing(m);
    return {
      id: m.id,
      size: m.size,
      region: m.region,
      ...(m.owner !== undefined && { owner: m.owner }),
      ...stands,
      days: m.days,
      until: new Date(m.readyAt + m.days * 86_400_000).toISOString().slice(0, 10),
      ...(['running', 'stopped'].includes(stands.state) && {
        address: `${m.id}.${regions.find((r) => r.id === m.region)!.network}.skerrin.example`,
        signIn: m.signIn,
      }),
    };
  };

  function note(change: string, id: string, key: string | undefined): void {
    data.journal.push({ at: new Date().toISOString(), change, id, ...(key && { key }) });
    save();
  }

  // Telling whoever wants to be told

  function tellLater(req: Request, m: Machine): void {
    const to = req.get('nessmoor-answer-to');
    // What is over at once was answered at once.
    if (!to || !['building', 'going'].includes(standing(m).state)) return;
    const tell = { machine: m.id, to, left: 8 };
    data.tells.push(tell);
    save();
    watch(tell);
  }
  function watch(tell: Kept['tells'][number]): void {
    const m = data.machines[tell.machine];
    if (!m) return;
    const stands = standing(m);
    const over = ['running', 'failed', 'deleted'].includes(stands.state);
    setTimeout(() => void (over ? post(tell, m) : watch(tell)), over ? 0 : Math.max(20, Math.min(500, build.ms / 4))).unref();
  }
  async function post(tell: Kept['tells'][number], m: Machine): Promise<void> {
    const times = m.ends === 'twice' ? 2 : 1;
    let went = true;
    for (let i = 0; i < times; i++) went = (await signedPost(tell.to, shown(m), answerKey, 'machine-park')) && went;
    if (!went && --tell.left > 0) {
      await pause(1000);
      return post(tell, m);
    }
    data.tells = data.tells.filter((t) => t !== tell);
    save();
  }
  for (const tell of data.tells) watch(tell);
  return app;
}
