import { BpmnModdle, type ModdleElement } from 'bpmn-moddle';
import { workingMinutes, type Span } from '../calendar/index.ts';
import { conditionFeel, type Condition } from '../conditions/index.ts';
import { branches, withBranches, type Block, type Plan, type Step, type StepOf } from '../plans/index.ts';
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

/** Where a flow leaves from, and under which condition. */
type From = ModdleElement | { node: ModdleElement; when?: string | undefined; name?: string; fallback?: boolean };

function newWriter(sentence: Sentence) {
  const moddle = new BpmnModdle();
  const make = (type: string, attrs: Record<string, unknown> = {}): ModdleElement => moddle.create(type, attrs);
  const roots: ModdleElement[] = [];
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
  function container(scope: ModdleElement, prefix = '') {
    const elements: ModdleElement[] = ((scope as Record<string, unknown>)['flowElements'] ??= []) as ModdleElement[];
    const add = (type: string, attrs: Record<string, unknown> = {}): ModdleElement => {
      const made = make(type, attrs);
      made['$parent'] = scope;
      elements.push(made);
      return made;
    };
    const flow = (from: From, to: ModdleElement): void => {
      const source = 'node' in from && !('$type' in from) ? from.node : (from as ModdleElement);
      const more = 'node' in from && !('$type' in from) ? (from as Exclude<From, ModdleElement>) : undefined;
      const made = add('bpmn:SequenceFlow', { id: `flow_${++flows}`, sourceRef: source, targetRef: to, ...(more?.name && { name: more.name }) });
      if (more?.when) made['conditionExpression'] = expression(more.when);
      if (more?.fallback) source['default'] = made;
      ((source['outgoing'] ??= []) as ModdleElement[]).push(made);
      ((to['incoming'] ??= []) as ModdleElement[]).push(made);
    };
    const merge = (id: string, ends: (From | undefined)[], type = 'bpmn:ExclusiveGateway'): ModdleElement | undefined => {
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
    function block(steps: Block, from: From): From | undefined {
      let at: From | undefined = from;
      for (const step of steps) {
        if (!at) return undefined;
        at = write(step, at);
      }
      return at;
    }

    /** A simple step: one element in the flow. */
    const simple = (type: string, step: Step, from: From, attrs: Record<string, unknown> = {}): ModdleElement => {
      const node = add(type, { ...documented(step), ...attrs });
      flow(from, node);
      return node;
    };
    /** A subprocess whose inside is written by `fill`. */
    const subprocess = (
      step: Step,
      from: From,
      suffix: string,
      attrs: Record<string, unknown>,
      fill: (inside: ReturnType<typeof container>, start: ModdleElement) => void,
    ): ModdleElement => {
      const node = add('bpmn:SubProcess', { ...(suffix ? { id: idOf(step, suffix), name: step.name } : documented(step)), ...attrs });
      flow(from, node);
      const inside = container(node, prefix);
      fill(inside, inside.add('bpmn:StartEvent', { id: idOf(step, `${suffix}_begin`) }));
      return node;
    };
    /** A block that branches stands in a subprocess of its own, so that what is not taken inside is no matter outside. */
    const framed = (step: Step, suffix: string, steps: Block, from: From): From | undefined =>
      steps.every((s) => branches(s).length === 0 && s.kind !== 'finish')
        ? block(steps, from)
        : subprocess(step, from, suffix, {}, (inside, start) => closed(inside, inside.block(steps, start), idOf(step, `${suffix}_end`)));
    const closed = (inside: ReturnType<typeof container>, from: From | undefined, id: string, terminate = false) => {
      if (!from) return;
      const end = inside.add('bpmn:EndEvent', { id });
      if (terminate) end['eventDefinitions'] = [make('bpmn:TerminateEventDefinition', { id: `${id}_now` })];
      inside.flow(from, end);
    };
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

    function write(step: Step, from: From): From | undefined {
      switch (step.kind) {
        case 'task':
        case 'askBack':
          return simple('bpmn:UserTask', step, from);
        case 'provision':
        case 'find':
          return simple('bpmn:ServiceTask', step, from);
        case 'tell':
          return simple('bpmn:SendTask', step, from);
        case 'workOut':
          return simple('bpmn:ScriptTask', step, from, { scriptFormat: feelLanguage, script: step.feel });
        case 'mark':
          return simple('bpmn:IntermediateThrowEvent', step, from);
        case 'part':
          return simple('bpmn:CallActivity', step, from, step.part ? { calledElement: partId(step.part) } : {});
        case 'pause': {
          const until = step.until;
          const definition =
            until && 'date' in until
              ? make('bpmn:TimerEventDefinition', { id: idOf(step, '_at'), timeDate: expression(until.date.ref) })
              : spent(idOf(step, '_for'), until && 'span' in until ? until.span : { length: 'PT0S', counted: 'always' });
          return simple('bpmn:IntermediateCatchEvent', step, from, { eventDefinitions: [definition] });
        }
        case 'finish':
          simple('bpmn:EndEvent', step, from, { eventDefinitions: [make('bpmn:TerminateEventDefinition', { id: idOf(step, '_now') })] });
          return undefined;
        case 'gate':
          return gate(step, from);
        case 'choose':
          return choose(step, from);
        case 'together':
          return together(step, from);
        case 'forEach': {
          const loop = make('bpmn:MultiInstanceLoopCharacteristics', {
            isSequential: step.atOnce === 1,
            loopCardinality: expression(step.list ? `count(${step.list.ref})` : '0'),
          });
          return subprocess(step, from, '', { loopCharacteristics: loop }, (inside, start) =>
            closed(inside, inside.block(step.body, start), idOf(step, '_end')),
          );
        }
        case 'repeat': {
          if (step.deadline) return repeatUntil(step, step.deadline, from);
          const again = add('bpmn:ExclusiveGateway', { id: idOf(step), name: step.name });
          flow(from, again);
          const after = framed(step, '_body', step.body, again);
          if (!after) return undefined;
          const test = add('bpmn:ExclusiveGateway', { id: idOf(step, '_test') });
          flow(after, test);
          if (step.tries !== undefined)
            flow(
              { node: test, when: `steps.${step.id}.tries >= ${step.tries}`, name: 'tried often enough' },
              failing(idOf(step, '_exhausted'), 'Tried often enough'),
            );
          const back: From = { node: test, fallback: true, name: 'again' };
          if (step.pause) {
            const pause = add('bpmn:IntermediateCatchEvent', {
              id: idOf(step, '_pause'),
              eventDefinitions: [spent(idOf(step, '_every'), step.pause)],
            });
            flow(back, pause);
            flow(pause, again);
          } else flow(back, again);
          return { node: test, when: step.until ? conditionFeel(step.until) : 'false' };
        }
        case 'guard': {
          const node = subprocess(step, from, '', {}, (inside, start) => closed(inside, inside.block(step.body, start), idOf(step, '_end')));
          const failed = add('bpmn:BoundaryEvent', {
            id: idOf(step, '_fails'),
            attachedToRef: node,
            eventDefinitions: [make('bpmn:ErrorEventDefinition', { id: idOf(step, '_error'), errorRef: error('failed') })],
          });
          const ends = [node, block(step.remedy, failed)];
          if (step.deadline) {
            const late = add('bpmn:BoundaryEvent', {
              id: idOf(step, '_late'),
              attachedToRef: node,
              eventDefinitions: [spent(idOf(step, '_deadline'), step.deadline)],
            });
            ends.push(block(step.late ?? step.remedy.map(copyOf), late) as ModdleElement);
          }
          return merge(idOf(step, '_join'), ends);
        }
      }
    }

    /** A repeat that has to be over in time stands in a subprocess, which its deadline interrupts. */
    function repeatUntil(step: StepOf<'repeat'>, deadline: Span, from: From): From | undefined {
      let comesOut = false;
      const node = subprocess(step, from, '_in_time', {}, (inside, start) => {
        const { deadline: _, ...unbound } = step;
        const out = inside.block([unbound], start);
        comesOut = out !== undefined;
        closed(inside, out, idOf(step, '_over'));
      });
      const late = add('bpmn:BoundaryEvent', {
        id: idOf(step, '_late'),
        attachedToRef: node,
        eventDefinitions: [spent(idOf(step, '_deadline'), deadline)],
      });
      flow(late, failing(idOf(step, '_too_late'), 'Too late'));
      return comesOut ? node : undefined;
    }

    function gate(step: StepOf<'gate'>, from: From): From | undefined {
      const node = simple('bpmn:UserTask', step, from);
      const ways = add('bpmn:ExclusiveGateway', { id: idOf(step, '_decided'), name: 'Decision' });
      flow(node, ways);
      const way = (outcome: 'declined' | 'lapsed', out: From): From | undefined => {
        if (step[outcome]) return block(step[outcome], out);
        const end = add('bpmn:EndEvent', {
          id: idOf(step, `_${outcome}`),
          name: outcome,
          eventDefinitions: [make('bpmn:TerminateEventDefinition', { id: idOf(step, `_${outcome}_now`) })],
        });
        flow(out, end);
        return undefined;
      };
      const ends = [
        block(step.approved ?? [], { node: ways, fallback: true, name: 'approved' }),
        way('declined', { node: ways, when: `steps.${step.id}.outcome = "declined"`, name: 'declined' }),
      ];
      // Nothing lapses without a deadline; with one, the deadline takes the question away.
      if (step.deadline !== undefined) {
        const late = add('bpmn:BoundaryEvent', {
          id: idOf(step, '_late'),
          name: 'Lapses',
          attachedToRef: node,
          eventDefinitions: [spent(idOf(step, '_deadline'), { length: step.deadline, counted: 'working' })],
        });
        ends.push(way('lapsed', late));
      }
      return merge(idOf(step, '_join'), ends);
    }

    function choose(step: StepOf<'choose'>, from: From): From | undefined {
      const node = simple('bpmn:ExclusiveGateway', step, from);
      const caseOf = (when: Condition | undefined) => (when ? conditionFeel(when) : 'false');
      const ends = step.cases.map((c) => block(c.block, { node, when: caseOf(c.when), name: c.name }));
      ends.push(block(step.otherwise ?? [], { node, fallback: true, name: 'otherwise' }));
      return merge(idOf(step, '_join'), ends);
    }

    function together(step: StepOf<'together'>, from: From): From | undefined {
      if (step.join === 'all') {
        const fork = simple('bpmn:ParallelGateway', step, from);
        return merge(
          idOf(step, '_join'),
          step.branches.map((b) => framed(step, `_${b.id}`, b.block, fork)),
          'bpmn:ParallelGateway',
        );
      }
      // The first branch to end terminates the subprocess, and with it the others.
      return subprocess(step, from, '', {}, (inside, start) => {
        const fork = inside.add('bpmn:ParallelGateway', { id: idOf(step, '_fork') });
        inside.flow(start, fork);
        step.branches.forEach((b) => closed(inside, inside.block(b.block, fork), idOf(step, `_${b.id}_first`), true));
      });
    }

    return { add, flow, block };
  }
  return { moddle, make, container, roots };
}

/** Steps that are drawn a second time get ids of their own, and so do those inside them. */
const copyOf = (step: Step): Step => ({ ...withBranches(step, (b) => b.block.map(copyOf)), id: `${step.id}-again` });

/** A working duration as hours and minutes: a day of work is eight hours of it. */
function workingHours(length: string): string {
  const minutes = workingMinutes(length);
  const [h, m, s] = [Math.floor(minutes / 60), Math.floor(minutes % 60), Math.round((minutes * 60) % 60)];
  return `PT${h ? `${h}H` : ''}${m ? `${m}M` : ''}${s || (!h && !m) ? `${s}S` : ''}`;
}
