import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { mostEdits, type TableDefinition } from '../../../core/tables/index.ts';
import { begin, moved, pending, reread, settled, type GridState, type Pending, type Read } from './model';

interface Answer {
  ok: boolean;
  sentence?: string;
  rows?: (Read & { id: string })[];
  refused?: { id: string; problems: { column: string; sentence: string }[] }[];
  stamp?: string;
}

/** How a grid stands with the server. */
export type Standing = { is: 'reading' | 'kept' | 'keeping' } | { is: 'unreachable' | 'refused'; sentence: string };

/** The rows of a table, read whole, and what is typed into them, kept as it is typed; one thing at a time is told to the server. */
export function useGrid(address: string, definition: TableDefinition, stamp: string, take: 'rest' | 'all') {
  const [state, setState] = useState<GridState>();
  /** How often the rows were read: what narrows and orders them is to be applied to each reading. */
  const [readings, setReadings] = useState(0);
  const [standing, setStanding] = useState<Standing>({ is: 'reading' });
  /** Something is on its way to the server. */
  const busy = useRef(false);
  const known = useRef<string>(undefined);
  const { columns } = definition;
  /** What the server is to be told next; nothing where all is kept, or waits for a cell to be put right. */
  const next = useMemo(() => {
    if (!state) return undefined;
    const [move] = state.moves;
    if (move) return { move };
    if (take === 'all' && [...state.lines.values()].some((l) => Object.keys(l.wrong).length > 0)) return undefined;
    const wanted = columns.flatMap((c, at) => (c.required || definition.key.includes(c.id) ? [at] : []));
    const sent = pending(state, (texts) => wanted.every((at) => texts[at] !== ''), take === 'all' ? mostEdits : 500);
    return sent.length > 0 ? { sent } : undefined;
  }, [state, take, columns, definition.key]);

  const read = useCallback(async () => {
    const answer = await ask<{ rows: Read[]; stamp: string }>(address);
    if (!answer) return setStanding({ is: 'unreachable', sentence: 'The rows could not be read: the server does not answer.' });
    known.current = answer.stamp;
    setState((s) => (s ? reread(s, answer.rows) : begin(answer.rows, columns.length)));
    setReadings((n) => n + 1);
    setStanding({ is: 'kept' });
  }, [address, columns.length]);
  // Read at first, and again where something was changed beside this grid.
  useEffect(() => {
    if (known.current !== stamp) void read();
  }, [stamp, read]);

  useEffect(() => {
    if (!state || !next || busy.current) return;
    const { move, sent = [] } = next;
    // Typing may go on: what is typed within a moment goes together.
    const wait = setTimeout(() => {
      busy.current = true;
      setStanding({ is: 'keeping' });
      void (move ? tellMove(address, state, move) : tellCells(address, columns, sent, take)).then((answer) => {
        busy.current = false;
        if (!answer) {
          setStanding({
            is: 'unreachable',
            sentence: 'What was typed is not kept: the server does not answer. It is tried again; keep this page open.',
          });
          setTimeout(() => setState((s) => s && { ...s }), 3000);
          return;
        }
        if (answer.stamp) known.current = answer.stamp;
        if (!answer.ok) {
          setStanding({ is: 'refused', sentence: answer.sentence ?? 'It was refused.' });
          if (move) setState((s) => s && moved(s, []));
          return void read();
        }
        setStanding({ is: 'kept' });
        if (move) return setState((s) => s && moved(s, move.ids));
        const refused = (answer.refused ?? []).map((r) => ({
          id: r.id,
          problems: r.problems.map((p) => ({ col: columns.findIndex((c) => c.id === p.column), sentence: p.sentence })),
        }));
        setState((s) => s && settled(s, sent, answer.rows ?? [], refused));
        if (refused.some((r) => r.problems.some((p) => p.sentence.startsWith('Somebody else')))) void read();
      });
    }, 150);
    return () => clearTimeout(wait);
  }, [state, next, take, address, columns, read]);

  const change = useCallback((to: (s: GridState) => GridState) => setState((s) => s && to(s)), []);
  // What was typed a moment ago is not kept before it is told.
  return { state, standing: standing.is === 'kept' && next ? ({ is: 'keeping' } as const) : standing, change, readings };
}

async function ask<T>(address: string, body?: object): Promise<T | undefined> {
  try {
    const response = await fetch(address, body && { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
    return (await response.json()) as T;
  } catch {
    return undefined;
  }
}

const tellCells = (address: string, columns: TableDefinition['columns'], sent: Pending[], take: 'rest' | 'all') =>
  ask<Answer>(address, {
    take,
    edits: sent.map(({ texts, ...rest }) => ({
      ...rest,
      texts: Object.fromEntries(Object.entries(texts).map(([col, text]) => [columns[Number(col)]!.id, text])),
    })),
  });

function tellMove(address: string, state: GridState, move: GridState['moves'][number]) {
  const lines = [...state.lines.values(), ...[...state.done, ...state.undone].flatMap((a) => a.removed)];
  const keys = move.ids.flatMap((id) => lines.find((l) => l.id === id && l.kept)?.kept?.key ?? []);
  return ask<Answer>(address, move.off ? { off: keys } : { back: keys });
}
