import express, { type Express, type Request } from 'express';
import { createHash } from 'node:crypto';
import Papa from 'papaparse';
import { z } from 'zod';
import { guarded } from './guarded.ts';
import { keep } from './keep.ts';
import { mannered, mannerRoute } from './manner.ts';
import { escape, page } from './page.ts';

const names = [
  'employment',
  'staffNumber',
  'formerly',
  'given',
  'family',
  'department',
  'jobRole',
  'place',
  'manager',
  'contract',
  'firstDay',
  'lastDay',
] as const;
/** It keeps whatever its clerks write, days that do not exist too: whoever reads it has to bear that. */
const Record = z.object({
  ...(Object.fromEntries(names.map((n) => [n, z.string().max(10_000).default('')])) as { [N in (typeof names)[number]]: z.ZodDefault<z.ZodString> }),
});
const Told = z.object({ from: z.string().max(40), record: Record });
type Change = z.infer<typeof Told> & { number: number; at: string };
interface Kept {
  changes: Change[];
}
const most = 100;
const today = () => new Date().toISOString().slice(0, 10);

/**
 * An office that keeps who works where, and tells each change of it in order: a hundred on a page, after a number, as JSON or as CSV
 * (RFC 4180) by what is asked for (Accept), with an ETag (RFC 9110). What is empty is left out of the JSON.
 */
export function staffOffice({ token, file }: { token: string; file?: string }): Express {
  const { data, save } = keep<Kept>(file, () => ({ changes: [] }));
  const manner = mannered();
  const tell = (change: z.infer<typeof Told>): Change => {
    const made = { number: (data.changes.at(-1)?.number ?? 0) + 1, at: new Date().toISOString(), ...change };
    data.changes.push(made);
    save();
    return made;
  };
  const app = express();
  app.disable('x-powered-by');
  app.set('etag', false);
  app.use(express.json({ limit: '5mb' }), express.urlencoded({ extended: false }));
  app.all('/_manner', mannerRoute(manner));
  app.post('/_change', (req, res) => {
    const told = z.union([Told, z.array(Told)]).safeParse(req.body);
    if (!told.success) return void res.status(400).json({ error: 'Say {"from": "2026-11-26", "record": { … }}, or a list of such.' });
    res.json([told.data].flat().map(tell));
  });
  app.get('/', (_req, res) => void res.type('html').send(office(data.changes)));
  app.post('/', (req, res) => {
    const told = Record.safeParse(req.body);
    if (!told.success) return void res.status(400).type('html').send(page('The staff office', '<p>That cannot be kept.</p>'));
    tell({
      from:
        z
          .string()
          .max(40)
          .catch('')
          .parse((req.body as { from?: unknown }).from) || today(),
      record: told.data,
    });
    res.redirect(303, '/');
  });
  const guard = guarded(manner, token, {
    failing: 'The office is closed.',
    refusing: 'This token may not read the staff.',
    poison: '{"changes":[{"number":"next","from":"0000-00-00","record":"\\u0000"}]}',
  });
  app.get('/staff/changes', guard, (req, res) => {
    const after = Number(
      z
        .string()
        .regex(/^\d{1,16}$/)
        .catch('0')
        .parse(req.query['after']),
    );
    const changes = data.changes.filter((c) => c.number > after).slice(0, most);
    const csv = wantsCsv(req);
    const body = csv
      ? csvOf(changes)
      : JSON.stringify({ changes: changes.map(({ number, from, record }) => ({ number, from, record: said(record) })) });
    const etag = `"${createHash('sha256').update(body).digest('base64url').slice(0, 22)}"`;
    res.set({ etag, vary: 'Accept', 'content-type': csv ? 'text/csv; charset=utf-8; header=present' : 'application/json' });
    if (req.get('if-none-match') === etag) return void res.status(304).end();
    res.send(body);
  });
  return app;
}

const wantsCsv = (req: Request): boolean => req.accepts(['application/json', 'text/csv']) === 'text/csv';
const said = (record: Change['record']) => Object.fromEntries(Object.entries(record).filter(([, words]) => words !== ''));
const csvOf = (changes: Change[]): string =>
  Papa.unparse({ fields: ['number', 'from', ...names], data: changes.map((c) => [c.number, c.from, ...names.map((n) => c.record[n])]) });

/** What was told last, and a form that tells more. */
function office(changes: Change[]): string {
  const rows = changes
    .slice(-50)
    .toReversed()
    .map(({ number, from, record: r }) => [
      number,
      from,
      r.staffNumber,
      `${r.given} ${r.family}`,
      r.department,
      r.jobRole,
      r.place,
      r.firstDay,
      r.lastDay,
    ])
    .map((cells) => `<tr>${cells.map((c) => `<td>${escape(String(c))}</td>`).join('')}</tr>`);
  const field = (name: string) => `<label>${name} <input name="${name}"></label> `;
  return page(
    'The staff office',
    `<form method="post">${['from', ...names].map(field).join('')}<button>Tell this change</button></form>
<table><tr>${['No', 'From', 'Staff number', 'Name', 'Department', 'Job', 'Place', 'First day', 'Last day'].map((h) => `<th>${h}</th>`).join('')}</tr>${rows.join('')}</table>`,
  );
}
