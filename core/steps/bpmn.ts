import type { ModdleElement } from 'bpmn-moddle';
import type { Span } from '../calendar/index.ts';
import type { Block, Step } from './step.ts';

/** An element of a BPMN document. */
export type BpmnElement = ModdleElement;
/** Where a flow leaves from, and under which condition. */
export type BpmnFrom = BpmnElement | { node: BpmnElement; when?: string | undefined; name?: string; fallback?: boolean };
type Attributes = Record<string, unknown>;

/** What rooms write BPMN 2.0 with; it stands in one process or subprocess. */
export interface BpmnWriter {
  make: (type: string, attrs?: Attributes) => BpmnElement;
  /** An element of this process. */
  add: (type: string, attrs?: Attributes) => BpmnElement;
  flow: (from: BpmnFrom, to: BpmnElement) => void;
  /** Where several ways meet; undefined where none comes out. */
  merge: (id: string, ends: (BpmnFrom | undefined)[], type?: string) => BpmnElement | undefined;
  idOf: (step: Step, suffix?: string) => string;
  block: (steps: Block, from: BpmnFrom) => BpmnFrom | undefined;
  /** A step that is one element in the flow. */
  simple: (type: string, step: Step, from: BpmnFrom, attrs?: Attributes) => BpmnElement;
  /** A subprocess whose inside is written by `fill`. */
  subprocess: (step: Step, from: BpmnFrom, suffix: string, attrs: Attributes, fill: (inside: BpmnWriter, start: BpmnElement) => void) => BpmnElement;
  /** A subprocess that begins by itself, from anywhere, when this becomes true (FEEL). */
  onEvent: (step: Step, suffix: string, name: string, when: string, fill: (inside: BpmnWriter, start: BpmnElement) => void) => void;
  /** A block that branches stands in a subprocess of its own, so that what is not taken inside is no matter outside. */
  framed: (step: Step, suffix: string, steps: Block, from: BpmnFrom) => BpmnFrom | undefined;
  /** Ends this process where `from` comes out; with `terminate`, everything in it. */
  closed: (from: BpmnFrom | undefined, id: string, terminate?: boolean) => void;
  expression: (feel: string) => BpmnElement;
  error: (code: string) => BpmnElement;
  /** What a span of time waits for: a timer, or a condition on the working time that has passed. */
  spent: (id: string, span: Span) => BpmnElement;
  /** An end that fails: a guard around it takes it, else the process ends with the error. */
  failing: (id: string, name: string) => BpmnElement;
  /** An end of the whole request. */
  terminating: (id: string, name: string) => BpmnElement;
  /** Steps that are drawn a second time get ids of their own, and so do those inside them. */
  copyOf: (steps: Block) => Block;
  partId: (part: string) => string;
  feelLanguage: string;
}
