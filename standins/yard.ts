import express, { type Express, type Request, type Response } from 'express';
import { z } from 'zod';
import { guarded } from './guarded.ts';
import { keep } from './keep.ts';
import { mannered, mannerRoute, pause } from './manner.ts';
import { onceOnly, problem, refused, type Answered } from './once.ts';
import { escape, page } from './page.ts';
import { signedPost } from './signed-post.ts';
import { yardApi } from './yard-api.ts';

/** So many comments stand on a page of a list. */
const pageSize = 50;

const states = ['new', 'looked at', 'in work', 'done', 'turned down', 'called off'] as const;
const ended: readonly string[] = ['done', 'turned down', 'called off'];
const Wanted = z.object({
  title: z.string().trim().min(1).max(200),
  text: z.string().max(8000),
  vessel: z.string().trim().min(1).max(60),
  reference: z.string().max(60).optional(),
});
const Said = z.object({ text: z.string().trim().min(1).max(8000), by: z.string().trim().min(1).max(120) });
/** What its people do with an item. */
const Moved = z.object({ state: z.enum(states), says: z.string().max(400).default('') });

interface Item extends z.infer<typeof Wanted> {
  item: string;
  state: (typeof states)[number];
  /** What is going on, or in the end what was done, or why not. */
  says: string;
  comments: { id: number; at: string; by: string; text: string }[];
  tell?: string | undefined;
}
/** How it takes a comment: it answers; its answer is lost; its answer is lost, and it would take it a second time. */
const Hears = z.enum(['well', 'unheard', 'forgetful']);

interface Kept {
  items: Record<string, Item>;
  answered: Record<string, Answered>;
  journal: { at: string; change: string; item: string; comment?: number; key?: string }[];
}

/**
 * The tracker of a yard that looks after vessels: items that its people work at in their own time and write about. JSON over HTTP, as
 * `openapi.json` describes it; whoever opened an item is told, signed (HTTP Message Signatures, RFC 9421), that something happened to it.
 * A page at `/` is what its people have before them.
 */
