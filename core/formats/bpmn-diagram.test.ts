import { BpmnModdle, type ModdleElement } from 'bpmn-moddle';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyPlan } from '../testing/any-plan.ts';
import { gate, joinGroup, step } from '../testing/samples.ts';
import type { Plan } from '../plans/index.ts';
import { bpmnOf } from './index.ts';

interface Bounds {
  x: number;
  y: number;
  width: number;
  height: number;
}
const list = (e: ModdleElement, name: string) => (e[name] ?? []) as ModdleElement[];
const one = (e: ModdleElement, name: string) => e[name] as ModdleElement;

/** The elements of a plan's file with what is drawn for them, as bpmn-moddle reads it. */
async function drawn(plan: Plan) {
  const { rootElement, warnings } = await new BpmnModdle().fromXML(await bpmnOf(plan, 'Generated'));
  expect(warnings).toEqual([]);
  const processes = list(rootElement, 'rootElements').filter((e) => e.$type === 'bpmn:Process');
  const di = new Map<unknown, ModdleElement>();
  for (const d of list(rootElement, 'diagrams')) for (const e of list(one(d, 'plane'), 'planeElement')) di.set(e['bpmnElement'], e);
  return { processes, di, planes: list(rootElement, 'diagrams').map((d) => one(one(d, 'plane'), 'bpmnElement')) };
}
const boundsOf = (di: Map<unknown, ModdleElement>, e: ModdleElement) => di.get(e)?.['bounds'] as Bounds | undefined;
const within = (a: Bounds, b: Bounds) => a.x >= b.x && a.y >= b.y && a.x + a.width <= b.x + b.width && a.y + a.height <= b.y + b.height;
const apart = (a: Bounds, b: Bounds) => a.x + a.width <= b.x || b.x + b.width <= a.x || a.y + a.height <= b.y || b.y + b.height <= a.y;
const touches = (p: { x: number; y: number }, b: Bounds) => p.x >= b.x - 2 && p.x <= b.x + b.width + 2 && p.y >= b.y - 2 && p.y <= b.y + b.height + 2;

function check(container: ModdleElement, di: Map<unknown, ModdleElement>): void {
  const outer = boundsOf(di, container);
  const elements = list(container, 'flowElements');
  const nodes = elements.filter((e) => e.$type !== 'bpmn:SequenceFlow');
  for (const e of nodes) {
    const own = boundsOf(di, e);
    if (!own) throw new Error(`${String(e['id'])} is not drawn.`);
    const host = e['attachedToRef'] as ModdleElement | undefined;
    if (host) expect(apart(own, boundsOf(di, host)!)).toBe(false);
    else if (outer) expect(within(own, outer)).toBe(true);
    check(e, di);
  }
  const free = nodes.filter((e) => !e['attachedToRef']).map((e) => boundsOf(di, e)!);
  free.forEach((a, i) => free.slice(i + 1).forEach((b) => expect(apart(a, b)).toBe(true)));
  for (const flow of elements.filter((e) => e.$type === 'bpmn:SequenceFlow')) {
    const way = list(di.get(flow)!, 'waypoint') as unknown as { x: number; y: number }[];
    expect(way.length).toBeGreaterThanOrEqual(2);
    expect(touches(way[0]!, boundsOf(di, one(flow, 'sourceRef'))!)).toBe(true);
    expect(touches(way.at(-1)!, boundsOf(di, one(flow, 'targetRef'))!)).toBe(true);
  }
}

describe('the diagram of a plan', () => {
  it('draws every element once: apart from its neighbours, inside what holds it, flows from border to border', async () => {
    await fc.assert(
      fc.asyncProperty(anyPlan, async (plan) => {
        const { processes, di } = await drawn(plan);
        for (const p of processes) check(p, di);
      }),
      { numRuns: 60 },
    );
  });

  it('goes from left to right', async () => {
    const { processes, di } = await drawn(joinGroup);
    const [asked, owners, add] = ['asked', 's_owners', 's_add'].map((id) =>
      boundsOf(
        di,
        list(processes[0]!, 'flowElements').find((e) => e['id'] === id)!,
      )!,
    );
    expect(asked!.x).toBeLessThan(owners!.x);
    expect(owners!.x + owners!.width).toBeLessThan(add!.x);
  });

  it('has a plane for the plan and one for each part', async () => {
    const parts = { p: { name: 'P', inputs: [], outputs: [], steps: [gate()] } };
    const { planes, processes } = await drawn({ steps: [step('part', 'use', { part: 'p', inputs: {} })], parts });
    expect(processes).toHaveLength(2);
    expect(planes).toEqual(processes);
  });

  it('of a plan without steps is a beginning and an end', async () => {
    const { processes, di } = await drawn({ steps: [] });
    expect(list(processes[0]!, 'flowElements').map((e) => e.$type)).toEqual(['bpmn:StartEvent', 'bpmn:EndEvent', 'bpmn:SequenceFlow']);
    check(processes[0]!, di);
  });
});
