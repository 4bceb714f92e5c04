import type { ModdleElement } from 'bpmn-moddle';
import Elk, { type ElkExtendedEdge, type ElkNode, type ElkPort } from 'elkjs/lib/elk.bundled.js';

type Make = (type: string, attrs?: Record<string, unknown>) => ModdleElement;
interface Point {
  x: number;
  y: number;
}

const inside = (e: ModdleElement) => (e['flowElements'] ?? []) as ModdleElement[];
const isFlow = (e: ModdleElement) => e.$type === 'bpmn:SequenceFlow';
const host = (e: ModdleElement) => e['attachedToRef'] as ModdleElement | undefined;
const id = (e: ModdleElement) => String(e['id']);

/** Sizes as BPMN tools commonly draw them; common practice, no source. */
const sizeOf = (e: ModdleElement): { width: number; height: number } => {
  if (/Event$/.test(e.$type)) return { width: 36, height: 36 };
  return /Gateway$/.test(e.$type) ? { width: 50, height: 50 } : { width: 120, height: 80 };
};

/**
 * The diagrams (BPMN DI, OMG formal/2011-01-03, chapter 12) of processes, a plane each: left to right in layers,
 * subprocesses opened out, boundary events on the lower edge of what they are attached to.
 */
export async function diagramsOf(processes: ModdleElement[], make: Make): Promise<ModdleElement[]> {
  const elk = new Elk();
  return Promise.all(
    processes.map(async (process) => {
      const laid = await elk.layout(nodeOf(process));
      const planeElement: ModdleElement[] = [];
      draw(process, laid, { x: 0, y: 0 }, make, planeElement);
      return make('bpmndi:BPMNDiagram', {
        id: `${id(process)}_diagram`,
        plane: make('bpmndi:BPMNPlane', { id: `${id(process)}_plane`, bpmnElement: process, planeElement }),
      });
    }),
  );
}

function nodeOf(e: ModdleElement): ElkNode {
  const elements = inside(e);
  if (elements.length === 0) return { id: id(e), ...sizeOf(e) };
  const attached = elements.filter((x) => host(x));
  const portsOf = (node: ModdleElement): ElkPort[] =>
    attached
      .filter((x) => host(x) === node)
      .map((x) => ({ id: id(x), ...sizeOf(x), layoutOptions: { 'elk.port.side': 'SOUTH', 'elk.port.borderOffset': '-18' } }));
  return {
    id: id(e),
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.edgeRouting': 'ORTHOGONAL',
      'elk.padding': '[top=32,left=24,bottom=24,right=24]',
      'elk.spacing.nodeNode': '32',
      'elk.layered.spacing.nodeNodeBetweenLayers': '40',
    },
    children: elements
      .filter((x) => !isFlow(x) && !host(x))
      .map((x) => {
        const ports = portsOf(x);
        const node = nodeOf(x);
        return ports.length ? { ...node, ports, layoutOptions: { ...node.layoutOptions, 'elk.portConstraints': 'FIXED_SIDE' } } : node;
      }),
    edges: elements
      .filter(isFlow)
      .map((f) => ({ id: id(f), sources: [id(f['sourceRef'] as ModdleElement)], targets: [id(f['targetRef'] as ModdleElement)] })),
  };
}

/** Writes shapes and edges of what a laid-out node holds; `at` is its place on the plane. */
function draw(e: ModdleElement, laid: ElkNode, at: Point, make: Make, out: ModdleElement[]): void {
  const nodes = new Map((laid.children ?? []).map((n) => [n.id, n]));
  const edges = new Map((laid.edges ?? []).map((x) => [x.id, x]));
  const shape = (x: ModdleElement, p: Point, size: { width?: number; height?: number }) =>
    out.push(
      make('bpmndi:BPMNShape', {
        id: `${id(x)}_di`,
        bpmnElement: x,
        ...(inside(x).length > 0 && { isExpanded: true }),
        ...(/ExclusiveGateway$/.test(x.$type) && { isMarkerVisible: true }),
        bounds: make('dc:Bounds', { ...rounded(p), width: Math.round(size.width ?? 0), height: Math.round(size.height ?? 0) }),
      }),
    );
  for (const x of inside(e)) {
    if (isFlow(x)) {
      out.push(
        make('bpmndi:BPMNEdge', {
          id: `${id(x)}_di`,
          bpmnElement: x,
          waypoint: way(edges.get(id(x))).map((p) => make('dc:Point', rounded({ x: at.x + p.x, y: at.y + p.y }))),
        }),
      );
      continue;
    }
    const on = host(x);
    const node = nodes.get(id(on ?? x));
    if (!node) continue;
    const place = { x: at.x + (node.x ?? 0), y: at.y + (node.y ?? 0) };
    const port = on && node.ports?.find((p) => p.id === id(x));
    if (port) shape(x, { x: place.x + (port.x ?? 0), y: place.y + (port.y ?? 0) }, port);
    else {
      shape(x, place, node);
      draw(x, node, place, make, out);
    }
  }
}

const rounded = ({ x, y }: Point) => ({ x: Math.round(x), y: Math.round(y) });
const way = (edge: ElkExtendedEdge | undefined): Point[] =>
  (edge?.sections ?? []).flatMap((s) => [s.startPoint, ...(s.bendPoints ?? []), s.endPoint]);
