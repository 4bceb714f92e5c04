import { reopens, type StatusMap } from './status-map.ts';

/** A status map as a graph (UML state notation): where it begins and ends are nodes of their own. */
export interface MapGraph {
  nodes: { id: string; is: 'begin' | 'status' | 'end'; width: number; height: number }[];
  edges: { id: string; from: string; to: string; is: 'move' | 'reopens' | 'itself' }[];
}

/** The dot where a ticket begins; no status has such an id. */
export const beginDot = '(begin)';
/** The ring in which it ends; no status has such an id either. */
export const endRing = '(end)';

/**
 * The graph of a status map: a filled dot leads to where a ticket begins, whatever leads nowhere leads to the ring. A way that is a move and is
 * also gone by itself is drawn once. `widthOf` gives a status its width; one that holds the clock has a second line to say so.
 */
export function mapGraph(map: StatusMap, widthOf: (id: string) => number): MapGraph {
  const nodes: MapGraph['nodes'] = [
    { id: beginDot, is: 'begin', width: 12, height: 12 },
    ...map.statuses.map((s) => ({ id: s.id, is: 'status' as const, width: widthOf(s.id), height: s.clock === 'holds' ? 44 : 30 })),
  ];
  const edges: MapGraph['edges'] = [{ id: `${beginDot} ${map.begin}`, from: beginDot, to: map.begin, is: 'move' }];
  const known = new Set<string>();
  const add = (from: string, to: string, is: MapGraph['edges'][number]['is']) => {
    const id = `${from} ${to}`;
    if (known.has(id) || from === to) return;
    known.add(id);
    edges.push({ id, from, to, is });
  };
  for (const m of map.moves) add(m.from, m.to, reopens(map, m.from, m.to) ? 'reopens' : 'move');
  for (const s of map.statuses) {
    if (s.answered !== undefined) add(s.id, s.answered, reopens(map, s.id, s.answered) ? 'reopens' : 'itself');
    if (s.passes) add(s.id, s.passes.to, 'itself');
  }
  const leaving = new Set(edges.map((e) => e.from));
  const ends = map.statuses.filter((s) => s.clock === 'ends' && !leaving.has(s.id));
  if (ends.length > 0) {
    nodes.push({ id: endRing, is: 'end', width: 14, height: 14 });
    for (const s of ends) edges.push({ id: `${s.id} ${endRing}`, from: s.id, to: endRing, is: 'move' });
  }
  return { nodes, edges };
}
