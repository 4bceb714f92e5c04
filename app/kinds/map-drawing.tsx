import { clsx } from 'clsx';
import type { ElkExtendedEdge, ElkNode } from 'elkjs/lib/elk.bundled.js';
import { useEffect, useState } from 'react';
import { mapGraph, statusOf, type MapGraph, type StatusMap } from '../../core/statuses/index.ts';

interface Point {
  x: number;
  y: number;
}
interface Laid {
  width: number;
  height: number;
  nodes: (MapGraph['nodes'][number] & Point)[];
  edges: (MapGraph['edges'][number] & { points: Point[] })[];
}

/** Some seven pixels a letter; what is drawn is never narrower than its name. */
const widthOf = (map: StatusMap, id: string): number => {
  const status = statusOf(map, id);
  return Math.max(26 + 7 * (status?.name.length ?? 4), status?.clock === 'holds' ? 84 : 0);
};

/** Lays the graph out from top to bottom (Eclipse Layout Kernel, layered). */
async function layOut(graph: MapGraph): Promise<Laid> {
  const { default: Elk } = await import('elkjs/lib/elk.bundled.js');
  const asked: ElkNode = {
    id: 'map',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'DOWN',
      'elk.layered.spacing.nodeNodeBetweenLayers': '38',
      'elk.spacing.nodeNode': '28',
      'elk.spacing.edgeNode': '14',
      'elk.spacing.edgeEdge': '10',
      'elk.edgeRouting': 'SPLINES',
      'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
    },
    children: graph.nodes.map(({ id, width, height }) => ({ id, width, height })),
    edges: graph.edges.map((e): ElkExtendedEdge => ({ id: e.id, sources: [e.from], targets: [e.to] })),
  };
  const laid: ElkNode = await new Elk().layout(asked);
  const at = new Map((laid.children ?? []).map((c) => [c.id, { x: c.x ?? 0, y: c.y ?? 0 }]));
  const ways = new Map((laid.edges ?? []).map((e) => [e.id, (e.sections ?? []).flatMap((s) => [s.startPoint, ...(s.bendPoints ?? []), s.endPoint])]));
  return {
    width: laid.width ?? 0,
    height: laid.height ?? 0,
    nodes: graph.nodes.map((n) => ({ ...n, ...(at.get(n.id) ?? { x: 0, y: 0 }) })),
    edges: graph.edges.map((e) => ({ ...e, points: ways.get(e.id) ?? [] })),
  };
}

/** A spline as the layout gives it: its points are those of cubic curves, one after another. */
function path(points: Point[]): string {
  const [first, ...rest] = points;
  if (!first) return '';
  const p = ({ x, y }: Point) => `${x.toFixed(1)} ${y.toFixed(1)}`;
  let d = `M${p(first)}`;
  for (let i = 0; i < rest.length;) {
    const three = rest.slice(i, i + 3);
    d += three.length === 3 ? ` C${three.map(p).join(', ')}` : three.map((x) => ` L${p(x)}`).join('');
    i += three.length;
  }
  return d;
}

/** The map drawn from the grid: it follows at once, laid out by itself. */
export function MapDrawing({ map, chosen }: { map: StatusMap; chosen: { from: string; to: string } | undefined }) {
  const [laid, setLaid] = useState<{ of: StatusMap; drawing: Laid }>();
  useEffect(() => {
    let over = false;
    layOut(mapGraph(map, (id) => widthOf(map, id))).then((drawing) => {
      if (!over) setLaid({ of: map, drawing });
    }, reportError);
    return () => {
      over = true;
    };
  }, [map]);
  if (!laid) return <p className="text-sm text-faint">Drawing …</p>;
  const { drawing, of } = laid;
  return (
    <svg
      role="img"
      aria-label={`Drawn from the grid: ${of.statuses.map((s) => s.name).join(', ')}`}
      viewBox={`-6 -4 ${drawing.width + 12} ${drawing.height + 8}`}
      className="mx-auto max-h-[70vh] w-full"
      style={{ maxWidth: drawing.width + 12 }}
    >
      <defs>
        {(['ink', 'ochre', 'sea'] as const).map((c) => (
          <marker key={c} id={`arrow-${c}`} viewBox="0 0 8 8" refX="7" refY="4" markerWidth="8" markerHeight="8" orient="auto">
            <path d="M0 1 7 4 0 7z" className={{ ink: 'fill-ink', ochre: 'fill-ochre', sea: 'fill-sea' }[c]} />
          </marker>
        ))}
      </defs>
      {drawing.edges.map((e) => {
        const isChosen = chosen?.from === e.from && chosen.to === e.to;
        const tone = isChosen ? 'sea' : e.is === 'reopens' ? 'ochre' : 'ink';
        return (
          <path
            key={e.id}
            d={path(e.points)}
            fill="none"
            markerEnd={`url(#arrow-${tone})`}
            strokeWidth={isChosen ? 2.2 : 1.2}
            strokeDasharray={e.is === 'move' ? undefined : e.is === 'reopens' ? '4 3' : '1 3'}
            className={{ ink: 'stroke-ink', ochre: 'stroke-ochre', sea: 'stroke-sea' }[tone]}
          />
        );
      })}
      {drawing.nodes.map((n) => {
        if (n.is === 'begin') return <circle key={n.id} cx={n.x + 6} cy={n.y + 6} r="6" className="fill-ink" />;
        if (n.is === 'end')
          return (
            <g key={n.id}>
              <circle cx={n.x + 7} cy={n.y + 7} r="6.5" fill="none" className="stroke-ink" />
              <circle cx={n.x + 7} cy={n.y + 7} r="4" className="fill-ink" />
            </g>
          );
        const status = statusOf(of, n.id)!;
        const holds = status.clock === 'holds';
        return (
          <g key={n.id}>
            <rect
              x={n.x}
              y={n.y}
              width={n.width}
              height={n.height}
              rx="11"
              className={clsx(holds ? 'fill-ochre-wash stroke-ochre' : 'fill-sheet stroke-ink')}
            />
            <text x={n.x + n.width / 2} y={n.y + 19.5} textAnchor="middle" className="fill-ink text-sm">
              {status.name}
            </text>
            {holds && (
              <text x={n.x + n.width / 2} y={n.y + 34} textAnchor="middle" className="fill-faint text-xs">
                clock held
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}
