import express, { type Express, type Request } from 'express';
import { z } from 'zod';
import { guarded } from './guarded.ts';
import { keep } from './keep.ts';
import { mannered, mannerRoute } from './manner.ts';
import { onceOnly, problem, refused, type Answered } from './once.ts';
import { paged } from './paged.ts';
import { spacesApi } from './spaces-api.ts';

/** What a space can begin with. */
const templates = [
  { id: 'empty', name: 'Empty', about: 'Nothing but a notice of who owns it.' },
  { id: 'survey', name: 'Survey', about: 'Folders for lines, soundings, tides and the report.' },
  { id: 'chart', name: 'Chart', about: 'Folders for sources, drafts, proofs and the release.' },
];
/** Fewer owners than this no open space has. */
const leastOwners = 2;
const day = 86_400_000;

const Seen = z.enum(['members', 'everyone']);
const Wanted = z.object({
  name: z.string().regex(/^[a-z0-9-]{3,30}$/),
  template: z.enum(templates.map((t) => t.id)),
  seen: Seen,
  purpose: z.string().max(4000),
});
interface Space extends z.infer<typeof Wanted> {
  state: 'prepared' | 'open' | 'closed';
  /** Who owns it, as whoever asked calls them; the first came first. */
  owners: string[];
  madeAt: number;
  usedAt: number;
}
interface Kept {
  spaces: Record<string, Space>;
  answered: Record<string, Answered>;
  journal: { at: string; change: string; space: string; owner?: string; key?: string }[];
}

/**
 * Project spaces: shared places for files, each with a name of its own, from a template, read by its members or by everyone. One is prepared
 * first; it opens with two owners, and keeps two while it is open. JSON over HTTP, as `openapi.json` describes it.
 */