export function yard({ token, answerKey, file }: { token: string; answerKey: string; file?: string }): Express {
  const { data, save } = keep<Kept>(file, () => ({ items: {}, answered: {}, journal: [] }));
  const manner = mannered();
  const once = onceOnly(data.answered, save);
  const ways = { hears: 'well' as z.infer<typeof Hears> };
  const app = express();
  app.disable('x-powered-by');
  app.use(express.json({ limit: '100kb' }), express.urlencoded({ extended: false, limit: '100kb' }));
  app.all('/_manner', mannerRoute(manner));
  app.post('/_ways', (req, res) => {
    const wanted = z.object({ hears: Hears }).safeParse(req.body);
    if (!wanted.success) return void res.status(400).json({ error: 'Say {"hears": "well" | "unheard" | "forgetful"}.' });
    res.json(Object.assign(ways, wanted.data));
  });
  app.get('/_journal', (_req, res) => void res.json(data.journal));
  app.get('/_items', (_req, res) => void res.json(Object.values(data.items).map(({ tell: _, ...i }) => i)));
  app.get('/openapi.json', (_req, res) => void res.json(yardApi([...states])));

  // What the people of the yard see and do.
  const item = (req: Request, res: Response): Item | undefined => {
    const found = data.items[String(req.params['item'])];
    if (!found) res.status(404).send(page('Nothing here', '<p>There is no such item.</p>'));
    return found;
  };
  const odd = (res: Response, error: z.ZodError) => void res.status(400).send(page('That cannot be', `<p>${escape(z.prettifyError(error))}</p>`));
  app.get(
    '/',
    (_req, res) => void res.send(page('The yard', Object.values(data.items).reverse().map(asHtml).join('') || '<p>Nobody wants anything.</p>')),
  );
  app.post('/items/:item/comment', (req, res) => {
    const [found, said] = [item(req, res), Said.safeParse(req.body)];
    if (!found) return;
    if (!said.success) return odd(res, said.error);
    comment(found, said.data, undefined);
    void tell(found);
    res.redirect(303, '/');
  });
  app.post('/items/:item/move', (req, res) => {
    const [found, moved] = [item(req, res), Moved.safeParse(req.body)];
    if (!found) return;
    if (!moved.success) return odd(res, moved.error);
    Object.assign(found, moved.data);
    note(moved.data.state, found);
    void tell(found);
    res.redirect(303, '/');
  });

  app.use(
    '/tracker',
    guarded(manner, token, {
      failing: 'The yard is shut for the moment.',
      refusing: 'The yard refuses this.',
      poison: '{"item":"\\u0000","state":{"x":[]},"comments":[{"id":"\\ud800"}]}',
    }),
  );
  app.post('/tracker/items', (req, res) =>
    once(req, res, (key) => {
      const wanted = Wanted.safeParse(req.body);
      if (!wanted.success) return refused(422, wanted.error.issues.map((i) => `${i.path.join('.')}: ${i.message}`).join('; '));
      const made: Item = {
        ...wanted.data,
        item: `Y-${Object.keys(data.items).length + 101}`,
        state: 'new',
        says: 'Waits to be looked at',
        comments: [],
        tell: req.get('nessmoor-answer-to'),
      };
      data.items[made.item] = made;
      note('opened', made, key);
      return { status: 202, body: shown(made) };
    }),
  );
  const found = (req: Request, res: Response, act: (item: Item) => void): void => {
    const it = data.items[String(req.params['item'])];
    if (it) act(it);
    else problem(res, 404, 'There is no such item.');
  };
  app.get('/tracker/items/:item', (req, res) => found(req, res, (it) => void res.status(ended.includes(it.state) ? 200 : 202).json(shown(it))));
  app.post('/tracker/items/:item/call-off', (req, res) =>
    found(req, res, (it) =>
      once(req, res, (key) => {
        if (ended.includes(it.state) && it.state !== 'called off') return refused(409, `It is ${it.state}.`);
        if (it.state !== 'called off') {
          Object.assign(it, { state: 'called off', says: 'Nobody needs it any more' });
          note('called off', it, key);
        }
        return { status: 200, body: shown(it) };
      }),
    ),
  );
  app.get('/tracker/items/:item/comments', (req, res) =>
    found(req, res, (it) => {
      const from = Math.max(0, Number(req.query['from'] ?? 0) || 0);
      const more = it.comments.length > from + pageSize;
      res.json({
        comments: it.comments.slice(from, from + pageSize),
        ...(more && { next: `/items/${it.item}/comments?from=${from + pageSize}` }),
      });
    }),
  );
  app.post('/tracker/items/:item/comments', (req, res) =>
    found(req, res, (it) => {
      const { hears } = ways;
      const take = (key: string | undefined): Answered => {
        const said = Said.safeParse(req.body);
        if (!said.success) return refused(422, said.error.issues.map((i) => `${i.path.join('.')}: ${i.message}`).join('; '));
        if (ended.includes(it.state)) return refused(409, `It is ${it.state}; nobody reads comments on it any more.`);
        return { status: 201, body: comment(it, said.data, key) };
      };
      if (hears === 'well') return once(req, res, take);
      const key = req.get('idempotency-key');
      const known = key === undefined ? undefined : data.answered[key];
      const answer = known ?? take(key);
      if (hears === 'unheard' && key !== undefined && answer.status < 400) data.answered[key] = answer;
      problem(res, 503, 'The line broke.');
    }),
  );

  function comment(it: Item, { text, by }: z.infer<typeof Said>, key: string | undefined) {
    const made = { id: it.comments.length + 1, at: new Date().toISOString(), by, text };
    it.comments.push(made);
    note('commented', it, key, made.id);
    return made;
  }
  /** Whoever opened it is told that something happened to it, until they have heard it. */
  async function tell(it: Item, left = 8): Promise<void> {
    if (it.tell === undefined || (await signedPost(it.tell, shown(it), answerKey, 'yard')) || left === 0) return;
    await pause(1000);
    return tell(it, left - 1);
  }
  const shown = ({ item, title, vessel, reference, state, says }: Item) => ({
    item,
    title,
    vessel,
    ...(reference !== undefined && { reference }),
    state,
    says: ended.includes(state) ? says : says || state,
    ...(state === 'done' && { done: says }),
  });
  function note(change: string, it: Item, key?: string, id?: number): void {
    data.journal.push({ at: new Date().toISOString(), change, item: it.item, ...(id !== undefined && { comment: id }), ...(key && { key }) });
    save();
  }
  return app;
}

/** An item as the people of the yard have it before them. */
const asHtml = (it: Item): string => `<section aria-label="${it.item}"><h2>${it.item}: ${escape(it.title)}</h2>
<p>${escape(it.vessel)}${it.reference === undefined ? '' : ` · ${escape(it.reference)}`} · ${it.state}</p><pre>${escape(it.text)}</pre>
${it.comments.map((c) => `<p><b>${escape(c.by)}</b>, ${c.at.slice(0, 16).replace('T', ' ')}: ${escape(c.text)}</p>`).join('')}
<form method="post" action="/items/${it.item}/comment"><label>Your name <input name="by" required></label> <label>Comment <input name="text" size="50" required></label> <button>Write</button></form>
<form method="post" action="/items/${it.item}/move"><label>State <select name="state">${states.map((s) => `<option${s === it.state ? ' selected' : ''}>${s}</option>`).join('')}</select></label> <label>What is going on, or was done <input name="says" size="40"></label> <button>Keep</button></form></section><hr>`;
