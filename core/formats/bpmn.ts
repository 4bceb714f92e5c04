import { BpmnModdle, type ModdleElement } from 'bpmn-moddle';
import { workingMinutes, type Span } from '../calendar/index.ts';
import { branches, flowOf, withBranches, type Plan } from '../plans/index.ts';
import { roomOf, type Block, type BpmnFrom, type BpmnWriter, type Step } from '../steps/index.ts';
import { diagramsOf } from './bpmn-diagram.ts';

/** The identifier of FEEL as an expression language (OMG DMN 1.3). */
export const feelLanguage = 'https://www.omg.org/spec/DMN/20191111/FEEL/';

/** Gives the sentence that documents a step. */
type Sentence = (step: Step) => string;

/**
 * A plan as BPMN 2.0 (OMG formal/2011-01-03; ISO/IEC 19510), with its diagram. Nothing of ours is added to the
 * standard: what BPMN has no element for (approval rules, working time) stands in the documentation of the step.
 */
export async function bpmnOf(plan: Plan, name: string, sentence: Sentence = () => ''): Promise<string> {
  const writer = newWriter(sentence);
  const process = writer.make('bpmn:Process', { id: 'plan', name, isExecutable: true });
  const inside = writer.container(process);
  const start = inside.add('bpmn:StartEvent', { id: 'asked', name: 'Asked' });
  const end = inside.block(plan.steps, start);
  if (end) inside.flow(end, inside.add('bpmn:EndEvent', { id: 'fulfilled', name: 'Fulfilled' }));
  const parts = Object.entries(plan.parts ?? {}).map(([id, part]) => {
    const called = writer.make('bpmn:Process', { id: partId(id), name: part.name, isExecutable: true });
    const within = writer.container(called, `${partId(id)}_`);
    const from = within.add('bpmn:StartEvent', { id: `${partId(id)}_begin` });
    const last = within.block(part.steps, from);
    if (last) within.flow(last, within.add('bpmn:EndEvent', { id: `${partId(id)}_end` }));
    return called;
  });
  const definitions = writer.make('bpmn:Definitions', {
    id: 'definitions',
    targetNamespace: 'urn:nessmoor:plan',
    expressionLanguage: feelLanguage,
    rootElements: [process, ...parts, ...writer.roots],
  });
  definitions['diagrams'] = await diagramsOf([process, ...parts], writer.make);
  return (await writer.moddle.toXML(definitions, { format: true })).xml;
}

const partId = (id: string) => `part_${id.replace(/[^A-Za-z0-9_]/g, '_')}`;

