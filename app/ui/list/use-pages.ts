import { useEffect, useMemo, useRef, useState } from 'react';
import { useFetcher } from 'react-router';
import { addressOf } from './address';

export interface Page<Row> {
  rows: Row[];
  next: string | undefined;
}

/**
 * The rows of a list as far as they have been read. The next page is fetched from the list's own address, `path` asked what
 * was `said`; where the list is asked something else, or the page before ends elsewhere than it did, what was fetched behind
 * it is forgotten.
 */
export function usePages<Row>(first: Page<Row>, path: string, ...said: string[]) {
  const list = addressOf(path, ...said);
  const { load, data, state } = useFetcher<{ list: Page<Row>; asked: { after: string | undefined } }>();
  const [more, setMore] = useState<{ list: string; from: string; page: Page<Row> }[]>([]);
  const wanted = useRef<{ list: string; from: string }>(undefined);
  const taken = useRef<unknown>(undefined);
  useEffect(() => {
    if (!wanted.current || state !== 'idle' || !data || data === taken.current) return;
    const { list } = wanted.current;
    taken.current = data;
    // The answer says itself where it begins: another may have been asked for meanwhile.
    const from = data.asked.after ?? '';
    if (wanted.current.from === from) wanted.current = undefined;
    setMore((was) => [...was.filter((m) => m.list === list && m.from !== from), { list, from, page: data.list }]);
  }, [data, state]);
  return useMemo(() => {
    const rows = [...first.rows];
    let { next } = first;
    // A page may have been read twice: each is found by where it begins.
    const read = new Map(more.flatMap((m) => (m.list === list ? [[m.from, m.page] as const] : [])));
    for (let page = read.get(next ?? ''); page; page = read.get(next ?? '')) {
      rows.push(...page.rows);
      ({ next } = page);
    }
    return {
      rows,
      next,
      loading: state !== 'idle',
      /** More has been read than the first page. */
      further: rows.length > first.rows.length,
      /** Reads the next page, where there is one that is not being read already. */
      read: () => {
        if (next === undefined || (state !== 'idle' && wanted.current?.from === next)) return;
        wanted.current = { list, from: next };
        void load(`${list}${list.includes('?') ? '&' : '?'}after=${next}`);
      },
    };
  }, [first, more, state, load, list]);
}
