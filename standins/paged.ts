import type { Request } from 'express';

/** So many rows stand on a page. */
const pageSize = 100;

/** A page of what a list has, in the order of its ids: those after the `after` of the query, and by which path it goes on. */
export function paged<T>(req: Request, rows: string, all: T[], idOf: (row: T) => string, shown: (row: T) => object = (row) => row as object): object {
  const after = String(req.query['after'] ?? '');
  const left = all.filter((x) => idOf(x) > after).sort((a, b) => (idOf(a) < idOf(b) ? -1 : 1));
  const page = left.slice(0, pageSize);
  return { [rows]: page.map(shown), ...(left.length > pageSize && { next: `/${rows}?after=${encodeURIComponent(idOf(page.at(-1)!))}` }) };
}