function newWriter(sentence: Sentence) {
  const moddle = new BpmnModdle();
  const make = (type: string, attrs: Record<string, unknown> = {}): ModdleElement => moddle.create(type, attrs);
  const roots: ModdleElement[] = [];
  /** Blocks drawn a second time so far. */
  let copies = 0;
  const errors = new Map<string, ModdleElement>();
  let flows = 0;

  const error = (code: string): ModdleElement => {
    let known = errors.get(code);
    if (!known) {
      known = make('bpmn:Error', { id: `error_${code}`, name: code, errorCode: code });
      errors.set(code, known);
      roots.push(known);
    }
    return known;
  };
  const expression = (body: string) => make('bpmn:FormalExpression', { language: feelLanguage, body });

  /** Writes into a process or subprocess. */
  function container(scope: ModdleElement, prefix = ''): BpmnWriter {
    const elements: ModdleElement[] = ((scope as Record<string, unknown>)['flowElements'] ??= []) as ModdleElement[];
    const add = (type: string, attrs: Record<string, unknown> = {}): ModdleElement => {
      const made = make(type, attrs);
      made['$parent'] = scope;
      elements.push(made);
      return made;
    };
    const flow = (from: BpmnFrom, to: ModdleElement): void => {
      const source = 'node' in from && !('$type' in from) ? from.node : (from as ModdleElement);
      const more = 'node' in from && !('$type' in from) ? (from as Exclude<BpmnFrom, ModdleElement>) : undefined;
      const made = add('bpmn:SequenceFlow', { id: `flow_${++flows}`, sourceRef: source, targetRef: to, ...(more?.name && { name: more.name }) });
      if (more?.when) made['conditionExpression'] = expression(more.when);
      if (more?.fallback) source['default'] = made;
      ((source['outgoing'] ??= []) as ModdleElement[]).push(made);
      ((to['incoming'] ??= []) as ModdleElement[]).push(made);
    };
    const merge = (id: string, ends: (BpmnFrom | undefined)[], type = 'bpmn:ExclusiveGateway'): ModdleElement | undefined => {
      const reached = ends.filter((e) => e !== undefined);
      if (reached.length === 0) return undefined;
      const node = add(type, { id });
      reached.forEach((e) => flow(e, node));
      return node;
    };
    // No step's own id has a hyphen, so what is added to one never meets another.
    const idOf = (step: Step, suffix = '') => `${prefix}s_${step.id}${suffix.replace(/^_/, '-')}`;
    const documented = (step: Step): Record<string, unknown> => {
      const text = sentence(step);
      return { id: idOf(step), name: step.name, ...(text && { documentation: [make('bpmn:Documentation', { text })] }) };
    };

    /** Gives where the flow goes on from; undefined when it never comes out. */
    function block(steps: Block, from: BpmnFrom): BpmnFrom | undefined {
      let at: BpmnFrom | undefined = from;
      for (const step of steps) {
        if (!at) return undefined;
        at = roomOf(step).bpmn(step, at, writer);
      }
      return at;
    }

    /** A simple step: one element in the flow. */
    const simple = (type: string, step: Step, from: BpmnFrom, attrs: Record<string, unknown> = {}): ModdleElement => {
      const node = add(type, { ...documented(step), ...attrs });
      flow(from, node);
      return node;
    };
    /** A subprocess whose inside is written by `fill`. */
    const subprocess = (
      step: Step,
      from: BpmnFrom,
      suffix: string,
      attrs: Record<string, unknown>,
      fill: (inside: BpmnWriter, start: ModdleElement) => void,
    ): ModdleElement => {
      const node = add('bpmn:SubProcess', { ...(suffix ? { id: idOf(step, suffix), name: step.name } : documented(step)), ...attrs });
      flow(from, node);
      const inside = container(node, prefix);
      fill(inside, inside.add('bpmn:StartEvent', { id: idOf(step, `${suffix}_begin`) }));
      return node;
    };
    /** A subprocess that begins by itself when a condition becomes true, and ends what it stands in. */
    const onEvent: BpmnWriter['onEvent'] = (step, suffix, name, when, fill) => {
      const node = add('bpmn:SubProcess', { id: idOf(step, suffix), name, triggeredByEvent: true });
      const inside = container(node, prefix);
      const definition = make('bpmn:ConditionalEventDefinition', { id: idOf(step, `${suffix}_when`), condition: expression(when) });
      fill(inside, inside.add('bpmn:StartEvent', { id: idOf(step, `${suffix}_begin`), eventDefinitions: [definition] }));
    };
    /** A block that branches stands in a subprocess of its own, so that what is not taken inside is no matter outside. */
    const framed = (step: Step, suffix: string, steps: Block, from: BpmnFrom): BpmnFrom | undefined =>
      steps.every((s) => branches(s).length === 0 && flowOf(s).is !== 'ends')
        ? block(steps, from)
        : subprocess(step, from, suffix, {}, (inside, start) => inside.closed(inside.block(steps, start), idOf(step, `${suffix}_end`)));
    const closed = (from: BpmnFrom | undefined, id: string, terminate = false) => {
      if (!from) return;
      const end = add('bpmn:EndEvent', { id });
      if (terminate) end['eventDefinitions'] = [make('bpmn:TerminateEventDefinition', { id: `${id}_now` })];
      flow(from, end);
    };
    const terminating = (id: string, name: string) =>
      add('bpmn:EndEvent', { id, name, eventDefinitions: [make('bpmn:TerminateEventDefinition', { id: `${id}_now` })] });
    const timer = (id: string, length: string) =>
      make('bpmn:TimerEventDefinition', { id, timeDuration: make('bpmn:FormalExpression', { body: length }) });
    /**
     * What a span of time waits for. Time round the clock is a timer. BPMN has no working time, so a span of it is a condition
     * on the working time that has passed since the event was armed, which whoever runs the file has to supply.
     */
    const spent = (id: string, { length, counted }: Span) =>
      counted === 'always'
        ? timer(id, length)
        : make('bpmn:ConditionalEventDefinition', { id, condition: expression(`working time passed >= duration("${workingHours(length)}")`) });
    /** An end that fails: a guard around it takes it, else the process ends with the error. */
    const failing = (id: string, name: string) =>
      add('bpmn:EndEvent', { id, name, eventDefinitions: [make('bpmn:ErrorEventDefinition', { id: `${id}_error`, errorRef: error('failed') })] });

    const writer: BpmnWriter = {
      make,
      add,
      flow,
      merge,
      idOf,
      block,
      simple,
      subprocess,
      onEvent,
      framed,
      closed,
      expression,
      error,
      spent,
      failing,
      terminating,
      copyOf: (steps) => {
        const nth = ++copies;
        return steps.map((step) => copied(step, nth));
      },
      partId,
      feelLanguage,
    };
    return writer;
  }
  return { moddle, make, container, roots };
}

/** Steps that are drawn a second time get ids of their own, and so do those inside them; a copy within a copy, too. */
const copied = (step: Step, nth: number): Step => ({
  ...withBranches(step, (b) => b.block.map((inner) => copied(inner, nth))),
  id: `${step.id}-again${nth}`,
});

/** A working duration as hours and minutes: a day of work is eight hours of it. */
function workingHours(length: string): string {
  const minutes = workingMinutes(length);
  const [h, m, s] = [Math.floor(minutes / 60), Math.floor(minutes % 60), Math.round((minutes * 60) % 60)];
  return `PT${h ? `${h}H` : ''}${m ? `${m}M` : ''}${s || (!h && !m) ? `${s}S` : ''}`;
}