export function projectSpaces({ token, file }: { token: string; file?: string }): Express {
  const { data, save } = keep<Kept>(file, () => ({ spaces: {}, answered: {}, journal: [] }));
  const manner = mannered();
  const once = onceOnly(data.answered, save);
  const app = express();
  app.disable('x-powered-by');
  app.use(express.json({ limit: '100kb' }));
  app.all('/_manner', mannerRoute(manner));
  /** Somebody used it last so many days ago; or it is gone, without anybody here having asked for it. */
  app.post('/_use/:name', (req, res) => {
    const wanted = z.object({ daysAgo: z.number().int().min(0).max(4000) }).safeParse(req.body);
    const found = data.spaces[req.params.name];
    if (!wanted.success || !found) return void res.status(400).json({ error: 'Say {"daysAgo": 100} of a space that there is.' });
    found.usedAt = Date.now() - wanted.data.daysAgo * day;
    save();
    res.json(shown(found));
  });
  app.get('/_journal', (_req, res) => void res.json(data.journal));
  app.get('/_spaces', (_req, res) => void res.json(Object.values(data.spaces)));
  app.get('/openapi.json', (_req, res) => void res.json(spacesApi(templates.map((t) => t.id))));

  app.use(
    '/house',
    guarded(manner, token, {
      failing: 'The spaces are closed for the moment.',
      refusing: 'The spaces refuse this.',
      poison: '{"name":"\\u0000","state":{"x":[]},"taken":"\\ud800"}',
    }),
  );
  app.get('/house/names/:name', (req, res) => {
    const name = req.params.name.toLowerCase();
    res.json({ name, taken: data.spaces[name] !== undefined });
  });
  app.get('/house/templates', (_req, res) => void res.json({ templates }));
  app.get('/house/spaces', (req, res) => {
    const open = Object.values(data.spaces).filter((s) => s.state === 'open');
    res.json(paged(req, 'spaces', open.map(shown), (s) => s.name));
  });
  app.get('/house/owners', (req, res) => {
    const all = Object.values(data.spaces).flatMap((s) => s.owners.map((owner) => ({ id: `${s.name} ${owner}`, space: s.name, owner })));
    res.json(paged(req, 'owners', all, (o) => o.id));
  });
  app.post('/house/spaces', (req, res) =>
    once(req, res, (key) => {
      const wanted = Wanted.safeParse(req.body);
      if (!wanted.success) return refused(422, wanted.error.issues.map((i) => `${i.path.join('.')}: ${i.message}`).join('; '));
      const { name } = wanted.data;
      if (data.spaces[name]) return refused(409, `There is a space called ${name}.`);
      const now = Date.now();
      const made: Space = { ...wanted.data, state: 'prepared', owners: [], madeAt: now, usedAt: now };
      data.spaces[name] = made;
      note('prepared', made, key);
      return { status: 201, body: shown(made) };
    }),
  );
  app.get('/house/spaces/:name', (req, res) => {
    const found = data.spaces[req.params.name];
    if (!found) return problem(res, 404, 'There is no such space.');
    res.json(shown(found));
  });
  const acts = (act: (space: Space, req: Request, key: string | undefined) => Answered | undefined) => (req: Request, res: express.Response) =>
    once(req, res, (key) => {
      const found = data.spaces[String(req.params['name'])];
      if (!found) return refused(404, 'There is no such space.');
      return act(found, req, key) ?? { status: 200, body: shown(found) };
    });
  app.patch(
    '/house/spaces/:name',
    acts((space, req, key) => {
      const wanted = z.object({ seen: Seen }).safeParse(req.body);
      if (!wanted.success) return refused(422, 'A space is read by its members or by everyone.');
      if (space.seen !== wanted.data.seen) note(`read by ${wanted.data.seen}`, Object.assign(space, wanted.data), key);
      return undefined;
    }),
  );
  app.post(
    '/house/spaces/:name/open',
    acts((space, _req, key) => {
      if (space.owners.length < leastOwners) return refused(409, `A space opens with two owners; ${space.name} has ${space.owners.length}.`);
      if (space.state !== 'open') note('opened', Object.assign(space, { state: 'open' as const, usedAt: Date.now() }), key);
      return undefined;
    }),
  );
  app.post(
    '/house/spaces/:name/close',
    acts((space, _req, key) => {
      if (space.state === 'open') note('closed', Object.assign(space, { state: 'closed' as const }), key);
      return undefined;
    }),
  );
  app.put(
    '/house/spaces/:name/owners/:owner',
    acts((space, req, key) => {
      const owner = String(req.params['owner']);
      if (space.state === 'closed') return refused(409, `${space.name} is closed.`);
      if (!space.owners.includes(owner)) {
        space.owners.push(owner);
        note('owner added', space, key, owner);
      }
      return undefined;
    }),
  );
  app.delete(
    '/house/spaces/:name/owners/:owner',
    acts((space, req, key) => {
      const owner = String(req.params['owner']);
      if (!space.owners.includes(owner)) return undefined;
      if (space.state === 'open' && space.owners.length <= leastOwners)
        return refused(409, `${space.name} is open and has ${space.owners.length} owners: it keeps two. Name another first, or close it`);
      space.owners = space.owners.filter((o) => o !== owner);
      note('owner taken off', space, key, owner);
      return undefined;
    }),
  );
  app.delete(
    '/house/spaces/:name',
    acts((space, _req, key) => {
      if (space.state === 'open') return refused(409, `${space.name} is open. Close it first.`);
      delete data.spaces[space.name];
      note('removed', space, key);
      return undefined;
    }),
  );

  function shown(s: Space) {
    const { name, template, seen, purpose, state, owners } = s;
    return {
      name,
      address: `https://spaces.skerrin.example/${name}`,
      template,
      seen,
      purpose,
      state,
      owners: owners.length,
      ...(owners[0] !== undefined && { firstOwner: owners[0] }),
      idleDays: Math.floor((Date.now() - s.usedAt) / day),
    };
  }
  function note(change: string, space: Space, key: string | undefined, owner?: string): void {
    data.journal.push({ at: new Date().toISOString(), change, space: space.name, ...(owner && { owner }), ...(key && { key }) });
    save();
  }
  return app;
}
